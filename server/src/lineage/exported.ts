import type { FileAnswer } from '@idrel/contract/curation';
import { type CatalogExport, type ExportedAsset, writeExport } from '@idrel/core/lineage';
import { FROM, PATH, PRIORITY } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';

/** So many assets, and so many edges, one file holds. */
const MOST = 200_000;

/** What is downstream of a source, with what a rule can ask of it, to be asked where no server is: as far as the person may see it. */
export async function exportLineage(db: Db, who: Who, sourceId: string): Promise<FileAnswer> {
  const source = await db.one<{ name: string; domain_id: string }>('select name, domain_id from source where id = $1', [
    sourceId,
  ]);
  if (!source || !who.is('reader', source.domain_id)) throw notFound('The source');
  const edges = await db.rows<CatalogExport['edges'][number]>(
    `
      with recursive reached (id) as (
        select a.id
        from asset a
        where a.source_id = $1 and a.kind <> 'column' and a.gone_at is null
        union
        select f.to_id
        from reached r
        join lineage_feed f on f.from_id = r.id
      ),
      -- What can begin an edge: what is reached, and its columns. Edges elsewhere are not looked at.
      begins as (
        select id from reached
        union all
        select c.id from reached r join asset c on c.parent_id = r.id and c.kind = 'column'
      )
      select b.id as "from", e.to_id as "to", e.kind
      from begins b
      cross join lateral (
        select x.to_id, x.kind from lineage_edge x where x.from_id = b.id and not x.wrong
        union
        select i.to_id, i.kind from lineage_influence i where i.from_id = b.id and i.kind <> 'unused'
      ) e
      limit ${MOST + 1}`,
    [sourceId],
  );
  const assets = await db.rows<ExportedAsset>(
    `
      with ends as materialized (
        select x.id from unnest($2::uuid[]) x(id)
        union
        select a.parent_id from asset a where a.id = any($2::uuid[]) and a.kind = 'column'
        union
        select a.id from asset a where a.source_id = $1 and a.kind <> 'column'
      )
      select
        a.id, string_to_array(a.key, chr(31)) as names, a.kind, ${PATH} as path, s.name as source,
        case when a.kind = 'column' then a.parent_id end as within, a.standing, a.level, ${PRIORITY} as priority,
        array(
          with recursive up as (
            select x.id, x.name, x.parent_id from domain x where x.id = a.domain_id
            union all
            select x.id, x.name, x.parent_id from up join domain x on x.id = up.parent_id
          )
          select name from up
        ) as domains,
        array(
          select p.name
          from asset_person ap
          join party p on p.id = ap.person_id
          where ap.role = 'owner' and ap.asset_id = a.id
          order by p.name
        ) as owners,
        array(
          select v.name
          from tag_here h
          cross join lateral (values (h.name), (nullif(h.name || '/' || h.value, h.name || '/'))) v(name)
          where h.asset_id = a.id and v.name is not null
        ) as tags,
        array(select distinct k.class_key from carried k where k.asset_id = a.id) as classes
      from ${FROM}
      where a.id in (select id from ends) and ${isSeen('a', '$3')} and a.gone_at is null
      limit ${MOST + 1}`,
    [sourceId, [...new Set(edges.flatMap(({ from, to }) => [from, to]))], who.domainsAs('reader')],
  );
  if (Math.max(edges.length, assets.length) > MOST)
    throw invalid(
      `More than ${MOST.toLocaleString('en')} assets or edges are made of “${source.name}”: a file does not hold them.`,
      'Ask the server itself what a change does.',
    );
  const text = writeExport({ source: source.name, at: new Date().toISOString(), assets, edges });
  return {
    name: `lineage of ${source.name.replace(/[^\p{L}\p{N}_.-]+/gu, ' ').trim()}.ndjson`,
    type: 'application/x-ndjson; charset=utf-8',
    content: Buffer.from(text).toString('base64'),
  };
}
