import { KINDS, type SourceKind } from '@idrel/contract/sources';
import { readPlace } from '@idrel/core/catalog';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { getAsset } from './service.ts';

/** Deeper than any source has. */
const DEEPEST = 40;

/**
 * One step down: what is called so in $2 (any of them, where there are several; null for the top), now or formerly, in the source $1.
 * What is called so now comes before what was, what is there before what is gone, what holds others before the rest.
 */
const STEP = `
  select id
  from (
    select a.id, a.gone_at is not null as gone, false as former, a.last_seen as at, a.kind
    from asset a
    where a.source_id = $1 and a.name = $3 and (a.parent_id = any($2::uuid[]) or ($2::uuid[] is null and a.parent_id is null))
    union all
    select a.id, a.gone_at is not null, true, f.until, a.kind
    from former_name f
    join asset a on a.id = f.asset_id
    where f.source_id = $1 and f.name = $3 and (f.parent_id = any($2::uuid[]) or ($2::uuid[] is null and f.parent_id is null))
  ) found
  order by former, gone, exists (select from asset c where c.parent_id = found.id) desc, at desc
  limit 1`;

/**
 * The id of the asset that a readable address leads to, whoever may see it; undefined where there is none. Old names lead on.
 * @param shown only in sources of domains that are shown outside: of others a stranger must not learn, by how long it takes, what there is
 */
export async function idAt(db: Db, address: string, shown = false): Promise<string | undefined> {
  const place = readPlace(address);
  if (!place || place.names.length === 0 || place.names.length > DEEPEST) return undefined;
  const source = await db.one<{ id: string; kind: SourceKind }>(
    `
      select s.id, s.kind
      from source s
      left join former_source_name f on f.source_id = s.id and f.name = $1
      join domain d on d.id = s.domain_id
      where (s.name = $1 or f.name = $1) and (d.shown_outside or not $2)
      order by s.name = $1 desc, f.until desc
      limit 1`,
    [place.source, shown],
  );
  if (!source) return undefined;
  const step = async (parents: readonly string[] | null, name: string) =>
    (await db.one<{ id: string }>(STEP, [source.id, parents, name]))?.id;
  const [first = '', ...rest] = place.names;
  const tops = KINDS[source.kind].topHidden
    ? (
        await db.rows<{ id: string }>('select id from asset where source_id = $1 and parent_id is null', [source.id])
      ).map(({ id }) => id)
    : [];
  let id = (tops.length > 0 ? await step(tops, first) : undefined) ?? (await step(null, first));
  for (const name of rest) id = id && (await step([id], name));
  return id;
}

/** Where a readable address leads, for a person. @throws 404 when it leads nowhere, or to what they may not see */
export async function assetAt(db: Db, who: Who, address: string): Promise<{ id: string; place: string }> {
  if (!readPlace(address))
    throw invalid('This is no address of an asset.', 'It is written as /at/Source/name/name.', [
      { field: 'address', message: 'begins with /at/' },
    ]);
  const id = await idAt(db, address);
  if (!id) throw notFound('The asset at this address');
  const { place } = await getAsset(db, who, id);
  return { id, place };
}
