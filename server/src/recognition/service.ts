import type { AnswerOf, BodyOf } from '@idrel/contract/http';
import type { AlikeAnswer, DetectorAnswer, FindingAnswer, recognitionEndpoints } from '@idrel/contract/recognition';
import { compileSpec, DETECTORS } from '@idrel/core/recognition';
import { type FinderClient, FROM, PATH } from '../catalog/index.ts';
import { say } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, notFound } from '../platform/problems.ts';
import { forgetAlike, rememberDismissal } from './certainty.ts';
import type { ClassUse } from './classUse.ts';
import { settleAround } from './levelsAround.ts';
import { writeDecisions } from './manyDecisions.ts';
import { knownClasses, type OwnVersion, ownDetectors } from './registry.ts';
import { settleAllLevels } from './settling.ts';

/** A finding that says much more than the one that was dismissed: it comes back, and the dismissal holds until somebody decides anew. */
const DISAGREES = `(fd.decision = 'dismissed' and fd.seen is not null and (f.confidence >= (fd.seen ->> 'confidence')::float + 0.15 or f.share >= (fd.seen ->> 'share')::float + 0.25))`;
const STATE = `(case when ${DISAGREES} then 'to-settle' else coalesce(fd.decision, f.state) end)`;
const SELECT = `
  select
    f.class_key as "classKey", f.detector, f.detector_version as version, f.share, f.matched, f.sampled,
    f.distinct_values as distinct, f.confidence, ${STATE} as state, f.evidence ->> 'label' as label,
    f.evidence -> 'name' as name, f.evidence -> 'terms' as terms, f.evidence -> 'examples' as examples,
    f.evidence -> 'inside' as inside, f.evidence -> 'texts' as texts, a.id as "assetId", a.name as column, t.name as table,
    t.id as "tableId", ${PATH} as path, s.name as source, d.name as domain, p.name as "decidedBy",
    fd.decided_at as "decidedAt", coalesce(fd.reason, '') as reason,
    case when ${DISAGREES} then fd.seen end as "dismissedAt", a.domain_id = any($2::uuid[]) as "maySettle",
    case when fd.decision is null and f.state = 'confirmed' then cr.name end as rule,
    case
      when fd.decision is null and rd.id is not null
      then jsonb_build_object(
        'id', rd.id,
        'by', (select b.name from person b where b.id = rd.made_by),
        'at', rd.made_at,
        'reason', rd.reason,
        'share', rd.share,
        'confidence', rd.confidence
      )
    end as remembered
  from finding f
  join asset a on a.id = f.asset_id
  join asset t on t.id = a.parent_id
  join source s on s.id = a.source_id
  join domain d on d.id = a.domain_id
  left join finding_decision fd on fd.asset_id = f.asset_id and fd.class_key = f.class_key
  left join person p on p.id = fd.decided_by
  left join certainty_rule cr on cr.id = f.rule_id
  left join remembered_dismissal rd on rd.id = f.remembered_id
  where a.gone_at is null and ${isSeen('a', '$1')}`;

/** By state, the keys of the findings that have it, from what is stored: the page is chosen among these before anything else of a finding is worked out. */
const KEYS: Readonly<Record<string, string>> = {
  certain: "select asset_id, class_key from carried where via = 'itself' and how = 'certain'",
  confirmed: "select asset_id, class_key from carried where via = 'itself' and how = 'confirmed'",
};

/** Has the database look for each of the few of a page by its key, where it would go through all findings of the catalog and join them to the page. */
const ONE_BY_ONE = 'offset 0';

interface FindingsAsked {
  readonly state?: string;
  readonly asset?: string;
  readonly class?: string;
  readonly limit?: number;
  readonly offset?: number;
  /** Only those that the person may settle. */
  readonly steward?: boolean;
}
type Found = { rows: FindingAnswer[]; total: number };

/** Findings of a state, wherever: page and number from their keys, which are gone through once. */
async function findingsByKeys(db: Db, who: Who, keys: string, asked: FindingsAsked): Promise<Found> {
  const domains = asked.steward ? who.domainsAs('steward') : who.domainsAs('reader');
  const [first, ...others] = await db.rows<FindingAnswer & { total: number }>(
    `with keys as (${keys}),
     mine as materialized (
       select k.asset_id, k.class_key, c.confidence, a.key
       from keys k
       join asset a on a.id = k.asset_id
       join claim c on c.asset_id = k.asset_id and c.class_key = k.class_key
       where a.gone_at is null and ${isSeen('a', '$1')} and ($3::text is null or k.class_key = $3)
     ),
     page as (
       select * from mine order by confidence desc, key, class_key limit $4 offset $5
     )
     select n.total, q.*
     from (select count(*)::int as total from mine) n
     left join page on true
     left join lateral (${SELECT} and f.asset_id = page.asset_id and f.class_key = page.class_key ${ONE_BY_ONE}) q on true
     order by page.confidence desc, page.key, page.class_key`,
    [domains, who.domainsAs('steward'), asked.class ?? null, asked.limit ?? 200, asked.offset ?? 0],
  );
  // Where nothing is on the page, its number stands alone.
  const rows = first?.assetId ? [first, ...others].map(({ total: _, ...finding }) => finding) : [];
  return { rows, total: first?.total ?? 0 };
}

/** Findings that wait for a person: which they are is told by the finder, what they say is read for the page alone. */
async function findingsWaiting(db: Db, finder: FinderClient, who: Who, asked: FindingsAsked): Promise<Found> {
  const domains = asked.steward ? who.domainsAs('steward') : who.domainsAs('reader');
  const { findings, total } = await finder.waiting(domains, {
    classKey: asked.class,
    offset: asked.offset ?? 0,
    limit: asked.limit ?? 200,
  });
  if (findings.length === 0) return { rows: [], total };
  const rows = await db.rows<FindingAnswer>(
    `
      select q.*
      from unnest($3::uuid[], $4::text[]) with ordinality as page(asset_id, class_key, nth)
      join lateral (${SELECT} and f.asset_id = page.asset_id and f.class_key = page.class_key ${ONE_BY_ONE}) q on true
      order by page.nth`,
    [
      domains,
      who.domainsAs('steward'),
      findings.map(({ assetId }) => assetId),
      findings.map(({ classKey }) => classKey),
    ],
  );
  return { rows, total };
}

/** Findings of an asset, or of a state that is not stored. */
async function findingsByView(db: Db, who: Who, asked: FindingsAsked): Promise<Found> {
  const where = `
    and ($3::text is null or ${STATE} = $3)
    and ($4::uuid is null or a.id = $4 or a.parent_id = $4)
    and ($5::text is null or f.class_key = $5)`;
  const bind = [
    asked.steward ? who.domainsAs('steward') : who.domainsAs('reader'),
    who.domainsAs('steward'),
    asked.state ?? null,
    asked.asset ?? null,
    asked.class ?? null,
  ];
  const rows = await db.rows<FindingAnswer>(
    `${SELECT} ${where} order by ${STATE} = 'to-settle' desc, f.confidence desc, ${PATH}, f.class_key limit $6 offset $7`,
    [...bind, asked.limit ?? 200, asked.offset ?? 0],
  );
  const total = await db.one<{ n: number }>(`select count(*)::int as n from (${SELECT} ${where}) q`, bind);
  return { rows, total: total?.n ?? 0 };
}

/** Findings the person may see; `open`: those nobody has decided and that are not certain. */
export async function listFindings(
  db: Db,
  finder: FinderClient,
  who: Who,
  query: FindingsAsked,
): Promise<{ items: FindingAnswer[]; total: number }> {
  const asked = query.state === 'open' ? { ...query, state: 'to-settle' } : query;
  const keys = KEYS[asked.state ?? ''];
  const { rows, total } =
    asked.asset !== undefined
      ? await findingsByView(db, who, asked)
      : asked.state === 'to-settle'
        ? await findingsWaiting(db, finder, who, asked)
        : await (keys ? findingsByKeys(db, who, keys, asked) : findingsByView(db, who, asked));
  const classes = await knownClasses(db);
  return {
    items: rows.map((finding) => ({
      ...finding,
      label: classes.get(finding.classKey)?.label ?? finding.label ?? finding.classKey,
    })),
    total,
  };
}

/** Columns of the same name elsewhere, for one that has a finding: what waits there of the same class, and what people decided. */
export async function listAlike(db: Db, who: Who, assetId: string, classKey: string): Promise<AlikeAnswer> {
  const same = `
    from asset own
    join asset a on lower(a.name) = lower(own.name) and a.kind = 'column' and a.id <> own.id and a.gone_at is null
    join source s on s.id = a.source_id`;
  const waiting = await db.rows<AlikeAnswer['waiting'][number]>(
    `
      select a.id as "assetId", ${PATH} as path, s.name as source, f.share, f.confidence ${same}
      join finding f on f.asset_id = a.id and f.class_key = $2 and f.state = 'to-settle'
      where own.id = $1
        and ${isSeen('own', '$4')}
        and a.native ->> 'type' is not distinct from own.native ->> 'type'
        and ${isSeen('a', '$3')}
        and not exists (select 1 from finding_decision d where d.asset_id = a.id and d.class_key = $2)
      order by s.name, a.key
      limit 500`,
    [assetId, classKey, who.domainsAs('steward'), who.domainsAs('reader')],
  );
  const decided = await db.rows<AlikeAnswer['decided'][number]>(
    `
      select
        a.id as "assetId", ${PATH} as path, s.name as source, d.decision, p.name as by, d.decided_at as at, d.reason ${same}
      join finding_decision d on d.asset_id = a.id and d.class_key = $2
      join person p on p.id = d.decided_by
      where own.id = $1 and ${isSeen('own', '$3')} and ${isSeen('a', '$3')}
      order by d.decided_at desc
      limit 50`,
    [assetId, classKey, who.domainsAs('reader')],
  );
  return { waiting, decided };
}

type Decisions = BodyOf<(typeof recognitionEndpoints)['decide']>['decisions'];
type Decided = AnswerOf<(typeof recognitionEndpoints)['decide']>;

/** What is decided of one class of one column. */
interface DecisionNow {
  readonly path: string;
  readonly domain: string;
  readonly decision: 'confirmed' | 'dismissed' | null;
  readonly reason: string;
  readonly by: string | null;
  readonly at: Date | null;
  /** It holds for other columns of the name too. */
  readonly remembered: boolean;
}

const DECISION = `
  select
    ${PATH} as path, a.domain_id as domain, fd.decision, coalesce(fd.reason, '') as reason, p.name as by,
    fd.decided_at as at,
    exists (
      select
      from remembered_dismissal r
      where r.class_key = $2
        and r.column_name = lower(a.name)
        and r.column_type is not distinct from a.native ->> 'type'
        and r.domain_id = a.domain_id
    ) as remembered
  from ${FROM}
  left join finding_decision fd on fd.asset_id = a.id and fd.class_key = $2
  left join person p on p.id = fd.decided_by
  where a.id = $1`;

/**
 * Writes what a person decided of findings; it stays whatever later scans say.
 * @throws 404 for a column that is not there; 403 outside of one's domains; 409 when somebody decided one of them since it was seen: then none is written
 */
export async function decideFindings(tx: Db, who: Who, decisions: Decisions): Promise<Decided> {
  const classes = await knownClasses(tx);
  const before: Decided['before'][number][] = [];
  let remembers = false;
  for (const { assetId, classKey, decision, reason, remember, seen } of decisions) {
    const label = classes.get(classKey)?.label ?? classKey;
    const was = await say<DecisionNow>(tx, who, {
      action: decision === 'open' ? 'reopened' : decision,
      async held() {
        // The column is held first: whoever decides at the same time waits here, and then sees what was decided.
        await tx.rows('select from asset where id = $1 for no key update', [assetId]);
        const now = await tx.one<DecisionNow>(DECISION, [assetId, classKey]);
        if (!now) throw notFound('The column');
        return now;
      },
      may(now) {
        who.must('steward', now.domain);
        if (seen === undefined || seen === (now.at?.toISOString() ?? null)) return;
        throw conflict(
          'decided-meanwhile',
          `${now.by ?? 'Somebody'} ${now.decision ? `has ${now.decision}` : 'has reopened'} ${label} in ${now.path} since you saw it${now.reason ? `: “${now.reason}”` : ''}. Nothing of yours was saved.`,
          'Look at it again, then decide.',
        );
      },
      async write(now) {
        if (decision === 'open')
          await tx.run('delete from finding_decision where asset_id = $1 and class_key = $2', [assetId, classKey]);
        else await writeDecisions(tx, who.id, [assetId], classKey, decision, reason);
        return [{ decision: now.decision ?? 'open' }, { decision, ...(reason ? { reason } : {}) }];
      },
      about: ({ path, domain }) => ({ kind: 'finding', id: assetId, name: `${path}: ${label}`, domainId: domain }),
    });
    if (remember && decision === 'dismissed') await rememberDismissal(tx, who, assetId, classKey, reason);
    else if (remember !== undefined && was.remembered) await forgetAlike(tx, who, assetId, classKey);
    remembers ||= remember === true || (remember === false && was.remembered);
    before.push({
      assetId,
      classKey,
      decision: was.decision ?? 'open',
      reason: was.reason,
      remembered: was.remembered,
    });
  }
  if (remembers) await settleAllLevels(tx);
  else await settleAround(tx, [...new Set(decisions.map(({ assetId }) => assetId))]);
  const [at] = await tx.rows<{ now: Date }>('select now()');
  return { decided: before.length, at: (at?.now ?? new Date()).toISOString(), before };
}

/** What was found and decided of the class goes with it. */
export const FINDING_CLASS_USE: ClassUse = {
  async forget(tx, key) {
    await tx.run('delete from claim where class_key = $1', [key]);
    await tx.run('delete from finding_decision where class_key = $1', [key]);
  },
};

/** All detectors, with how often they found something and how people judged it. */
export async function listDetectors(db: Db, who: Who): Promise<DetectorAnswer[]> {
  const rows = await db.rows<{ detector: string; found: number; confirmed: number; dismissed: number }>(
    `
      select
        f.detector, count(*)::int as found, count(*) filter (where d.decision = 'confirmed')::int as confirmed,
        count(*) filter (where d.decision = 'dismissed')::int as dismissed
      from finding f
      join asset a on a.id = f.asset_id
      left join finding_decision d on d.asset_id = f.asset_id and d.class_key = f.class_key
      where ${isSeen('a', '$1')}
      group by 1`,
    [who.domainsAs('reader')],
  );
  const judged = new Map(rows.map((row) => [row.detector, row]));
  const classes = await knownClasses(db);
  const off = new Set(
    (await db.rows<{ id: string }>('select detector_id as id from detector_off')).map((row) => row.id),
  );
  const versions = await db.rows<OwnVersion>('select id, version from detector order by id');
  const own = (await ownDetectors(db, versions)).map(compileSpec);
  const ids = new Set(versions.map((entry) => entry.id));
  return [...own, ...DETECTORS].map((detector) => {
    const about = classes.get(detector.classKey);
    const { found = 0, confirmed = 0, dismissed = 0 } = judged.get(detector.id) ?? {};
    return {
      id: detector.id,
      own: ids.has(detector.id),
      off: off.has(detector.id),
      country: detector.country ?? null,
      version: detector.version,
      classKey: detector.classKey,
      label: about?.label ?? detector.classKey,
      theme: about?.theme ?? '',
      level: about?.level ?? 1,
      strength: detector.strength,
      minShare: detector.minShare,
      accepts: detector.accepts,
      rejects: detector.rejects,
      namesFor: detector.namesFor,
      found,
      confirmed,
      dismissed,
    };
  });
}
