import type { ReviewAnswer, ReviewBody, ReviewEffect, ReviewItem, reviewEndpoints } from '@idrel/contract/access';
import type { AnswerOf, BodyOf } from '@idrel/contract/http';
import { type Policy, reachOf, rowReachOf } from '@idrel/core/access';
import { Binder, kindsSql, readFilter, whereVisible } from '../../catalog/index.ts';
import { type Principal, record, service } from '../../journal/index.ts';
import { isSeen, type Who } from '../../people/index.ts';
import type { Database, Db } from '../../platform/database.ts';
import { ApiProblem, conflict, forbidden, invalid } from '../../platform/problems.ts';
import { meantTables, policiesInForce, readPeople, readTables } from '../facts.ts';
import { changeSubject, listPolicies } from '../policies.ts';
import { lostBy, used } from '../reach.ts';
import { endRequest, grantAgain } from '../requests/service.ts';
import { answerersOf } from '../requests/standing.ts';
import { readItem, readReview } from './read.ts';

const SHOWN = 300;
/** Tables that are named of what somebody would lose. */
const FIRST = 3;

/** What a review asks about: policies that allow, in force, of those that somebody may change. @param filter only on what it finds, what that lies in and what lies in it */
async function reviewable(db: Db, who: Who, filter: string | null) {
  const policies = (await listPolicies(db, who)).filter(
    ({ effect, enabled, until, mayEdit }) =>
      effect === 'allow' && enabled && mayEdit && (until === null || new Date(until).getTime() > Date.now()),
  );
  if (filter === null) return policies;
  const listed = [...new Set(policies.flatMap(({ assetIds }) => assetIds))];
  const binder = new Binder();
  const ids = binder.add(listed);
  const found = whereVisible(readFilter(filter), who, binder);
  const rows = await db.rows<{ id: string }>(
    `
      with recursive found as materialized (
        select a.id, a.parent_id from asset a join source s on s.id = a.source_id where ${found}
      ),
      over as (
        select id, parent_id from found
        union
        select p.id, p.parent_id from over join asset p on p.id = over.parent_id
      ),
      up as (
        select l as listed, l as id from unnest(${ids}::uuid[]) l
        union all
        select up.listed, a.parent_id from up join asset a on a.id = up.id where a.parent_id is not null
      )
      select id from over where id = any(${ids}::uuid[])
      union
      select up.listed from up join found on found.id = up.id`,
    binder.values,
  );
  const within = new Set(rows.map(({ id }) => id));
  return policies.filter(({ assetIds }) => assetIds.some((id) => within.has(id)));
}

/** Brings up to date what rights open that nobody has decided on: somebody may have changed their policies. @param which SQL of which items `i`, by $1 */
const followPolicies = (db: Db, which: string, id: string | null): Promise<number> =>
  db.run(
    `
      with now as materialized (
        select i.id, array(select o.asset_id from policy_object o where o.policy_id = i.policy_id and o.asset_id is not null order by 1) as assets
        from access_review_item i
        join access_review r on r.id = i.review_id and r.over_at is null
        where i.decision is null and i.policy_id is not null and ${which}
      )
      update access_review_item i
      set asset_ids = now.assets
      from now
      where now.id = i.id and now.assets <> i.asset_ids`,
    [id],
  );

/** Works out anew whose turn it is. @param id of one review; null: of all that run */
const settleTurns = (db: Db, id: string | null): Promise<number> =>
  db.run(
    `
      with now as materialized (
        select i.id, case
          -- Of what nobody answers for, no one answers for all.
          when exists (select from unnest(i.asset_ids) x where answers_for(x) is null) then '{}'::uuid[]
          else array(select distinct answers_for(x) from unnest(i.asset_ids) x order by 1) end as parties
        from access_review_item i
        join access_review r on r.id = i.review_id and r.over_at is null
        where i.decision is null and ($1::uuid is null or r.id = $1)
      )
      update access_review_item i
      set parties = now.parties
      from now
      where now.id = i.id and now.parties <> i.parties`,
    [id],
  );

interface Right {
  readonly policyId: string;
  readonly policy: string;
  readonly requestId: string | null;
  readonly personId: string | null;
  readonly groupId: string | null;
  readonly assetIds: readonly string[];
}

/** Each of whom the policies are for is a right of its own. */
const rightsOf = (policies: Awaited<ReturnType<typeof reviewable>>): Right[] =>
  policies.flatMap(({ id, name, requestId, assetIds, everyone, personIds, groupIds }) => {
    const base = { policyId: id, policy: name, requestId, assetIds };
    return [
      ...(everyone ? [{ ...base, personId: null, groupId: null }] : []),
      ...groupIds.map((groupId) => ({ ...base, personId: null, groupId })),
      ...personIds.map((personId) => ({ ...base, personId, groupId: null })),
    ];
  });

/** Which rights a review would ask about, and whom. */
export async function rightsForReview(
  db: Db,
  who: Who,
  filter: string | null,
): Promise<AnswerOf<typeof reviewEndpoints.reviewed>> {
  const policies = await reviewable(db, who, filter);
  const rights = rightsOf(policies);
  const rows = await db.rows<{ id: string; party: string | null }>(
    'select id, answers_for(id) as party from unnest($1::uuid[]) id',
    [[...new Set(rights.flatMap(({ assetIds }) => assetIds))]],
  );
  const partyOf = new Map(rows.map(({ id, party }) => [id, party]));
  const names = await answerersOf(
    db,
    rows.flatMap(({ party }) => party ?? []),
  );
  const asked = new Map<string, number>();
  for (const { assetIds } of rights) {
    const parties = new Set(assetIds.map((id) => partyOf.get(id) ?? null));
    const [only] = parties;
    const name = (parties.size === 1 && only && names.get(only)?.name) || 'policy administrators';
    asked.set(name, (asked.get(name) ?? 0) + 1);
  }
  return {
    rights: rights.length,
    policies: policies.length,
    asked: [...asked].map(([name, count]) => ({ name, rights: count })).sort((a, b) => b.rights - a.rights),
  };
}

/** @throws 409, 422 */
export async function startReview(tx: Db, who: Who, body: ReviewBody): Promise<ReviewAnswer> {
  const { name, filter, endsAt, rest } = body;
  if (Date.parse(endsAt) <= Date.now())
    throw invalid('The day on which it ends has passed.', 'Choose a later one.', [
      { field: 'endsAt', message: 'has passed already' },
    ]);
  const rights = rightsOf(await reviewable(tx, who, filter));
  if (rights.length === 0)
    throw invalid(
      'There is no right that it could ask about.',
      'Take conditions away, or look whether a policy allows anything there.',
      [{ field: 'filter', message: 'finds nothing that a policy opens' }],
    );
  if (await tx.one('select from access_review where name = $1', [name]))
    throw conflict('name-taken', `There already is a review named “${name}”.`, 'Choose another name.');
  const made = await tx.one<{ id: string }>(
    'insert into access_review (name, filter, ends_at, rest, started_by) values ($1, $2, $3, $4, $5) returning id',
    [name, filter, endsAt, rest, who.id],
  );
  const id = made?.id ?? '';
  await tx.run(
    `
      insert into access_review_item (review_id, policy_id, policy, request_id, person_id, group_id, asset_ids)
      select $1, x."policyId", x.policy, x."requestId", x."personId", x."groupId", array(select jsonb_array_elements_text(x."assetIds")::uuid)
      from jsonb_to_recordset($2::jsonb)
        as x("policyId" uuid, policy text, "requestId" uuid, "personId" uuid, "groupId" uuid, "assetIds" jsonb)`,
    [id, JSON.stringify(rights)],
  );
  await settleTurns(tx, id);
  await recordReview(tx, who, 'started', id, name, null, {
    name,
    ...(filter ? { filter } : {}),
    until: endsAt,
    rest,
    rights: rights.length,
  });
  return readReview(tx, who, id);
}

const recordReview = async (
  tx: Db,
  principal: Principal,
  action: string,
  id: string,
  name: string,
  before: Record<string, unknown> | null,
  after: Record<string, unknown> | null,
) => {
  const rows = await tx.rows<{ id: string }>(
    `select distinct a.domain_id as id from access_review_item i join asset a on a.id = any(i.asset_ids) where i.review_id = $1`,
    [id],
  );
  const subject = { kind: 'review', id, name, domainId: null, domainIds: rows.map((row) => row.id) } as const;
  await record(tx, principal, action, subject, before, after);
};

interface HeldItem extends Right {
  readonly id: string;
  readonly policyVersion: number | null;
  readonly switchedOff: boolean;
}
const HELD = `
  select
    i.id, i.policy_id as "policyId", i.policy, i.request_id as "requestId", i.person_id as "personId", i.group_id as "groupId",
    i.asset_ids as "assetIds", i.policy_version as "policyVersion", i.switched_off as "switchedOff"
  from access_review_item i`;

/** Ends a right: what a request granted is over, of another policy somebody is taken out. */
async function endRight(tx: Db, principal: Principal, item: HeldItem): Promise<void> {
  if (item.requestId) await endRequest(tx, principal, item.requestId);
  else if (item.policyId) {
    const { version, switchedOff } = await changeSubject(tx, principal, item.policyId, item, 'out');
    // Of several who are taken out of one policy each can be brought back.
    await tx.run(
      `update access_review_item set policy_version = $2, switched_off = switched_off or $4
       where policy_id = $1 and (id = $3 or decision = 'ended' and policy_version = $2 - 1)`,
      [item.policyId, version, item.id, switchedOff],
    );
  }
}

/** Brings an ended right back, as long as nobody changed its policy meanwhile. @throws 409 */
async function bringBack(tx: Db, who: Who, item: HeldItem): Promise<void> {
  if (item.requestId) {
    const policyId = await grantAgain(tx, who, item.requestId);
    if (!policyId)
      throw conflict('settled-already', 'What it granted was answered otherwise since.', 'Look at the request.');
    await tx.run('update access_review_item set policy_id = $2 where id = $1', [item.id, policyId]);
    return;
  }
  const policy =
    item.policyId &&
    (await tx.one<{ version: number }>('select version from policy where id = $1 for update', [item.policyId]));
  if (!policy || policy.version !== item.policyVersion)
    throw conflict(
      'settled-already',
      'Its policy was changed or removed since.',
      'Whoever administers policies there can put it back by hand.',
    );
  const { version } = await changeSubject(tx, who, item.policyId, item, item.switchedOff ? 'on' : 'back');
  await tx.run(
    `update access_review_item set policy_version = $2, switched_off = false
     where policy_id = $1 and decision = 'ended' and policy_version = $2 - 1`,
    [item.policyId, version],
  );
}

/** Keeps a right, ends it, or takes back what was decided. @throws 403, 404, 409 */
export async function decideRight(
  tx: Db,
  who: Who,
  id: string,
  { decision, seen }: BodyOf<typeof reviewEndpoints.decideRight>,
): Promise<ReviewItem> {
  await tx.run('select from access_review_item where id = $1 for update', [id]);
  await followPolicies(tx, 'i.id = $1', id);
  const before = await readItem(tx, who, id);
  const review = await readReview(tx, who, before.reviewId);
  if (review.overAt)
    throw conflict('settled-already', 'The review is over.', 'Start another one, or change the policy.');
  if (before.decision === 'gone')
    throw conflict('settled-already', 'The right ended otherwise meanwhile.', 'There is nothing to decide any more.');
  if (!before.mayDecide)
    throw new ApiProblem('forbidden', 'You may not decide on this right.', {
      mend: 'Whoever answers for all that it opens decides, or a policy administrator of its domains.',
    });
  const moment = (at: string | Date | null) => (at === null ? null : new Date(at).getTime());
  if (moment(before.decidedAt) !== moment(seen))
    throw new ApiProblem('decided-meanwhile', `${before.decidedBy ?? 'Somebody'} has decided on it since you looked.`, {
      mend: 'Look at it again.',
    });
  const item = await tx.one<HeldItem>(`${HELD} where i.id = $1`, [id]);
  if (!item) throw new Error('the right is gone');
  if (before.decision === 'ended' && decision !== 'ended') await bringBack(tx, who, item);
  if (before.decision !== 'ended' && decision === 'ended') await endRight(tx, who, item);
  await tx.run(
    `update access_review_item set decision = $2, decided_at = case when $2::text is null then null else date_trunc('milliseconds', now()) end, decided_by = $3 where id = $1`,
    [id, decision, decision && who.id],
  );
  const told = (what: string | null) => ({ right: `${before.policy}: ${before.subject.name}`, decision: what });
  await recordReview(
    tx,
    who,
    decision ?? 'decision taken back',
    review.id,
    review.name,
    told(before.decision),
    told(decision),
  );
  const { reviewId: _review, ...after } = await readItem(tx, who, id);
  return after;
}

/** Who would lose what if the rights of a review that nobody has decided on ended. @throws 403, 404 */
export async function reviewEffect(db: Db, who: Who, id: string): Promise<ReviewEffect> {
  const review = await readReview(db, who, id);
  if (!review.mayEnd) throw forbidden('policy administrator in the domains of all its rights');
  const items = await db.rows<HeldItem>(
    `${HELD} where i.review_id = $1 and i.decision is null and i.policy_id is not null`,
    [id],
  );
  const before = await policiesInForce(db);
  const ending = new Map<string, HeldItem[]>();
  for (const item of items) ending.set(item.policyId, [...(ending.get(item.policyId) ?? []), item]);
  const without = (policy: Policy): Policy => {
    const gone = ending.get(policy.id);
    if (!gone) return policy;
    return {
      ...policy,
      everyone: policy.everyone && !gone.some(({ personId, groupId }) => personId === null && groupId === null),
      people: policy.people.filter((person) => !gone.some(({ personId }) => personId === person)),
      groups: policy.groups.filter((group) => !gone.some(({ groupId }) => groupId === group)),
    };
  };
  const after = before.map(without);
  const people = await readPeople(db, null);
  const meant = meantTables(
    before.filter((policy) => ending.has(policy.id)),
    2,
  );
  const tables = await readTables(
    db,
    `${isSeen('t', '$1')} and t.kind in (${kindsSql('holdsRows')}) and (${meant.condition})`,
    [who.domainsAs('reader'), ...meant.bind],
    before,
    'any',
  );
  const changes = reachOf(before, after, people, tables);
  const lost = new Map<string, { columns: number; tables: Set<string> }>();
  for (const { personId, tableId } of changes) {
    const known = lost.get(personId) ?? { columns: 0, tables: new Set() };
    known.columns += 1;
    known.tables.add(tableId);
    lost.set(personId, known);
  }
  const [names, paths] = [
    new Map(people.map((person) => [person.id, person.name])),
    new Map(tables.map((table) => [table.id, table.path])),
  ];
  const distinct = (of: (change: (typeof changes)[number]) => string) => new Set(changes.map(of)).size;
  return {
    rights: items.length,
    people: distinct(({ personId }) => personId),
    tables: distinct(({ tableId }) => tableId),
    columns: distinct(({ columnId }) => columnId),
    rows: [...lost]
      .map(([personId, { columns, tables: those }]) => ({
        person: names.get(personId) ?? '',
        tables: those.size,
        columns,
        first: [...those].slice(0, FIRST).map((id) => paths.get(id) ?? ''),
      }))
      .sort((one, other) => other.columns - one.columns || one.person.localeCompare(other.person, 'en'))
      .slice(0, SHOWN),
    used: await used(db, lostBy(changes, rowReachOf(before, after, people, tables)), people, tables),
  };
}

/** Ends a review: what nobody has decided on ends with it, or stays. */
async function over(tx: Db, principal: Principal, id: string, rest: 'ends' | 'stays'): Promise<number> {
  const review = await tx.one<{ name: string }>(
    'update access_review set over_at = now(), version = version + 1, rest = $2 where id = $1 and over_at is null returning name',
    [id, rest],
  );
  if (!review) return 0;
  const open = await tx.rows<HeldItem>(
    `${HELD} where i.review_id = $1 and i.decision is null order by i.policy, i.id for update`,
    [id],
  );
  let ended = 0;
  if (rest === 'ends')
    for (const item of open) {
      const isThere = item.policyId !== null;
      if (isThere) await endRight(tx, principal, item);
      await tx.run('update access_review_item set decision = $2, decided_at = now() where id = $1', [
        item.id,
        isThere ? 'ended' : 'gone',
      ]);
      if (isThere) ended += 1;
    }
  await recordReview(
    tx,
    principal,
    'over',
    id,
    review.name,
    { open: open.length },
    { open: rest === 'ends' ? 0 : open.length, ended },
  );
  return ended;
}

/** @throws 403, 404, 409 */
export async function endReview(
  tx: Db,
  who: Who,
  id: string,
  { rest, open }: BodyOf<typeof reviewEndpoints.endReview>,
): Promise<ReviewAnswer> {
  await tx.run('select from access_review where id = $1 for update', [id]);
  const review = await readReview(tx, who, id);
  if (!review.mayEnd) throw forbidden('policy administrator in the domains of all its rights');
  if (review.overAt) throw conflict('settled-already', 'The review is over already.');
  if (review.open !== open)
    throw conflict(
      'count-changed',
      `Nobody has decided on ${review.open} rights now, not ${open}.`,
      'Look at what would end again.',
    );
  await over(tx, who, id, rest);
  return readReview(tx, who, id);
}

/** Ends reviews whose day is over, and notes rights that ended otherwise. @returns how many reviews */
export async function tendReviews(db: Database): Promise<number> {
  await db.run(
    `update access_review_item i set decision = 'gone', decided_at = now()
     from access_review r
     where r.id = i.review_id and r.over_at is null and i.decision is null and i.policy_id is null`,
  );
  await followPolicies(db, '$1::uuid is null', null);
  await settleTurns(db, null);
  const due = await db.rows<{ id: string; rest: 'ends' | 'stays' }>(
    'select id, rest from access_review where over_at is null and ends_at <= now() order by ends_at',
  );
  for (const { id, rest } of due)
    await db.transaction(async (tx) => {
      const mine = await tx.one('select from access_review where id = $1 and over_at is null for update skip locked', [
        id,
      ]);
      if (mine) await over(tx, service('review of rights'), id, rest);
    });
  return due.length;
}
