import type { PersonOfLine } from '@idrel/contract/exchange';
import type { Tx } from '../platform/database.ts';
import { type GivenLine, type LineSaid, lineByLine } from '../platform/lines.ts';
import { invalid } from '../platform/problems.ts';
import { addPerson, changePerson, getPerson } from './manage.ts';
import type { Who } from './who.ts';

/** Takes people line by line: one whose e-mail address is known is changed, in what the line speaks of; else they are added, without a role. */
export function takePersonLines(tx: Tx, who: Who, lines: readonly GivenLine<PersonOfLine>[]): Promise<LineSaid[]> {
  return lineByLine(tx, lines, async ({ email, name, job, groups }) => {
    who.mustEverywhere('administrator');
    const known = await tx.one<{ id: string }>('select id from person where lower(email) = lower($1)', [email]);
    const groupIds = groups && (await groupsCalled(tx, groups));
    if (!known) {
      if (name === undefined) throw invalid(`Nobody has the address ${email} yet.`, 'Give the name as well.');
      const made = await addPerson(tx, who, { email, name, job: job ?? '', groupIds: groupIds ?? [], grants: [] });
      return { outcome: 'made', id: made.id };
    }
    const before = await getPerson(tx, who, known.id);
    const after = await changePerson(tx, who, known.id, before.version, {
      email: before.email ?? email,
      name: name ?? before.name,
      job: job ?? before.job,
      groupIds: groupIds ?? before.groups.map(({ id }) => id),
      grants: before.grants.map(({ role, domainId }) => ({ role, domainId })),
    });
    return { outcome: after.version === before.version ? 'same' : 'changed', id: known.id };
  });
}

async function groupsCalled(tx: Tx, names: readonly string[]): Promise<string[]> {
  const rows = await tx.rows<{ id: string; name: string }>(
    'select id, lower(name) as name from person_group where lower(name) = any($1::text[]) and partner_id is null',
    [names.map((name) => name.toLowerCase())],
  );
  const ids = new Map(rows.map(({ id, name }) => [name, id]));
  return names.map((name) => {
    const id = ids.get(name.toLowerCase());
    if (!id) throw invalid(`There is no group “${name}”.`, 'Make it under Settings → People first.');
    return id;
  });
}
