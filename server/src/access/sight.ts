import type { PolicyBody, ReachAnswer } from '@idrel/contract/access';
import { isNamedBy, isOver } from '@idrel/core/access';
import { FROM, PATH } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import { type Db, momentOf } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { LISTS } from './policyRows.ts';

/** So many are named. */
const SHOWN = 50;
const SIGHT_SHOWN = 200;

/** A person, and tables of a source that are opened to them. */
export interface OpenedTo {
  readonly personId: string;
  readonly sourceId: string;
  readonly tableIds: readonly string[];
}

/** Those of whom not all tables are seen by policies that say so. */
async function notSeenByPolicy(db: Db, pairs: readonly OpenedTo[]): Promise<readonly OpenedTo[]> {
  const people = await db.rows<{ id: string; policies: string[] }>(
    `
      select p.id, array(select sees_by(p.id)) as policies
      from person p
      where p.id = any($1::uuid[]) and exists (select from policy where opens = 'see' and enabled) and exists (select sees_by(p.id))`,
    [[...new Set(pairs.map(({ personId }) => personId))]],
  );
  if (people.length === 0) return pairs;
  const policies = new Map(people.map((person) => [person.id, new Set(person.policies)]));
  const asked = new Set(pairs.flatMap(({ personId, tableIds }) => (policies.has(personId) ? tableIds : [])));
  const by = new Map(
    (
      await db.rows<{ id: string; policies: string[] }>(
        'select a.id, s.policy_ids as policies from asset a join sight s on s.id = a.opened_id where a.id = any($1::uuid[])',
        [[...asked]],
      )
    ).map((row) => [row.id, row.policies]),
  );
  return pairs.filter(({ personId, tableIds }) => {
    const theirs = policies.get(personId);
    return !theirs || !tableIds.every((table) => by.get(table)?.some((policy) => theirs.has(policy)));
  });
}

/**
 * People who do not see a source, of which something is opened to them: without a role in its domain nothing of it is there for them, whatever policies open, but
 * what a policy lets them see.
 * @param all each a person and tables of a source; each pair of these once
 * @param most so many are told of; the first by name
 */
export async function unseen(db: Db, all: readonly OpenedTo[], most = SHOWN): Promise<ReachAnswer['unseen'][number][]> {
  const pairs = await notSeenByPolicy(db, all);
  if (pairs.length === 0) return [];
  return db.rows<ReachAnswer['unseen'][number]>(
    `
      with recursive asked as (select distinct person_id, source_id from unnest($1::uuid[], $2::uuid[]) as x(person_id, source_id)),
      up as (
        select s.id as source_id, d.id, d.parent_id
        from source s
        join domain d on d.id = s.domain_id
        where s.id = any($2::uuid[])
        union
        select up.source_id, d.id, d.parent_id
        from up
        join domain d on d.id = up.parent_id
      )
      select p.id as "personId", p.name as person, s.name as source, d.name as domain
      from asked a
      join person p on p.id = a.person_id and p.partner_id is null
      join source s on s.id = a.source_id
      join domain d on d.id = s.domain_id
      where not exists (
        select
        from role_grant g
        where g.person_id = a.person_id
          and (g.domain_id is null or g.domain_id in (select up.id from up where up.source_id = a.source_id)))
      order by p.name, s.name
      limit $3`,
    [pairs.map(({ personId }) => personId), pairs.map(({ sourceId }) => sourceId), most],
  );
}

/** So many assets a policy lets be seen at most when it is saved: each of them is written. Who is to see more is given a role. */
export const SEEN_MOST = 100_000;

/** SQL of an asset and all that lies in it now, as far as it is asked for. @param id SQL */
const belowSql = (id: string): string => `
  with recursive down as (
    select ${id} as id
    union all
    select c.id from down join asset c on c.parent_id = down.id where c.gone_at is null
  )
  select id from down`;

/** @throws 422 when these hold more than one policy lets be seen */
export async function checkSeen(db: Db, assetIds: readonly string[], most = SEEN_MOST): Promise<void> {
  let left = most;
  for (const id of assetIds) {
    const found = await db.one<{ n: number }>(
      `select count(*)::int as n from (${belowSql('$1::uuid')} limit ${left + 1}) b`,
      [id],
    );
    left -= found?.n ?? 0;
    if (left < 0)
      throw invalid(
        `A policy lets at most ${most.toLocaleString('en')} assets be seen, with all that lies in them.`,
        'List less of it; or give them a role in its domain, which shows all of it.',
        [{ field: 'assetIds', message: `hold more than ${most.toLocaleString('en')} assets` }],
      );
  }
}

/** Takes away what stands for policies that let nothing be seen any more. */
export const forgetSights = (db: Db): Promise<number> =>
  db.run('delete from sight s where not exists (select from asset a where a.opened_id = s.id)');

/** A policy that lets be seen, as far as what it changes is computed. */
export interface Seeing {
  readonly id: string;
  readonly everyone: boolean;
  readonly groups: readonly string[];
  readonly people: readonly string[];
  readonly exceptGroups: readonly string[];
  readonly assets: readonly string[];
}

/** The policies by which something is seen now. */
export const seeingInForce = (db: Db): Promise<Seeing[]> =>
  db.rows<Seeing>(
    `
      select p.id, p.everyone, ${LISTS.groups} as groups, ${LISTS.people} as people, ${LISTS.exceptGroups} as "exceptGroups", ${LISTS.assets} as assets
      from policy p
      where p.opens = 'see' and p.enabled and (p.until is null or p.until > now())
      order by p.id`,
  );

/** A draft as one of these; undefined where it lets nothing be seen. */
export const seeingOf = (db: Db, id: string, draft: PolicyBody): Seeing | undefined =>
  draft.opens === 'see' && draft.enabled && !isOver(draft, momentOf(db))
    ? {
        id,
        everyone: draft.everyone,
        groups: draft.groupIds,
        people: draft.personIds,
        exceptGroups: draft.exceptGroupIds,
        assets: draft.assetIds,
      }
    : undefined;

interface Listed {
  readonly id: string;
  readonly kind: ReachAnswer['sight']['rows'][number]['kind'];
  readonly path: string;
  readonly ancestors: readonly string[];
  readonly below: number;
}

/** What comes to be seen, or no more, by whom: of the assets that these policies list, as far as who asks sees them. */
export async function sightBetween(
  db: Db,
  who: Who,
  before: readonly Seeing[],
  after: readonly Seeing[],
): Promise<ReachAnswer['sight']> {
  const was = new Map(before.map((policy) => [policy.id, policy]));
  const will = new Map(after.map((policy) => [policy.id, policy]));
  const differs = [...new Set([...was.keys(), ...will.keys()])].filter(
    (id) => JSON.stringify(was.get(id)) !== JSON.stringify(will.get(id)),
  );
  const changed = differs.flatMap((id) => [was.get(id), will.get(id)].flatMap((policy) => policy ?? []));
  if (changed.length === 0) return { gains: 0, losses: 0, assets: 0, rows: [] };
  const assets = await db.rows<Listed>(
    `
      select
        a.id, a.kind, ${PATH} as path,
        array(
          with recursive up as (
            select a.id as id, a.parent_id as parent
            union all
            select p.id, p.parent_id from asset p join up on p.id = up.parent
          )
          select id from up
        ) as ancestors,
        (select count(*)::int from (${belowSql('a.id')} limit ${SEEN_MOST + 1}) b) as below
      from ${FROM}
      where a.id = any($1::uuid[]) and a.gone_at is null and ${isSeen('a', '$2')}
      order by 3`,
    [[...new Set(changed.flatMap((policy) => policy.assets))], who.domainsAs('reader')],
  );
  const people = await db.rows<{ id: string; name: string; groups: string[] }>(
    `
      select p.id, p.name, array(select m.group_id from group_member m where m.person_id = p.id) as groups
      from person p
      where p.left_at is null and p.partner_id is null
      order by p.name`,
  );
  const concerned = people.filter((person) => changed.some((policy) => isNamedBy(policy, person)));
  // Who has a role in the domain sees it anyway.
  const roles = new Set(
    (
      await db.rows<{ pair: string }>(
        `
          select distinct g.person_id || ' ' || a.id as pair
          from role_grant g
          join asset a on a.id = any($2::uuid[])
            and (g.domain_id is null or a.domain_id = any(domains_from(g.domain_id)))
          where g.person_id = any($1::uuid[])`,
        [concerned.map(({ id }) => id), assets.map(({ id }) => id)],
      )
    ).map(({ pair }) => pair),
  );
  const sees = (policies: readonly Seeing[], person: (typeof people)[number], asset: Listed): boolean =>
    policies.some(
      (policy) => isNamedBy(policy, person) && policy.assets.some((listed) => asset.ancestors.includes(listed)),
    );
  const rows = concerned.flatMap((person) =>
    assets.flatMap((asset): ReachAnswer['sight']['rows'] => {
      if (roles.has(`${person.id} ${asset.id}`)) return [];
      const [then, now] = [sees(before, person, asset), sees(after, person, asset)];
      if (then === now) return [];
      return [
        { personId: person.id, person: person.name, assetId: asset.id, kind: asset.kind, path: asset.path, comes: now },
      ];
    }),
  );
  const here = new Set(rows.map(({ assetId }) => assetId));
  // What lies in something that is counted is counted with it.
  const topmost = assets.filter(
    ({ id, ancestors }) => here.has(id) && !ancestors.some((above) => above !== id && here.has(above)),
  );
  return {
    gains: new Set(rows.flatMap(({ comes, personId }) => (comes ? [personId] : []))).size,
    losses: new Set(rows.flatMap(({ comes, personId }) => (comes ? [] : [personId]))).size,
    assets: topmost.reduce((sum, { below }) => sum + below, 0),
    rows: rows.slice(0, SIGHT_SHOWN),
  };
}
