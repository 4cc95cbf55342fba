/** SQL of who somebody is where assets name who answers for them: themselves, and the groups they are in. @param person SQL of their id */
export const partiesOf = (person: string): string =>
  `select ${person}::uuid union all select m.group_id from group_member m where m.person_id = ${person}::uuid`;
