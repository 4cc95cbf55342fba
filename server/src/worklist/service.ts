import type { QueryOf } from '@idrel/contract/http';
import type { WorkItem, WorklistAnswer, worklistEndpoints } from '@idrel/contract/worklist';
import { both, parseFilter, where } from '@idrel/core/catalog';
import { kindsThat } from '@idrel/core/things';
import { listReviews, waitingRequests } from '../access/index.ts';
import { CLASSES_OF, type FinderClient, FROM, PATH, PRIORITY } from '../catalog/index.ts';
import { lapsedIn } from '../curation/index.ts';
import { brokenThings } from '../lineage/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { listFindings } from '../recognition/index.ts';
import { waitingRoutines } from '../routines/index.ts';
import { breakingNews, failedFlows } from '../scanning/index.ts';
import { waitingFor } from '../writing/index.ts';

/** What holds data and nobody answers for. */
const UNOWNED = parseFilter(both('owner:none', where('kind', ...kindsThat('holdsRows'))));

/**
 * What runs left to decide: likely renames of any run, until they are settled or no longer hold; and of the last run of each plan the
 * objects that its scope does not cover and nobody has left out knowingly.
 */
const SCANS = `
  with mine as (
    select
      r.*, r.id = first_value(r.id) over (partition by coalesce(r.plan_id, r.source_id) order by r.ended_at desc) as last
    from scan_run r
    join source s on s.id = r.source_id
    where r.state in ('done', 'partly done') and s.domain_id = any($1::uuid[])
  ),
  told as (
    select
      l.*,
      coalesce(
        (
          select json_agg(json_build_object('from', x -> 'from' ->> 'path', 'to', x -> 'to' ->> 'path'))
          from jsonb_array_elements(l.comparison -> 'renames') x
          where x ->> 'settled' is null
            and exists (select 1 from asset a where a.id = (x -> 'from' ->> 'id')::uuid and a.gone_at is not null and ${isSeen('a', '$1')})
            and exists (select 1 from asset a where a.id = (x -> 'to' ->> 'id')::uuid and a.gone_at is null and ${isSeen('a', '$1')})
        ),
        '[]'::json
      ) as renames,
      coalesce((select p.uncovered::json from scan_plan p where l.last and p.id = l.plan_id), '[]'::json) as uncovered
    from mine l
    where l.last or l.comparison ? 'renames'
  )
  select
    t.id as "runId", s.id as "sourceId", s.name as source, d.name as domain, t.ended_at as at, p.id as "planId",
    p.name as plan, t.renames, t.uncovered
  from told t
  join source s on s.id = t.source_id
  join domain d on d.id = s.domain_id
  left join scan_plan p on p.id = t.plan_id
  where json_array_length(t.renames) > 0 or json_array_length(t.uncovered) > 0
  order by s.name, t.ended_at`;

type ScanNews = Extract<WorkItem, { kind: 'scan' }>['scan'];
/** What the last runs of sources in these domains left to decide. */
export const scanNews = (db: Db, domains: readonly string[]): Promise<ScanNews[]> =>
  db.rows<ScanNews>(SCANS, [domains]);

/** What waits for a person: what scans left to decide, findings to settle, then assets without owner, what matters most first, then the most sensitive. */
export async function worklist(
  db: Db,
  finder: FinderClient,
  who: Who,
  query: QueryOf<typeof worklistEndpoints.list>,
): Promise<WorklistAnswer> {
  const mine = who.domainsAs('steward');
  const limit = query.limit;
  const findings = await listFindings(db, finder, who, { state: 'open', steward: true, limit });
  const found = await finder.find(
    { filter: UNOWNED, domains: mine },
    { sort: 'urgency', descending: true, offset: 0, limit },
  );
  const unowned = await db.rows<Extract<WorkItem, { kind: 'unowned' }>['asset']>(
    `
      select
        a.id, a.kind, a.name, ${PATH} as path, d.name as domain, s.name as source, a.version, a.level, ${PRIORITY} as priority, page.kids as columns,
        ${CLASSES_OF} as classes
      from unnest($1::uuid[], $2::int[]) with ordinality as page(id, kids, nth)
      join ${FROM} on a.id = page.id
      where ${isSeen('a', '$3')}
      order by page.nth`,
    [found.ids, found.kids, mine],
  );
  const lapsed = await lapsedIn(db, mine, limit);
  const discussed = await waitingFor(db, who, limit);
  const scans = await scanNews(db, who.domainsAs('source administrator'));
  const broken = await breakingNews(db, who);
  const failed = await failedFlows(db, who);
  const damaged = await brokenThings(db, who);
  const requests = await waitingRequests(db, who, limit);
  const reviews = (await listReviews(db, who, true)).filter(({ waiting }) => waiting > 0);
  const routines = await waitingRoutines(db, who);
  const wants = (kind: WorkItem['kind']) => query.kind === undefined || query.kind === kind;
  const items: WorkItem[] = [];
  if (wants('breaking'))
    items.push(...broken.map((news): WorkItem => ({ kind: 'breaking', key: `breaking:${news.runId}`, news })));
  if (wants('failed'))
    items.push(...failed.map((flow): WorkItem => ({ kind: 'failed', key: `failed:${flow.id}:${flow.runId}`, flow })));
  if (wants('broken'))
    items.push(
      ...damaged.map(
        (thing): WorkItem => ({
          kind: 'broken',
          key: `broken:${thing.id}:${thing.what}:${thing.sign.join(' ')}`,
          thing,
        }),
      ),
    );
  if (wants('request'))
    items.push(
      ...requests.items.map(
        ({ why, request }): WorkItem => ({ kind: 'request', key: `request:${why}:${request.id}`, why, request }),
      ),
    );
  if (wants('review'))
    items.push(...reviews.map((review): WorkItem => ({ kind: 'review', key: `review:${review.id}`, review })));
  if (wants('routine'))
    items.push(
      ...routines.map(
        (routine): WorkItem => ({ kind: 'routine', key: `routine:${routine.id}:${routine.runId ?? ''}`, routine }),
      ),
    );
  if (wants('scan')) items.push(...scans.map((scan): WorkItem => ({ kind: 'scan', key: scan.runId, scan })));
  if (wants('lapsed'))
    items.push(...lapsed.items.map((asset): WorkItem => ({ kind: 'lapsed', key: `lapsed:${asset.id}`, asset })));
  if (wants('discussion'))
    items.push(
      ...discussed.items.map(
        (waiting): WorkItem => ({ kind: 'discussion', key: `discussion:${waiting.discussion.id}`, ...waiting }),
      ),
    );
  if (wants('finding'))
    items.push(
      ...findings.items.map(
        (finding): WorkItem => ({ kind: 'finding', key: `${finding.assetId}:${finding.classKey}`, finding }),
      ),
    );
  if (wants('unowned')) items.push(...unowned.map((asset): WorkItem => ({ kind: 'unowned', key: asset.id, asset })));
  return {
    counts: {
      finding: findings.total,
      unowned: found.total,
      lapsed: lapsed.total,
      discussion: discussed.total,
      scan: scans.length,
      breaking: broken.length,
      failed: failed.length,
      broken: damaged.length,
      request: requests.total,
      review: reviews.length,
      routine: routines.length,
    },
    items: items.slice(0, limit),
  };
}
