import type { BreakingNews } from '@idrel/contract/worklist';
import { breaking } from '@idrel/core/scanning';
import { KEY_SEPARATOR } from '@idrel/readers/connectors';
import { PATH, PRIORITY } from '../catalog/index.ts';
import { isSeen, partiesOf, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { inBatches } from './batches.ts';
import type { Changes } from './compare.ts';

/** Keeps which changes of a run can break what is made from what changed, and what lies downstream: asked before the flows are written anew. */
export async function storeBreaking(
  tx: Db,
  runId: string,
  { changed, gone }: Pick<Changes, 'changed' | 'gone'>,
  ids: ReadonlyMap<string, string>,
): Promise<void> {
  // Columns that went with their table are told as the table.
  const goneHolders = new Map(
    gone.flatMap((asset) => (asset.kind === 'column' ? [] : [[asset.key, asset.id] as const])),
  );
  const told = (asset: { key: string; id: string }) =>
    goneHolders.get(asset.key.slice(0, asset.key.lastIndexOf(KEY_SEPARATOR))) ?? asset.id;
  const rows = [
    ...gone.map((asset) => ({ id: asset.id, told: told(asset), what: breaking('gone', []) })),
    ...changed.map((entry) => ({
      id: ids.get(entry.found.key),
      told: ids.get(entry.found.key),
      what: breaking('changed', entry.what),
    })),
  ].filter((row) => row.what !== undefined && row.id !== undefined);
  await inBatches(
    rows,
    (row) => row,
    (batch) =>
      tx.run(
        `
          with recursive broken as (
            select r.id, r.told, r.what
            from json_to_recordset($2::json) as r(id uuid, told uuid, what text)
          ),
          down as (
            select b.id as root, e.to_id as id, 1 as distance
            from broken b
            join lineage_edge e on e.from_id = b.id and not e.wrong
            union
            select down.root, e.to_id, down.distance + 1
            from down
            join lineage_edge e on e.from_id = down.id and not e.wrong
            where down.distance < 20
          ),
          reached as (
            select
              down.root, case when a.kind = 'column' then a.parent_id else a.id end as id, min(down.distance) as distance
            from down
            join asset a on a.id = down.id
            where a.gone_at is null
            group by 1, 2
          )
          insert into breaking_change (run_id, asset_id, what, reached_id, distance)
          select $1, b.told, min(b.what), r.id, min(r.distance)
          from broken b
          join reached r on r.root = b.id
          join asset a on a.id = b.id
          where r.id <> a.id and r.id is distinct from a.parent_id and r.id is not null
          group by b.told, r.id`,
        [runId, JSON.stringify(batch)],
      ),
  );
}

const NEWS = `
  select
    b.run_id as "runId", s.id as "sourceId", s.name as source, r.ended_at as at,
    json_agg(
      json_build_object('id', a.id, 'kind', a.kind, 'path', ${PATH}, 'what', b.what, 'reached', b.reached)
      order by a.key
    ) as changes
  from (
    select
      x.run_id, x.asset_id, x.what,
      json_agg(
        json_build_object(
          'id', d.id, 'kind', d.kind, 'path', d.path, 'source', d.source, 'distance', x.distance, 'mine', d.mine
        )
        order by not d.mine, x.distance, d.path
      ) as reached,
      bool_or(d.mine) as mine
    from breaking_change x
    join lateral (
      select
        a.id, a.kind, s.name as source, ${PATH} as path,
        exists (select 1 from asset_person p where p.asset_id = a.id and p.role = 'owner' and p.person_id in (${partiesOf('$1')}))
          or (
            a.domain_id = any($2::uuid[])
              and not exists (select 1 from asset_person p where p.asset_id = a.id and p.role = 'owner')
          ) as mine
      from asset a
      join source s on s.id = a.source_id
      where a.id = x.reached_id and a.gone_at is null and ${isSeen('a', '$3')}
    ) d on true
    where not exists (select 1 from breaking_seen v where v.run_id = x.run_id and v.person_id = $1)
    group by x.run_id, x.asset_id, x.what
  ) b
  join asset a on a.id = b.asset_id
  join source s on s.id = a.source_id
  join scan_run r on r.id = b.run_id
  where b.mine and (b.what <> 'gone' or a.gone_at is not null) and r.ended_at > now() - interval '60 days'
  group by b.run_id, s.id, r.ended_at
  order by max(${PRIORITY}) desc, r.ended_at desc
  limit 50`;

/** Changes that break something of a person's: what they own, or what nobody owns in domains where they are a steward. */
export const breakingNews = (db: Db, who: Who): Promise<BreakingNews[]> =>
  db.rows<BreakingNews>(NEWS, [who.id, who.domainsAs('steward'), who.domainsAs('reader')]);

/** Takes the changes of a run off a person's worklist. */
export async function seeBreaking(db: Db, who: Who, runId: string, seen: boolean): Promise<void> {
  if (seen)
    await db.run(
      'insert into breaking_seen (run_id, person_id) select id, $2 from scan_run where id = $1 on conflict do nothing',
      [runId, who.id],
    );
  else await db.run('delete from breaking_seen where run_id = $1 and person_id = $2', [runId, who.id]);
}
