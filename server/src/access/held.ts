import type { HeldClass, LetGoEffect } from '@idrel/contract/access';
import { reachOf } from '@idrel/core/access';
import { classesOf, PATH } from '../catalog/index.ts';
import { say } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import { asIf, type Database, type Db } from '../platform/database.ts';
import { forbidden, notFound } from '../platform/problems.ts';
import { policiesInForce, readPeople, readTables } from './facts.ts';
import { mayWrite } from './policies.ts';
import { LISTS } from './policyRows.ts';

/** Policies that rest on a class for a column: those by class alone, and those that list the column or what is above it. */
const RESTING = `
  select p.id, p.name, ${LISTS.assets} as "assetIds"
  from policy p
  join policy_object c on c.policy_id = p.id and c.class_key = h.class_key
  where p.enabled and p.effect <> 'allow'
    and (not exists (select from policy_object o where o.policy_id = p.id and o.asset_id is not null)
      or exists (
        with recursive up as (
          select a.id as id, a.parent_id as parent
          union all
          select u.id, u.parent_id from asset u join up on u.id = up.parent)
        select from up join policy_object o on o.asset_id = up.id and o.policy_id = p.id))`;

type Row = Omit<HeldClass, 'policies' | 'mayLetGo'> & {
  domain: string;
  policies: { id: string; name: string; assetIds: string[] }[];
};

const HELD = `
  select
    h.asset_id as "assetId", ${PATH} as path, s.name as source, a.domain_id as domain, h.class_key as "classKey",
    null as filter, h.since,
    (select json_agg(r order by r.name) from (${RESTING}) r) as policies
  from class_hold h
  join asset a on a.id = h.asset_id
  join source s on s.id = a.source_id
  where a.gone_at is null
    and ${isSeen('a', '$1')}
    and not exists (select 1 from (${classesOf('a.id')}) k where k.class_key = h.class_key)
    and exists (${RESTING})`;

/** What filters of policies that protect or deny found once and find no longer. */
const MATCHED = `
  select
    m.asset_id as "assetId", ${PATH} as path, s.name as source, a.domain_id as domain, null as "classKey", p.filter,
    m.lost_at as since,
    json_build_array(json_build_object('id', p.id, 'name', p.name, 'assetIds', ${LISTS.assets})) as policies
  from policy_match m
  join policy p on p.id = m.policy_id and p.enabled and p.effect <> 'allow'
  join asset a on a.id = m.asset_id
  join source s on s.id = a.source_id
  where m.lost_at is not null and a.gone_at is null and ${isSeen('a', '$1')}`;

async function told(db: Db, who: Who, { policies, ...row }: Row): Promise<HeldClass & { domain: string }> {
  const may = await Promise.all(policies.map((policy) => mayWrite(db, who, policy)));
  return { ...row, policies: policies.map(({ id, name }) => ({ id, name })), mayLetGo: may.every(Boolean) };
}

export async function listHeld(db: Db, who: Who): Promise<HeldClass[]> {
  who.mustAnywhere('policy administrator');
  const seen = [who.domainsAs('reader')];
  const rows = [
    ...(await db.rows<Row>(`${HELD} order by h.since desc, s.name, a.key limit 500`, seen)),
    ...(await db.rows<Row>(`${MATCHED} order by m.lost_at desc, s.name, a.key, p.name limit 500`, seen)),
  ];
  return Promise.all(
    rows.map(async (row) => {
      const { domain: _, ...held } = await told(db, who, row);
      return held;
    }),
  );
}

/** By what something is held: one of the two. */
interface By {
  readonly class?: string | undefined;
  readonly policy?: string | undefined;
}

async function getHeld(db: Db, who: Who, assetId: string, by: By) {
  who.mustAnywhere('policy administrator');
  const row = await db.one<Row>(
    by.class === undefined
      ? `${MATCHED} and m.asset_id = $2 and m.policy_id = $3`
      : `${HELD} and h.asset_id = $2 and h.class_key = $3`,
    [who.domainsAs('reader'), assetId, by.class ?? by.policy],
  );
  if (!row) throw notFound(by.class === undefined ? 'What the policy holds for still' : 'The held class');
  return told(db, who, row);
}

const forget = (tx: Db, assetId: string, by: By) =>
  by.class === undefined
    ? tx.run('delete from policy_match where asset_id = $1 and policy_id = $2', [assetId, by.policy])
    : tx.run('delete from class_hold where asset_id = $1 and class_key = $2', [assetId, by.class]);

/** Who would read what of the asset without what holds it: it is let go, looked at, and taken back. */
export async function letGoEffect(db: Database, who: Who, assetId: string, by: By): Promise<LetGoEffect> {
  await getHeld(db, who, assetId, by);
  const policies = await policiesInForce(db);
  const people = await readPeople(db, null);
  const condition = `t.id = $1
      or t.parent_id = $1
      or t.parent_id in (select id from asset where parent_id = $1)
      or t.id = (select parent_id from asset where id = $1)
      or exists (select 1 from asset c join lineage_edge e on e.to_id = c.id where c.parent_id = t.id and e.from_id = $1)`;
  const before = await readTables(db, condition, [assetId], policies, 'any');
  const after = await asIf(db, async (tx) => {
    await forget(tx, assetId, by);
    return { tables: await readTables(tx, condition, [assetId], policies, 'any'), policies: await policiesInForce(tx) };
  });
  const name = new Map(people.map((person) => [person.id, person.name]));
  const rows = before.flatMap((table, index) => {
    const then = after.tables[index];
    return then
      ? reachOf(policies, after.policies, people, [table], [then]).map((change) => ({ ...change, table: table.path }))
      : [];
  });
  return {
    people: new Set(rows.map((row) => row.personId)).size,
    rows: rows.slice(0, 500).map(({ personId, table, column, before: was, after: will, beforeMask, afterMask }) => ({
      personId,
      person: name.get(personId) ?? '',
      table,
      column,
      before: was,
      after: will,
      beforeMask,
      afterMask,
    })),
  };
}

/** @throws 403 without the right over each policy that rests on the class; 404 when it is let go already */
export async function letGo(tx: Db, who: Who, assetId: string, by: By): Promise<void> {
  await say(tx, who, {
    action: 'let go',
    async held() {
      await tx.rows(
        by.class === undefined
          ? 'select from policy_match where asset_id = $1 and policy_id = $2 for update'
          : 'select from class_hold where asset_id = $1 and class_key = $2 for update',
        [assetId, by.class ?? by.policy],
      );
      return getHeld(tx, who, assetId, by);
    },
    may(held) {
      if (!held.mayLetGo)
        throw forbidden(
          `policy administrator wherever ${held.policies.map((policy) => `“${policy.name}”`).join(', ')} holds`,
        );
    },
    async write(held) {
      await forget(tx, assetId, by);
      return [{ protects: held.policies.map((policy) => policy.name) }, null];
    },
    about: ({ path, domain }) => ({
      kind: 'held class',
      id: assetId,
      name: by.class === undefined ? path : `${by.class} of ${path}`,
      domainId: null,
      domainIds: [domain],
    }),
  });
}
