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

interface Wanted {
  readonly address: string;
  readonly sourceId: string;
  readonly names: readonly string[];
  parents: readonly string[] | null;
  id?: string;
}

/**
 * The ids of the assets that many readable addresses lead to, whoever may see them: name by name for all of them at once. Addresses that lead nowhere are left out.
 */
export async function idsAt(db: Db, addresses: readonly string[]): Promise<Map<string, string>> {
  const places = [...new Set(addresses)].flatMap((address) => {
    const place = readPlace(address);
    return place && place.names.length > 0 && place.names.length <= DEEPEST ? [{ address, ...place }] : [];
  });
  const sources = await db.rows<{ id: string; name: string; kind: SourceKind; tops: string[] }>(
    `
      select
        s.id, s.name, s.kind,
        array(select t.id from asset t where t.source_id = s.id and t.parent_id is null and s.kind = any($2::text[])) as tops
      from source s
      where s.name = any($1::text[])`,
    [
      [...new Set(places.map(({ source }) => source))],
      Object.entries(KINDS).flatMap(([kind, { topHidden }]) => (topHidden ? [kind] : [])),
    ],
  );
  const byName = new Map(sources.map((source) => [source.name, source]));
  const wanted = places.flatMap(({ address, source, names }): Wanted[] => {
    const known = byName.get(source);
    return known
      ? [{ address, names, sourceId: known.id, parents: KINDS[known.kind].topHidden ? known.tops : null }]
      : [];
  });
  const step = async (some: readonly Wanted[], depth: number): Promise<void> => {
    const below = some.flatMap(({ parents, names }, n) =>
      (parents ?? []).map((parent) => ({ n, parent, name: names[depth] })),
    );
    const tops = some.flatMap(({ parents, names, sourceId }, n) =>
      parents ? [] : [{ n, source: sourceId, name: names[depth] }],
    );
    const rows = await db.rows<{ n: number; id: string }>(
      `
        select distinct on (found.n) found.n, found.id
        from (
          select w.n, a.id, a.last_seen
          from json_to_recordset($1::json) as w(n int, parent uuid, name text)
          join asset a on a.parent_id = w.parent and a.name = w.name and a.gone_at is null
          union all
          select w.n, a.id, a.last_seen
          from json_to_recordset($2::json) as w(n int, source uuid, name text)
          join asset a on a.parent_id is null and a.name = w.name and a.source_id = w.source and a.gone_at is null
        ) found
        order by found.n, exists (select from asset c where c.parent_id = found.id) desc, found.last_seen desc`,
      [JSON.stringify(below), JSON.stringify(tops)],
    );
    for (const { n, id } of rows) (some[n] as Wanted).id = id;
  };
  let going: readonly Wanted[] = wanted;
  for (let depth = 0; going.length > 0; depth += 1) {
    // What shares its way so far is looked up once.
    const ways = new Map<string, Wanted[]>();
    for (const one of going) {
      const way = JSON.stringify([one.sourceId, one.parents, one.names[depth]]);
      const same = ways.get(way);
      if (same) same.push(one);
      else ways.set(way, [one]);
    }
    const first = [...ways.values()].map((all) => ({ ...(all[0] as Wanted) }));
    await step(first, depth);
    const next: Wanted[] = [];
    for (const [index, all] of [...ways.values()].entries())
      for (const one of all) {
        const id = first[index]?.id;
        if (id === undefined) continue;
        if (one.names.length === depth + 1) one.id = id;
        else next.push(Object.assign(one, { parents: [id] }));
      }
    going = next;
  }
  const ids = new Map(wanted.flatMap(({ address, id }) => (id === undefined ? [] : [[address, id] as const])));
  // What has another name by now, or is gone, or is the top of a source that hides it, is looked for by itself.
  for (const { address } of places) {
    const id = ids.has(address) ? undefined : await idAt(db, address);
    if (id) ids.set(address, id);
  }
  return ids;
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
