import type { LineageMoment } from '@idrel/contract/lineage';
import { getAsset } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import type { Moments } from './past.ts';

const MOST = 50;
/** An asset, and its columns. */
const HERE = "select $1::uuid union all select id from asset where parent_id = $1 and kind = 'column'";

/** The scan of a source that was at work at a moment, by its id. */
export const runAt = (sourceId: string, at: string): string => `(
  select r.id
  from scan_run r
  where r.source_id = ${sourceId} and r.asked_at <= ${at} and r.started_at <= ${at} and (r.ended_at is null or r.ended_at >= ${at})
  order by r.asked_at desc
  limit 1
)`;

/** The moments that a picture is asked of; null: it is that of now. @throws 422 when they are in the wrong order */
export function momentsAsked({ at, before }: { readonly at?: string; readonly before?: string }): Moments | null {
  if (at === undefined && before === undefined) return null;
  if (before !== undefined && new Date(before).getTime() > (at === undefined ? Date.now() : new Date(at).getTime()))
    throw invalid('The moment to compare with is later than the one that is shown.', 'Change the two over.');
  return { at: at ?? null, before: before ?? null };
}

/** When edges into an asset or out of it, of a table those of its columns too, came and went; those whose other end the person may not see are left out. */
export async function momentsOf(db: Db, who: Who, assetId: string): Promise<LineageMoment[]> {
  await getAsset(db, who, assetId);
  return db.rows<LineageMoment>(
    `
      with near as (
        select e.since, e.until, array[f.source_id, t.source_id, w.source_id] as sources
        from edge_span e
        join asset f on f.id = e.from_id
        join asset t on t.id = e.to_id
        left join asset w on w.id = e.flow_id and ${isSeen('w', '$2')}
        where (e.from_id = any(array(${HERE})) or e.to_id = any(array(${HERE})) or e.flow_id = $1)
          and e.kind <> 'unused' and ${isSeen('f', '$2')} and ${isSeen('t', '$2')}
      ),
      change as (
        select since as at, true as came, sources from near
        union all
        select until, false, sources from near where until is not null
      ),
      moment as (
        select at, count(*) filter (where came)::int as came, count(*) filter (where not came)::int as went
        from change
        group by at
        order by at desc
        limit ${MOST}
      )
      select m.at, m.came, m.went,
        (
          select json_build_object('id', r.id, 'source', s.name)
          from source s
          join scan_run r on r.id = ${runAt('s.id', 'm.at')}
          where s.id in (select unnest(c.sources) from change c where c.at = m.at)
          limit 1
        ) as run
      from moment m
      order by m.at desc`,
    [assetId, who.domainsAs('reader')],
  );
}
