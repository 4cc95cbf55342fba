import type { AssetKeys } from '@idrel/contract/catalog';
import type { AssetKind } from '@idrel/contract/things';
import { KEY_SEPARATOR, keyOf } from '@idrel/readers/connectors';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { pathOf } from './rows.ts';
import { getAsset } from './service.ts';

/** So many tables are told in either direction. */
const MOST = 40;
const MOST_COLUMNS = 2000;
/** A name that holds more dots than this is not looked for in every way it could be meant. */
const MOST_READINGS = 60;

interface Column {
  readonly id: string;
  readonly name: string;
  readonly primary: boolean;
  readonly refers: readonly string[] | null;
}

/** The ways to read names that were joined by dots, which names can hold too, as so many names. */
export function readingsOf(joined: string, names: number): string[][] {
  const parts = joined.split('.');
  const found: string[][] = [];
  const read = (from: number, done: readonly string[]): void => {
    const left = names - done.length;
    if (found.length >= MOST_READINGS) return;
    if (left === 1) {
      found.push([...done, parts.slice(from).join('.')]);
      return;
    }
    for (let to = from + 1; to <= parts.length - (left - 1); to += 1)
      read(to, [...done, parts.slice(from, to).join('.')]);
  };
  if (names > 0 && parts.length >= names) read(0, []);
  return found;
}

/** The key of a table, and by which foreign keys it is joined to others, as its source declares them and as far as the person may see. */
export async function assetKeys(db: Db, who: Who, id: string): Promise<AssetKeys> {
  const { sourceId } = await getAsset(db, who, id);
  const domains = who.domainsAs('reader');
  const table = await db.one<{ key: string }>('select key from asset where id = $1', [id]);
  const [root = '', ...names] = (table?.key ?? '').split(KEY_SEPARATOR);
  const columns = await db.rows<Column>(
    `
      select
        id, name, coalesce((native ->> 'primaryKey')::boolean, false) as primary, native -> 'references' as refers
      from asset
      where parent_id = $1 and kind = 'column' and gone_at is null and ${isSeen('asset', '$2')}
      order by position, name
      limit ${MOST_COLUMNS}`,
    [id, domains],
  );
  return {
    key: columns.filter(({ primary }) => primary).map(({ name }) => name),
    ...(await referredTo(db, domains, sourceId, columns, { root, depth: names.length })),
    ...(await referring(db, domains, id, sourceId, columns, names)),
  };
}

/** Tables that its columns refer to; those that are not in the catalog, or not to be seen, by what the source calls them. */
export async function referredTo(
  db: Db,
  domains: readonly string[],
  sourceId: string,
  columns: readonly Column[],
  { root, depth }: { root: string; depth: number },
): Promise<Pick<AssetKeys, 'refersTo' | 'refersToMore'>> {
  const meant = columns.flatMap(({ name, refers }) =>
    // Some sources leave the column out where the key of the table is meant.
    (refers ?? []).map((to) => ({ name, to, readings: [depth + 1, depth].flatMap((many) => readingsOf(to, many)) })),
  );
  const found = await db.rows<{ id: string; key: string; isColumn: boolean; kind: AssetKind; path: string }>(
    `
      select t.id, a.key, a.kind = 'column' as "isColumn", t.kind, ${pathOf('t', 's')} as path
      from asset a
      join asset t on t.id = case when a.kind = 'column' then a.parent_id else a.id end
      join source s on s.id = t.source_id
      where a.source_id = $1 and a.key = any($2::text[]) and a.gone_at is null and ${isSeen('t', '$3')}`,
    [sourceId, meant.flatMap(({ readings }) => readings.map((reading) => keyOf(root, ...reading))), domains],
  );
  const byKey = new Map(found.map((row) => [row.key, row]));
  const tables = new Map<string, AssetKeys['refersTo'][number]>();
  for (const { name, to, readings } of meant) {
    const reading = readings.find((one) => byKey.has(keyOf(root, ...one)));
    const row = reading && byKey.get(keyOf(root, ...reading));
    const said = to.split('.');
    const path = row?.path ?? said.slice(0, -1).join('.');
    const known = tables.get(path) ?? { id: row?.id ?? null, kind: row?.kind ?? 'table', path, columns: [] };
    const theirs = (row ? row.isColumn && reading?.at(-1) : said.at(-1)) || null;
    tables.set(path, { ...known, columns: [...known.columns, { mine: name, theirs }] });
  }
  const all = [...tables.values()];
  return { refersTo: all.slice(0, MOST), refersToMore: all.length > MOST };
}

/** Tables with columns that refer to it. */
async function referring(
  db: Db,
  domains: readonly string[],
  id: string,
  sourceId: string,
  columns: readonly Column[],
  names: readonly string[],
): Promise<Pick<AssetKeys, 'referredBy' | 'referredByMore'>> {
  const table = names.join('.');
  const called = new Map(columns.map(({ name }) => [`${table}.${name}`, name]));
  const rows = await db.rows<
    Omit<AssetKeys['referredBy'][number], 'columns'> & { id: string; by: [string, string[]][] }
  >(
    `
      select
        t.id, t.kind, ${pathOf('t', 's')} as path, json_agg(json_build_array(a.name, a.native -> 'references') order by a.position, a.name) as by
      from asset a
      join asset t on t.id = a.parent_id
      join source s on s.id = t.source_id
      where a.native ? 'references' and a.native -> 'references' ?| $2::text[]
        and a.source_id = $1 and a.gone_at is null and t.id <> $3 and ${isSeen('t', '$4')}
      group by t.id, s.id
      order by path
      limit ${MOST + 1}`,
    [sourceId, [...called.keys(), table], id, domains],
  );
  const all = rows.map(({ by, ...row }) => ({
    ...row,
    columns: by.flatMap(([theirs, refers]) =>
      refers.filter((to) => to === table || called.has(to)).map((to) => ({ mine: called.get(to) ?? null, theirs })),
    ),
  }));
  return { referredBy: all.slice(0, MOST), referredByMore: all.length > MOST };
}
