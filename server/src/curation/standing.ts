import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange, ChecklistAnswer, Lapsed, StandingAnswer } from '@idrel/contract/curation';
import { ASSET_KINDS, type AssetKind } from '@idrel/contract/things';
import { CHECK_ITEMS, type Checked, type CheckFacts, type Checklist, check, NO_CHECKLIST } from '@idrel/core/catalog';
import { FROM, getAsset, PATH, PRIORITY } from '../catalog/index.ts';
import { record, recordMany, service, type Told } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { ApiProblem, invalid, mustBeCurrent } from '../platform/problems.ts';
import { CHECK_FACTS, OPEN_ITEMS } from './checklist.ts';
import { tellUsersLater } from './retiring.ts';

const CHECKLIST = `
  described, owned, columns_described as "columnsDescribed", findings_settled as "findingsSettled", lineage_up as "lineageUp",
  lineage_down as "lineageDown", fresh_days as "freshDays", version`;

export async function listChecklists(db: Db, who: Who): Promise<ChecklistAnswer[]> {
  const said = await db.rows<Checklist & { kind: AssetKind; version: number }>(
    `select kind, ${CHECKLIST} from checklist`,
    [],
  );
  const trusted = await db.rows<{ kind: string; n: number }>(
    `
      select kind, count(*)::int as n
      from asset
      where standing = 'trusted' and gone_at is null and ${isSeen('asset', '$1')}
      group by 1`,
    [who.domainsAs('reader')],
  );
  const counts = new Map(trusted.map(({ kind, n }) => [kind, n]));
  const known = new Map(said.map((entry) => [entry.kind, entry]));
  return (Object.keys(ASSET_KINDS) as AssetKind[]).map((kind) => ({
    ...(known.get(kind) ?? { ...NO_CHECKLIST, version: 0 }),
    kind,
    trusted: counts.get(kind) ?? 0,
  }));
}

export async function changeChecklist(
  tx: Db,
  who: Who,
  kind: AssetKind,
  version: number,
  body: Checklist,
): Promise<ChecklistAnswer> {
  who.mustEverywhere('administrator');
  await tx.run("select pg_advisory_xact_lock(hashtext('checklist'))");
  const read = async () => (await listChecklists(tx, who)).find((entry) => entry.kind === kind) as ChecklistAnswer;
  const before = await read();
  mustBeCurrent(version, before);
  await tx.run(
    `
      insert into checklist (
        kind, described, owned, columns_described, findings_settled, lineage_up, lineage_down, fresh_days, version
      )
      values ($1, $2, $3, $4, $5, $6, $7, $8, 1)
      on conflict (kind)
      do update set
        described = excluded.described, owned = excluded.owned, columns_described = excluded.columns_described,
        findings_settled = excluded.findings_settled, lineage_up = excluded.lineage_up,
        lineage_down = excluded.lineage_down, fresh_days = excluded.fresh_days, version = checklist.version + 1`,
    [
      kind,
      body.described,
      body.owned,
      body.columnsDescribed,
      body.findingsSettled,
      body.lineageUp,
      body.lineageDown,
      body.freshDays,
    ],
  );
  const after = await read();
  const told = ({ kind: _kind, trusted: _trusted, version: _version, ...rest }: ChecklistAnswer) => rest;
  await record(
    tx,
    who,
    'edited',
    { kind: 'checklist', id: kind, name: kind, domainId: null },
    told(before),
    told(after),
  );
  return after;
}

/** What the checklist of an asset's kind asks, item by item. */
async function checked(db: Db, assetId: string): Promise<Checked[]> {
  const row = await db.one<{ asked: Checklist | null; facts: CheckFacts }>(
    `
      select
        (select row_to_json(c) from (select ${CHECKLIST} from checklist where kind = a.kind) c) as asked,
        ${CHECK_FACTS} as facts
      from asset a
      where a.id = $1`,
    [assetId],
  );
  return row?.asked ? check(row.asked, row.facts) : [];
}

/** So many people are named who could do what is open. */
const NAMED = 6;

export async function getStanding(db: Db, who: Who, assetId: string): Promise<StandingAnswer> {
  const asset = await getAsset(db, who, assetId);
  const items = await checked(db, assetId);
  const said = await db.one<Omit<StandingAnswer, 'items' | 'who'>>(
    `
      select
        case
          when c.lapsed_at is null and a.standing = 'trusted'
          then json_build_object('by', p.name, 'at', c.at, 'until', c.until::text)
        end as certified,
        case
          when c.lapsed_at is not null and a.standing <> 'trusted'
          then json_build_object('at', c.lapsed_at, 'reason', c.reason, 'by', p.name)
        end as lapsed,
        (
          select json_build_object(
            'on', r.on_day::text, 'by', rp.name,
            'replacement', (
              select json_build_object('id', a.id, 'kind', a.kind, 'path', ${PATH})
              from ${FROM}
              where a.id = r.replacement_id and ${isSeen('a', '$2')}
            )
          )
          from retirement r
          left join person rp on rp.id = r.person_id
          where r.asset_id = a.id and a.standing = 'retiring'
        ) as retirement
      from asset a
      left join certification c on c.asset_id = a.id
      left join person p on p.id = c.person_id
      where a.id = $1`,
    [assetId, who.domainsAs('reader')],
  );
  return {
    items,
    who: items.some(({ met }) => !met) ? await whoCould(db, asset) : [],
    certified: said?.certified ?? null,
    lapsed: said?.lapsed ?? null,
    retirement: said?.retirement ?? null,
  };
}

/** Those who answer for an asset or look after it; where nobody does, who may in its domain. */
async function whoCould(db: Db, asset: AssetAnswer): Promise<StandingAnswer['who']> {
  const own = [
    ...asset.owners.map((person) => ({ person, as: 'owner' })),
    ...asset.stewards.map((person) => ({ person, as: 'steward' })),
  ];
  if (own.length > 0) return own.slice(0, NAMED);
  return db.rows<StandingAnswer['who'][number]>(
    `
      with recursive up as (
        select id, parent_id, 0 as steps from domain where id = $1
        union all
        select d.id, d.parent_id, up.steps + 1 from domain d join up on up.parent_id = d.id
      )
      select json_build_object('id', p.id, 'name', p.name, 'job', p.job) as person, g.role || ' of ' || coalesce(d.name, 'everything') as as
      from role_grant g
      join person p on p.id = g.person_id
      left join domain d on d.id = g.domain_id
      left join up on up.id = g.domain_id
      where g.role in ('steward', 'editor', 'administrator') and (g.domain_id is null or up.id is not null)
      order by g.role = 'steward' desc, up.steps nulls last, p.name
      limit ${NAMED}`,
    [asset.domainId],
  );
}

/** @throws 409 with what is open where the checklist is not complete; 422 for a day that is over or a replacement that is none */
export async function mayStand(tx: Db, who: Who, before: AssetAnswer, asked: AssetChange): Promise<void> {
  const { standing, certifiedUntil, replacementId, retiresOn } = asked;
  const today = new Date().toISOString().slice(0, 10);
  for (const [field, day] of [
    ['certifiedUntil', certifiedUntil],
    ['retiresOn', retiresOn],
  ] as const)
    if (day && day < today)
      throw invalid('The day is over already.', 'Choose a day to come.', [{ field, message: 'lies in the past' }]);
  if (replacementId) {
    if (replacementId === before.id)
      throw invalid('An asset cannot replace itself.', 'Choose another one.', [
        { field: 'replacementId', message: 'is the asset itself' },
      ]);
    await getAsset(tx, who, replacementId);
  }
  if (standing !== 'trusted' || (before.standing === 'trusted' && certifiedUntil === undefined)) return;
  const open = (await checked(tx, before.id)).filter(({ met }) => !met);
  if (open.length === 0) return;
  const told = open
    .map(({ item, told: how }) => (how ? `${CHECK_ITEMS[item].toLowerCase()} (${how})` : item))
    .join('; ');
  throw new ApiProblem(
    'checklist-open',
    `Not all is so that is asked of a ${before.kind} before it is trusted: ${told}.`,
    { mend: 'See to what is open, then certify it.', current: open },
  );
}

/** Writes who certified an asset until when, or what takes its place. @returns whether anything is other than before */
export async function setStanding(tx: Db, who: Who, before: AssetAnswer, asked: AssetChange): Promise<boolean> {
  const { standing, certifiedUntil, replacementId, retiresOn } = asked;
  const { id } = before;
  // What is trusted and stays so is certified as it was: nobody prolongs that in passing.
  if (standing === 'trusted' && before.standing === 'trusted' && certifiedUntil === undefined) return false;
  if (standing === 'retiring' && before.standing !== 'retiring') await tellUsersLater(tx, [id]);
  const told = (action: string, after: Told) =>
    record(tx, who, action, { kind: before.kind, id, name: before.path, domainId: before.domainId }, null, after);
  if (standing === 'trusted') {
    const until = certifiedUntil ?? null;
    const rows = await tx.run(
      `
        insert into certification as c (asset_id, person_id, until)
        values ($1, $2, $3)
        on conflict (asset_id)
        do update set
          person_id = excluded.person_id, at = now(), until = excluded.until, lapsed_at = null, reason = null, noted = false
        where c.lapsed_at is not null or c.until is distinct from excluded.until or not exists (
          select from asset a where a.id = c.asset_id and a.standing = 'trusted'
        )`,
      [id, who.id, until],
    );
    if (rows > 0) await told('certified', { until: until ?? 'something is not so any more' });
    return rows > 0;
  }
  // What was said when it was to be retired before holds no more.
  if (
    standing === 'retiring' &&
    (replacementId !== undefined || retiresOn !== undefined || before.standing !== 'retiring')
  ) {
    const rows = await tx.run(
      `
        insert into retirement as r (asset_id, replacement_id, on_day, person_id)
        values ($1, $2, $3, $4)
        on conflict (asset_id)
        do update set
          replacement_id = excluded.replacement_id, on_day = excluded.on_day, person_id = excluded.person_id, at = now()
        where (r.replacement_id, r.on_day) is distinct from (excluded.replacement_id, excluded.on_day)`,
      [id, replacementId ?? null, retiresOn ?? null, who.id],
    );
    if (rows > 0 && before.standing === 'retiring') await tellUsersLater(tx, [id]);
    const instead = replacementId ? (await getAsset(tx, who, replacementId)).path : null;
    if (rows > 0 && (instead || retiresOn))
      await told('to be retired', { replacement: instead, on: retiresOn ?? null });
    return rows > 0;
  }
  return false;
}

/** Takes the lapse of an asset off the worklist of who looks after its domain, or puts it back. */
export async function noteLapse(tx: Db, who: Who, assetId: string, noted: boolean): Promise<void> {
  const asset = await getAsset(tx, who, assetId);
  who.must('steward', asset.domainId);
  await tx.run('update certification set noted = $2 where asset_id = $1 and lapsed_at is not null', [assetId, noted]);
}

const TODAY = "(now() at time zone 'UTC')::date";
/** So many lapses are written in one transaction. */
const AT_ONCE = 2000;

/**
 * Trusted assets that somebody certified, and of which the checklist is not so any more or the day is over, are trusted no more: they are reviewed, with the
 * reason, and stand on the worklist. Those that were trusted before there were checklists stay.
 * @param touched only these and what holds them; all where it is left out
 * @returns how many lapsed
 */
export async function lapse(tx: Db, touched?: readonly string[]): Promise<number> {
  await tx.run(
    `create temporary table if not exists lapsing (id uuid, reason text, kind text, name text, domain_id uuid) on commit drop`,
  );
  const rows = await tx.rows(
    `
      insert into lapsing
      select
        a.id,
        concat_ws(
          '; ',
          case when c.until < ${TODAY} then 'it was certified until ' || c.until end,
          nullif(array_to_string(${OPEN_ITEMS}, ', '), '')
        ),
        a.kind, ${PATH}, a.domain_id
      from certification c
      join asset a on a.id = c.asset_id
      join source s on s.id = a.source_id
      left join checklist cl on cl.kind = a.kind
      where a.standing = 'trusted'
        and c.lapsed_at is null
        and ($1::uuid[] is null or a.id = any($1::uuid[]))
        and (c.until < ${TODAY} or cardinality(${OPEN_ITEMS}) > 0)
      order by a.id
      limit ${AT_ONCE}
      for no key update of a skip locked
      returning id`,
    [touched ?? null],
  );
  if (rows.length === 0) return 0;
  await tx.run(
    `
      update certification c
      set lapsed_at = now(), reason = l.reason, noted = false
      from lapsing l
      where c.asset_id = l.id`,
  );
  await tx.run("update asset a set standing = 'reviewed', version = version + 1 from lapsing l where a.id = l.id");
  await recordMany(
    tx,
    service('checklists'),
    'no longer trusted',
    'standing',
    `select kind, id, name, domain_id, to_json('trusted'::text) as before, to_json('reviewed: open is ' || reason) as after from lapsing`,
    [],
  );
  return rows.length;
}

/** Assets of which something was written since a moment, and what holds them. */
const TOUCHED_SINCE = `
  with recent as (
    select distinct x.id
    from touched t
    cross join lateral unnest(t.asset_ids) x(id)
    where t.noted >= $1 and t.asset_ids is not null
  )
  select distinct y.id
  from (select id from recent union all select a.parent_id from recent r join asset a on a.id = r.id) y
  join certification c on c.asset_id = y.id and c.lapsed_at is null`;
/** What was written by a transaction that ended late is looked at again so long. */
const LATE_MS = 60_000;
/** All are looked at anew so often: days pass, and checklists change. */
const ALL_EVERY_MS = 3_600_000;

/** Keeps certifications to what is so, whenever it is called; it remembers how far it looked. */
export function certificationTender(): (db: Database) => Promise<number> {
  let [lookedAt, allAt, checklists] = [0, 0, ''];
  return async (db) => {
    const now = Date.now();
    const state = await db.one<{ versions: string }>(
      "select coalesce(string_agg(kind || version, ' ' order by kind), '') as versions from checklist",
    );
    const all = now - allAt > ALL_EVERY_MS || state?.versions !== checklists;
    const touched = all
      ? undefined
      : (await db.rows<{ id: string }>(TOUCHED_SINCE, [new Date(lookedAt - LATE_MS)])).map(({ id }) => id);
    let lapsed = 0;
    if (!touched || touched.length > 0)
      for (let part = AT_ONCE; part === AT_ONCE; lapsed += part)
        part = await db.transaction((tx) => lapse(tx, touched));
    lookedAt = now;
    if (all) allAt = now;
    checklists = state?.versions ?? '';
    return lapsed;
  };
}

/** Assets of these domains whose certification lapsed by itself, and that nobody has looked at since. */
export const lapsedIn = (
  db: Db,
  domains: readonly string[],
  limit: number,
): Promise<{ items: Lapsed[]; total: number }> =>
  db
    .rows<Lapsed & { total: number }>(
      `
        select
          a.id, a.kind, a.name, ${PATH} as path, s.name as source, d.name as domain, a.level, c.lapsed_at as at, c.reason,
          p.name as by, count(*) over ()::int as total
        from certification c
        join ${FROM.replace('asset a', 'asset a on a.id = c.asset_id')}
        left join person p on p.id = c.person_id
        where c.lapsed_at is not null and not c.noted and a.standing <> 'trusted' and a.gone_at is null
          and a.domain_id = any($1::uuid[])
        order by ${PRIORITY} desc, c.lapsed_at desc, a.id
        limit $2`,
      [domains, limit],
    )
    .then((rows) => ({ items: rows.map(({ total: _total, ...item }) => item), total: rows[0]?.total ?? 0 }));
