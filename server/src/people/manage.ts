import type {
  AttributeOfPeople,
  GroupAnswer,
  GroupBody,
  Holding,
  PersonAnswer,
  PersonBody,
} from '@idrel/contract/people';
import { change, create, type Kept, remove } from '../journal/index.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem, conflict, invalid, notFound } from '../platform/problems.ts';
import type { Held } from './holdings.ts';
import { GROUP, type GroupRow, PERSON, type PersonRow } from './models.ts';
import { endSessions } from './sessions.ts';
import type { Who } from './who.ts';

const PEOPLE: Kept<PersonRow, PersonAnswer> = {
  thing: 'person',
  model: PERSON,
  async read(db, who, id) {
    const person = await db.one<PersonAnswer>(
      `
        select
          p.id, p.name, p.job, p.email, p.left_at as "leftAt", p.version,
          (select q.name from partner q where q.id = p.partner_id) as partner,
          coalesce(
            (
              select json_agg(json_build_object('id', g.id, 'name', g.name) order by g.name)
              from group_member m
              join person_group g on g.id = m.group_id
              where m.person_id = p.id
            ),
            '[]'
          ) as groups,
          coalesce(
            (
              select json_agg(
                json_build_object('role', r.role, 'domainId', r.domain_id, 'domain', d.name) order by d.name nulls first, r.role
              )
              from role_grant r
              left join domain d on d.id = r.domain_id
              where r.person_id = p.id
            ),
            '[]'
          ) as grants,
          coalesce(
            (
              select json_agg(json_build_object('key', x.key, 'values', x.values) order by x.key)
              from (
                select key, json_agg(value order by value) as values
                from person_attribute
                where person_id = p.id
                group by key
              ) x
            ),
            '[]'
          ) as attributes,
          json_build_object(
            'password', p.password_hash is not null,
            'outside', exists (select from outside_identity o where o.person_id = p.id)
          ) as "signsIn"
        from person p
        where p.id = $1`,
      [id],
    );
    if (!person) throw notFound('The person');
    return who.id === id || who.isEverywhere('administrator')
      ? person
      : { ...person, email: null, attributes: null, signsIn: null };
  },
  told: (_db, { name, email, job, groups, grants, attributes, leftAt }) => ({
    name,
    email,
    job,
    groups: groups.map((group) => group.name),
    roles: grants.map(({ role, domain }) => `${role} ${domain ? `in ${domain}` : 'everywhere'}`),
    attributes: (attributes ?? []).map(({ key, values }) => `${key}: ${values.join(', ')}`),
    left: leftAt === null ? null : 'yes',
  }),
  may(_db, who, { partner }) {
    who.mustEverywhere('administrator');
    mustBeOurs(partner);
  },
};

/** What is said of people and of the group of a partner is said with it. @throws 403 */
function mustBeOurs(partner: string | null): void {
  if (partner !== null)
    throw new ApiProblem('forbidden', `This is of ${partner}, a partner organisation.`, {
      mend: 'Its people are added and ended under Access → Shares.',
    });
}

export const getPerson = (db: Db, who: Who, id: string): Promise<PersonAnswer> => PEOPLE.read(db, who, id);

/** E-mail addresses are those of one person each. */
async function mustBeFree(tx: Db, email: string, except: string | null): Promise<void> {
  const other = await tx.one<{ name: string }>(
    'select name from person where lower(email) = lower($1) and id is distinct from $2::uuid',
    [email, except],
  );
  if (other)
    throw invalid(`${other.name} has this address already.`, 'Give an address of their own.', [
      { field: 'email', message: 'is that of somebody else' },
    ]);
}

/** Nobody takes the last one away who may change what holds for everybody. */
async function mustLeaveOne(tx: Db): Promise<void> {
  const left = await tx.one(
    "select from role_grant r join person p on p.id = r.person_id and p.left_at is null where r.role = 'administrator' and r.domain_id is null",
  );
  if (!left)
    throw conflict(
      'last-administrator',
      'Nobody would be left who administers everything.',
      'Make somebody else an administrator of everything first.',
    );
}

async function setGroups(tx: Db, id: string, groupIds: readonly string[]): Promise<boolean> {
  const known = await tx.one<{ n: number }>(
    'select count(*)::int as n from person_group where id = any($1::uuid[]) and partner_id is null',
    [groupIds],
  );
  if (known?.n !== groupIds.length)
    throw invalid('One of the groups is not there any more.', 'Choose them anew.', [
      { field: 'groupIds', message: 'is not there' },
    ]);
  const gone = await tx.run('delete from group_member where person_id = $1 and group_id <> all($2::uuid[])', [
    id,
    groupIds,
  ]);
  const come = await tx.run(
    'insert into group_member (person_id, group_id) select $1, unnest($2::uuid[]) on conflict do nothing',
    [id, groupIds],
  );
  return gone + come > 0;
}

async function setGrants(tx: Db, id: string, grants: PersonBody['grants']): Promise<boolean> {
  const domains = [...new Set(grants.flatMap(({ domainId }) => (domainId === null ? [] : [domainId])))];
  const known = await tx.one<{ n: number }>('select count(*)::int as n from domain where id = any($1::uuid[])', [
    domains,
  ]);
  if (known?.n !== domains.length)
    throw invalid('One of the domains is not there any more.', 'Choose them anew.', [
      { field: 'grants', message: 'names a domain that is not there' },
    ]);
  const bind = [id, grants.map(({ role }) => role), grants.map(({ domainId }) => domainId)];
  const wanted = 'unnest($2::text[], $3::uuid[]) as w(role, domain_id)';
  const gone = await tx.run(
    `
      delete from role_grant r
      where r.person_id = $1
        and not exists (select from ${wanted} where w.role = r.role and w.domain_id is not distinct from r.domain_id)`,
    bind,
  );
  const come = await tx.run(
    `
      insert into role_grant (person_id, role, domain_id)
      select $1, w.role, w.domain_id
      from ${wanted}
      on conflict
      do nothing`,
    bind,
  );
  return gone + come > 0;
}

/** @param attributes undefined where they stay as they are */
async function setAttributes(tx: Db, id: string, attributes: PersonBody['attributes']): Promise<boolean> {
  if (!attributes) return false;
  const pairs = attributes.flatMap(({ key, values }) => values.map((value) => ({ key, value })));
  const bind = [id, pairs.map(({ key }) => key), pairs.map(({ value }) => value)];
  const wanted = 'unnest($2::text[], $3::text[]) as w(key, value)';
  const gone = await tx.run(
    `
      delete from person_attribute a
      where a.person_id = $1 and not exists (select from ${wanted} where w.key = a.key and w.value = a.value)`,
    bind,
  );
  const come = await tx.run(
    `
      insert into person_attribute (person_id, key, value)
      select $1, w.key, w.value
      from ${wanted}
      on conflict
      do nothing`,
    bind,
  );
  return gone + come > 0;
}

/** What is known of people that policies can ask for. */
export async function attributesOfPeople(db: Db, who: Who): Promise<AttributeOfPeople[]> {
  who.mustAnywhere('policy administrator');
  return db.rows<AttributeOfPeople>(`
    select a.key, count(distinct a.person_id)::int as people, (array_agg(distinct a.value order by a.value))[:50] as values
    from person_attribute a
    join person p on p.id = a.person_id and p.left_at is null
    group by a.key
    order by a.key`);
}

export async function addPerson(
  tx: Db,
  who: Who,
  { name, email, job, groupIds, grants, attributes }: PersonBody,
): Promise<PersonAnswer> {
  who.mustEverywhere('administrator');
  await mustBeFree(tx, email, null);
  return create(
    tx,
    who,
    PEOPLE,
    { name, email, job },
    {
      parts: async (id) => {
        await setGroups(tx, id, groupIds);
        await setGrants(tx, id, grants);
        await setAttributes(tx, id, attributes);
      },
    },
  );
}

export async function changePerson(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  { name, email, job, groupIds, grants, attributes }: PersonBody,
): Promise<PersonAnswer> {
  const { after } = await change(tx, who, PEOPLE, id, {
    version,
    async values(now) {
      if (now.leftAt !== null)
        throw invalid(`${now.name} has left.`, 'Let them come back first.', [{ field: 'name', message: 'has left' }]);
      await mustBeFree(tx, email, id);
      return { name, email, job };
    },
    parts: async () => {
      const parts = [
        await setGroups(tx, id, groupIds),
        await setGrants(tx, id, grants),
        await setAttributes(tx, id, attributes),
      ];
      await mustLeaveOne(tx);
      return parts.some(Boolean);
    },
  });
  return after;
}

/** All that a person holds, by kind. */
export async function holdingsOf(db: Db, who: Who, held: readonly Held[], id: string): Promise<Holding[]> {
  who.mustEverywhere('administrator');
  await getPerson(db, who, id);
  const all: Holding[] = [];
  for (const { what, after, list } of held) all.push({ what, after, ...(await list(db, id)) });
  return all.filter(({ count }) => count > 0);
}

/** Lets a person leave: what they hold goes to another or to nobody, their groups, roles and sessions end. */
export async function leave(
  tx: Db,
  who: Who,
  held: readonly Held[],
  id: string,
  { to, seen }: { to: string | null; seen: number },
): Promise<PersonAnswer> {
  who.mustEverywhere('administrator');
  // Held until the end: nothing more is given to them meanwhile that nobody saw.
  await tx.run('select from person where id = any($1::uuid[]) for update', [[id, to].filter(Boolean)]);
  if (to === id)
    throw invalid('They cannot pass it on to themselves.', 'Choose somebody else, or nobody.', [
      { field: 'to', message: 'is the one who leaves' },
    ]);
  if (to !== null && (await getPerson(tx, who, to)).leftAt !== null) throw notFound('Who is to get it');
  const now = (await holdingsOf(tx, who, held, id)).reduce((sum, { count }) => sum + count, 0);
  if (now !== seen)
    throw new ApiProblem('count-changed', `They hold ${now} things now, not ${seen}.`, {
      mend: 'Look again at what they hold.',
      current: now,
    });
  const { after } = await change(tx, who, PEOPLE, id, {
    version: null,
    values(before) {
      if (before.leftAt !== null) throw notFound('A person of that id who has not left');
      return { leftAt: new Date() };
    },
    async parts() {
      for (const { pass } of held) await pass(tx, who, id, to);
      await setGroups(tx, id, []);
      await setGrants(tx, id, []);
      await endSessions(tx, id, null);
      await tx.run('delete from client_key where person_id = $1', [id]);
      await tx.run('delete from api_key where person_id = $1', [id]);
      await tx.run('delete from subscription where person_id = $1', [id]);
      await tx.run('delete from news where person_id = $1', [id]);
      await mustLeaveOne(tx);
      return true;
    },
    action: 'left',
  });
  return after;
}

export async function comeBack(tx: Db, who: Who, id: string): Promise<PersonAnswer> {
  const { after } = await change(tx, who, PEOPLE, id, {
    version: null,
    values(before) {
      if (before.leftAt === null) throw notFound('A person of that id who has left');
      return { leftAt: null };
    },
    action: 'came back',
  });
  return after;
}

const GROUPS: Kept<GroupRow, GroupAnswer> = {
  thing: 'group',
  model: GROUP,
  async read(db, _who, id) {
    const group = await db.one<GroupAnswer>(`${GROUPS_SQL} where g.id = $1 group by g.id`, [id]);
    if (!group) throw notFound('The group');
    return group;
  },
  told: async (db, { name, claim, members }) => ({
    name,
    'as the provider says': claim,
    members: (
      await db.rows<{ name: string }>('select name from person where id = any($1::uuid[]) order by name', [members])
    ).map((person) => person.name),
  }),
  may(_db, who, { partner }) {
    who.mustEverywhere('administrator');
    mustBeOurs(partner);
  },
};
export const GROUPS_SQL = `
  select g.id, g.name, g.claim, (select q.name from partner q where q.id = g.partner_id) as partner, coalesce(array_agg(m.person_id) filter (where m.person_id is not null), '{}') as members, g.version
  from person_group g
  left join group_member m on m.group_id = g.id`;

async function setMembers(tx: Db, id: string, people: readonly string[]): Promise<boolean> {
  const known = await tx.one<{ n: number }>(
    'select count(*)::int as n from person where id = any($1::uuid[]) and left_at is null and partner_id is null',
    [people],
  );
  if (known?.n !== people.length)
    throw invalid('One of the people is not there any more.', 'Choose them anew.', [
      { field: 'memberIds', message: 'is not there' },
    ]);
  const gone = await tx.run('delete from group_member where group_id = $1 and person_id <> all($2::uuid[])', [
    id,
    people,
  ]);
  const come = await tx.run(
    'insert into group_member (group_id, person_id) select $1, unnest($2::uuid[]) on conflict do nothing',
    [id, people],
  );
  return gone + come > 0;
}

/** What the provider calls a group is the name of one group. */
async function claimMustBeFree(tx: Db, claim: string | null, except: string | null): Promise<void> {
  const other = await tx.one<{ name: string }>(
    'select name from person_group where claim = $1 and id is distinct from $2::uuid',
    [claim, except],
  );
  if (other)
    throw invalid(`${other.name} follows this group of the provider already.`, 'Name another one, or none.', [
      { field: 'claim', message: 'is that of another group' },
    ]);
}

export async function addGroup(tx: Db, who: Who, { name, claim, memberIds }: GroupBody): Promise<GroupAnswer> {
  who.mustEverywhere('administrator');
  await claimMustBeFree(tx, claim, null);
  return create(tx, who, GROUPS, { name, claim }, { parts: (id) => setMembers(tx, id, memberIds) });
}

export async function changeGroup(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  { name, claim, memberIds }: GroupBody,
): Promise<GroupAnswer> {
  const { after } = await change(tx, who, GROUPS, id, {
    version,
    values: async () => {
      await claimMustBeFree(tx, claim, id);
      return { name, claim };
    },
    parts: () => setMembers(tx, id, memberIds),
  });
  return after;
}

export async function removeGroup(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, GROUPS, id, {
    async unless() {
      const policy = await tx.one<{ name: string }>(
        'select p.name from policy_subject s join policy p on p.id = s.policy_id where s.group_id = $1 order by p.name limit 1',
        [id],
      );
      const tag = await tx.one<{ name: string }>(
        'select name from tag where $1::uuid = any(group_ids) and removed_at is null order by name limit 1',
        [id],
      );
      const owned = await tx.one<{ n: number }>(
        "select count(*)::int as n from asset_person where person_id = $1 and role = 'owner'",
        [id],
      );
      if (owned && owned.n > 0)
        throw conflict(
          'still-used',
          `The group answers for ${owned.n === 1 ? 'an asset' : `${owned.n} assets`}.`,
          'Find them by their owner, and give them to somebody else first.',
        );
      const by = policy ? `The policy “${policy.name}”` : tag ? `The tag “${tag.name}”` : undefined;
      if (by) throw conflict('still-used', `${by} names the group.`, 'Take the group out of it first.');
    },
  });
}
