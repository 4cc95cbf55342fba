import { DESCRIBED_AS, DESCRIBED_MOST, type DescribedAs, type describedEndpoints } from '@idrel/contract/exchange';
import type { QueryOf } from '@idrel/contract/http';
import { type AssetKind, factsOf, kindsThat } from '@idrel/contract/things';
import {
  type Called,
  catalogStatements,
  DCAT_PREFIXES,
  type Described,
  type DescribedColumn,
  type DescribedPerson,
  dcatStatements,
  toCsvw,
  toTableSchema,
} from '@idrel/core/exchange/described';
import type { Level } from '@idrel/core/things';
import { KEY_SEPARATOR } from '@idrel/readers/connectors';
import type { Request, Response } from 'express';
import {
  addressesOf,
  BYTES,
  chosenBy,
  classesOf,
  type FinderClient,
  FROM,
  getAsset,
  idAt,
  NOTICES,
  PATH,
  referredTo,
} from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { asJsonLd, writeTurtle } from '../platform/rdf.ts';
import { partInThread } from '../platform/threads.ts';
import { knownClasses } from '../recognition/index.ts';

/** So many assets are read and written at once; so many runs of a flow are told. */
const [AT_ONCE, RUNS] = [100, 10];

/** Some assets to be written, and where they will be read. */
export interface DescribedTask {
  readonly ids: readonly string[];
  readonly as: DescribedAs;
  /** The address of the server. */
  readonly base: string;
  /** The list that they are parts of. */
  readonly catalog: string | null;
  readonly whoId: string;
  readonly keyId: string | null;
}

const addressOf = (
  base: string,
  thing: 'asset' | 'source' | 'person' | 'group' | 'domain' | 'data class',
  id: string,
) => `${base}${factsOf(thing)?.address?.(id) ?? ''}`;

interface Row {
  readonly id: string;
  readonly kind: AssetKind;
  readonly name: string;
  readonly path: string;
  readonly key: string;
  readonly parentId: string | null;
  readonly parentKind: AssetKind | null;
  readonly sourceId: string;
  readonly source: string;
  readonly sourceKind: Parameters<typeof addressesOf>[1];
  readonly domainId: string;
  readonly domain: string;
  readonly description: string | null;
  readonly comment: string | null;
  readonly standing: string;
  readonly level: Level | null;
  readonly people: readonly { role: DescribedPerson['role']; id: string; name: string; isGroup: boolean }[];
  readonly terms: readonly Called[];
  readonly classes: readonly string[];
  readonly tags: Described['tags'];
  readonly notices: Described['notices'];
  readonly firstSeen: Date;
  readonly changed: Date;
  readonly gone: boolean;
  readonly bytes: number | null;
  readonly format: string | null;
}

const TERMS = (asset: string) =>
  `coalesce((select json_agg(json_build_object('uri', t.uri, 'name', t.name) order by t.name) from asset_term x join term t on t.id = x.term_id and t.removed_at is null where x.asset_id = ${asset}), '[]')`;

/** What is said of each asset itself. $1: ids, $2: what the person sees. */
const ASSETS = `
  select
    a.id, a.kind, a.name, ${PATH} as path, a.key, p.id as "parentId", p.kind as "parentKind", s.id as "sourceId", s.name as source,
    s.kind as "sourceKind", d.id as "domainId", d.name as domain, a.description, a.native_comment as comment, a.standing, a.level,
    coalesce(
      (
        select json_agg(json_build_object('role', ap.role, 'id', o.id, 'name', o.name, 'isGroup', o.is_group) order by ap.role, o.name)
        from asset_person ap
        join party o on o.id = ap.person_id
        where ap.asset_id = a.id
      ),
      '[]'
    ) as people,
    ${TERMS('a.id')} as terms, array(${classesOf('a.id')} order by 1) as classes,
    coalesce(
      (
        select json_agg(json_build_object('name', t.name, 'value', x.value) order by t.name, x.value)
        from asset_tag x
        join tag t on t.id = x.tag_id and t.removed_at is null
        where x.asset_id = a.id
      ),
      '[]'
    ) as tags,
    ${NOTICES} as notices, a.first_seen as "firstSeen", coalesce(a.changed_at, a.first_seen) as changed, a.gone_at is not null as gone,
    ${BYTES} as bytes, a.native ->> 'format' as format
  from unnest($1::uuid[]) with ordinality as page(id, nth)
  join ${FROM.replace('asset a', 'asset a on a.id = page.id')}
  left join asset p on p.id = a.parent_id and ${isSeen('p', '$2')}
  where ${isSeen('a', '$2')}
  order by page.nth`;

interface ColumnRow extends Omit<DescribedColumn, 'uri' | 'classes' | 'nullable'> {
  readonly id: string;
  readonly holder: string;
  readonly nullable: unknown;
  readonly refers: readonly string[] | null;
  readonly classes: readonly string[];
}
/** Columns of some assets, or some columns themselves. $1: ids, $2: what the person sees. */
const COLUMNS = `
  select
    c.id, h.holder, c.name, c.native ->> 'type' as type, c.native -> 'nullable' as nullable,
    coalesce(c.native ->> 'primaryKey' = 'true', false) as "primaryKey", coalesce(c.native ->> 'unique' = 'true', false) as unique,
    coalesce(c.description, c.native_comment) as description, c.level, c.native -> 'references' as refers,
    array(${classesOf('c.id')} order by 1) as classes, ${TERMS('c.id')} as terms
  from (
    -- Each by an index of its own.
    select x.id as holder, b.id from unnest($1::uuid[]) as x(id) join asset b on b.parent_id = x.id and b.gone_at is null
    union all
    select x.id, x.id from unnest($1::uuid[]) as x(id)
  ) h
  join asset c on c.id = h.id
  where c.kind = 'column' and ${isSeen('c', '$2')}
  order by h.holder, c.position, c.name`;

/** What assets are made from, and by which flows; what runs and what it reads and writes. $1: ids, $2: what the person sees. */
const MADE_FROM = `
  with ways as (
    select f.to_id as id, f.from_id as other, w.asset_id as flow from lineage_feed f join flow w on w.id = f.flow_id where f.to_id = any($1::uuid[])
    union
    select e.to_id, e.from_id, w.asset_id
    from lineage_edge e
    join flow w on w.id = e.flow_id
    where e.to_id = any($1::uuid[]) and not e.wrong
  )
  select
    ways.id, o.id as other, case when fa.kind in (${kindsThat('runs')
      .map((kind) => `'${kind}'`)
      .join(', ')}) then fa.id end as flow
  from ways
  join asset o on o.id = ways.other and o.gone_at is null and ${isSeen('o', '$2')}
  left join asset fa on fa.id = ways.flow and fa.gone_at is null and ${isSeen('fa', '$2')}
  where o.id <> ways.id`;
const RUN = `
  select w.asset_id as flow, f.from_id as reads, f.to_id as writes
  from flow w
  join lineage_feed f on f.flow_id = w.id
  join asset r on r.id = f.from_id and r.gone_at is null and ${isSeen('r', '$2')}
  join asset t on t.id = f.to_id and t.gone_at is null and ${isSeen('t', '$2')}
  where w.asset_id = any($1::uuid[])`;
const LAST_RUNS = `
  select h.id as flow, r.run_id as run, r.state, r.began, r.ended
  from unnest($1::uuid[]) as h(id)
  cross join lateral (select * from flow_run x where x.asset_id = h.id order by x.at desc limit ${RUNS}) r`;

/** The values of a key of some rows, by another. */
function gathered<T>(
  rows: readonly T[],
  by: (row: T) => string,
  of: (row: T) => string | null,
): Map<string, Set<string>> {
  const all = new Map<string, Set<string>>();
  for (const row of rows) {
    const value = of(row);
    if (value === null) continue;
    const known = all.get(by(row));
    if (known) known.add(value);
    else all.set(by(row), new Set([value]));
  }
  return all;
}

/** What is known of assets, as far as a person may see it; in the order of the ids, without those that they may not see. */
export async function readDescribed(
  db: Db,
  who: Who,
  ids: readonly string[],
  base: string,
): Promise<readonly Described[]> {
  const seen = who.domainsAs('reader');
  const rows = await db.rows<Row>(ASSETS, [ids, seen]);
  const idsOf = (is: (row: Row) => boolean) => rows.filter(is).map(({ id }) => id);
  const holding: readonly string[] = [...kindsThat('holdsRows'), 'column'];
  const columns = await db.rows<ColumnRow>(COLUMNS, [idsOf(({ kind }) => holding.includes(kind)), seen]);
  const made = await db.rows<{ id: string; other: string; flow: string | null }>(MADE_FROM, [ids, seen]);
  const running: readonly string[] = kindsThat('runs');
  const flows = idsOf(({ kind }) => running.includes(kind));
  const run =
    flows.length === 0 ? [] : await db.rows<{ flow: string; reads: string; writes: string }>(RUN, [flows, seen]);
  const runs =
    flows.length === 0
      ? []
      : await db.rows<{ flow: string; run: string; state: string; began: Date | null; ended: Date | null }>(LAST_RUNS, [
          flows,
        ]);
  const classes = await knownClasses(db);
  const uri = (id: string) => addressOf(base, 'asset', id);
  const uris = (some: ReadonlySet<string> | undefined) => [...(some ?? [])].map(uri);
  const classed = (keys: readonly string[]): Called[] =>
    keys.map((key) => ({ uri: addressOf(base, 'data class', key), name: classes.get(key)?.label ?? key }));
  const byHolder = new Map<string, ColumnRow[]>();
  for (const column of columns) {
    const known = byHolder.get(column.holder);
    if (known) known.push(column);
    else byHolder.set(column.holder, [column]);
  }
  const [from, by] = [
    gathered(
      made,
      ({ id }) => id,
      ({ other }) => other,
    ),
    gathered(
      made,
      ({ id }) => id,
      ({ flow }) => flow,
    ),
  ];
  const [reads, writes] = [
    gathered(
      run,
      ({ flow }) => flow,
      (row) => row.reads,
    ),
    gathered(
      run,
      ({ flow }) => flow,
      (row) => row.writes,
    ),
  ];
  const described: Described[] = [];
  for (const row of rows) {
    const own = byHolder.get(row.id) ?? [];
    const { place } = addressesOf(row.source, row.sourceKind, row.key);
    described.push({
      ...row,
      uri: uri(row.id),
      page: base + place,
      source: { uri: addressOf(base, 'source', row.sourceId), name: row.source },
      domain: { uri: addressOf(base, 'domain', row.domainId), name: row.domain },
      within: row.parentId === null ? null : uri(row.parentId),
      withinKind: row.parentKind,
      people: row.people.map((person) => ({
        ...person,
        uri: addressOf(base, person.isGroup ? 'group' : 'person', person.id),
      })),
      classes: classed(row.classes),
      firstSeen: row.firstSeen.toISOString(),
      changed: row.changed.toISOString(),
      columns: own.map((column) => ({
        ...column,
        uri: uri(column.id),
        nullable: typeof column.nullable === 'boolean' ? column.nullable : null,
        classes: classed(column.classes),
      })),
      references: await referencesOf(db, seen, row, own, base),
      from: uris(from.get(row.id)),
      by: uris(by.get(row.id)),
      reads: uris(reads.get(row.id)),
      writes: uris(writes.get(row.id)),
      runs: runs
        .filter(({ flow }) => flow === row.id)
        .map((one) => ({
          uri: `${uri(row.id)}#run-${encodeURIComponent(one.run)}`,
          state: one.state,
          began: one.began?.toISOString() ?? null,
          ended: one.ended?.toISOString() ?? null,
        })),
    });
  }
  return described;
}

/** Tables that its columns refer to, of those that are in the catalog and may be seen. */
async function referencesOf(
  db: Db,
  seen: readonly string[],
  row: Row,
  columns: readonly ColumnRow[],
  base: string,
): Promise<Described['references']> {
  if (row.kind === 'column' || !columns.some(({ refers }) => refers && refers.length > 0)) return [];
  const [root = '', ...names] = row.key.split(KEY_SEPARATOR);
  const { refersTo } = await referredTo(
    db,
    seen,
    row.sourceId,
    columns.map(({ id, name, primaryKey, refers }) => ({ id, name, primary: primaryKey, refers })),
    { root, depth: names.length },
  );
  return refersTo.flatMap(({ id, path, columns: pairs }) => {
    const told = pairs.filter(({ mine, theirs }) => mine !== null && theirs !== null);
    if (id === null) return [];
    // Of several columns that refer to the same one, as a port of departure and one of arrival, each refers by itself.
    const apart = new Set(told.map(({ theirs }) => theirs)).size < told.length;
    const together = apart ? told.map((pair) => [pair]) : [told].filter((pairs) => pairs.length > 0);
    return together.map((some) => ({
      columns: some.map(({ mine }) => mine as string),
      table: { uri: addressOf(base, 'asset', id), name: path },
      theirs: some.map(({ theirs }) => theirs as string),
    }));
  });
}

/**
 * Assets in an open format. Of JSON-LD the nodes alone, so that parts can be put together.
 * @throws 404 when there is nothing to be seen; 422 when it has no columns and they alone are asked for
 */
export async function writeDescribed(db: Db, who: Who, { ids, as, base, catalog }: DescribedTask): Promise<string> {
  const assets = await readDescribed(db, who, ids, base);
  if (as === 'ttl' || as === 'jsonld') {
    const statements = dcatStatements(assets, base, catalog ?? undefined);
    return written(as, statements);
  }
  const [asset] = assets;
  if (!asset) throw notFound('The asset at this address');
  if (asset.kind === 'column' || asset.columns.length === 0)
    throw invalid(
      `${asset.path} has no columns that are known here.`,
      'Ask for it in Turtle or JSON-LD; or for the table or file that holds them.',
      [{ field: 'as', message: 'is for what has columns' }],
    );
  return `${JSON.stringify(as === 'csvw' ? toCsvw(asset) : toTableSchema(asset), null, 2)}\n`;
}

/** Statements as Turtle, or as nodes of JSON-LD separated by commas. */
async function written(as: 'ttl' | 'jsonld', statements: Parameters<typeof writeTurtle>[0]): Promise<string> {
  if (as === 'ttl') return writeTurtle(statements, DCAT_PREFIXES);
  const { '@graph': nodes = [] } = (await asJsonLd(statements, DCAT_PREFIXES)) as { '@graph'?: readonly object[] };
  return nodes.map((one) => JSON.stringify(one)).join(',\n');
}

const JSON_LD = [`{"@context":${JSON.stringify(DCAT_PREFIXES)},"@graph":[\n`, '\n]}\n'] as const;

/** Where readers reach the server: as it is set, or else as it was just asked. */
export const baseOf = (config: Pick<Config, 'address'>, request: Request): string =>
  config.address ?? `${request.protocol}://${request.get('host') ?? 'localhost'}`;

const named = (name: string) => name.replace(/[^\p{L}\p{N}_.-]+/gu, ' ').trim() || 'asset';
const fileHeaders = (as: DescribedAs, name: string) => ({
  'content-type': `${DESCRIBED_AS[as].type}${as === 'ttl' ? '; charset=utf-8' : ''}`,
  'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(named(name) + DESCRIBED_AS[as].ending)}`,
});

interface Asked<E extends keyof typeof describedEndpoints> {
  readonly who: Who;
  readonly query: QueryOf<(typeof describedEndpoints)[E]>;
  readonly response: Response;
  readonly left: AbortSignal;
  readonly base: string;
}

const inThread = (db: Db, who: Who, task: DescribedTask, left: AbortSignal): Promise<string> =>
  partInThread('writeDescribedThere', task, who.id, left, () => writeDescribed(db, who, task));

const taskOf = (who: Who, as: DescribedAs, base: string, ids: readonly string[], catalog: string | null) => ({
  ids,
  as,
  base,
  catalog,
  whoId: who.id,
  keyId: who.key?.id ?? null,
});

/** Sends one asset in an open format. @throws 404 when its address leads nowhere, or to what the person may not see */
export async function sendDescribed(db: Db, { who, query, response, left, base }: Asked<'one'>): Promise<void> {
  const path = query.address.startsWith(base) ? query.address.slice(base.length) : query.address;
  const id = /^\/assets\/([0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12})$/.exec(path)?.[1] ?? (await idAt(db, path));
  if (!id) throw notFound('The asset at this address');
  const { name } = await getAsset(db, who, id);
  const text = await inThread(db, who, taskOf(who, query.as, base, [id], null), left);
  response.set({ ...fileHeaders(query.as, name), vary: 'Accept' });
  response.end(query.as === 'jsonld' ? JSON_LD.join(text) : text);
}

/** Sends what a filter finds as a catalog, some assets at a time. @throws 422 when it finds more than one answer holds */
export async function sendDescribedMany(
  db: Db,
  finder: FinderClient,
  { who, query, response, left, base }: Asked<'many'>,
): Promise<void> {
  const ids = await chosenBy(finder, who, query, DESCRIBED_MOST + 1);
  if (ids.length > DESCRIBED_MOST)
    throw invalid(
      `More than ${DESCRIBED_MOST.toLocaleString('en')} assets are found.`,
      'Narrow the filter, and take them out in parts.',
      [{ field: 'filter', message: 'finds too many' }],
    );
  const top = await db.one<{ id: string; name: string }>(
    'select id, name from domain where parent_id is null order by name limit 1',
  );
  const asked = new URLSearchParams({
    as: query.as,
    filter: query.filter,
    ...(query.under === undefined ? {} : { under: query.under }),
  });
  const catalog = `${base}/api/v1/described-many?${asked}`;
  const head = catalogStatements({
    uri: catalog,
    name: query.filter === '' ? 'All assets' : `Assets that match ${query.filter}`,
    description: `${ids.length.toLocaleString('en')} assets of the catalog at ${base}, as far as who asked for them may see them.`,
    publisher: { uri: top ? addressOf(base, 'domain', top.id) : `${base}/`, name: top?.name ?? base },
    at: new Date().toISOString(),
  });
  const [first, last] = query.as === 'jsonld' ? JSON_LD : ['', ''];
  const parts = async function* () {
    yield first + (await written(query.as, head));
    for (let at = 0; at < ids.length; at += AT_ONCE)
      yield await inThread(db, who, taskOf(who, query.as, base, ids.slice(at, at + AT_ONCE), catalog), left);
  };
  let sent = 0;
  for await (const part of parts()) {
    if (left.aborted) return;
    // What is wrong with the question is told before anything is sent.
    if (sent === 0) response.writeHead(200, fileHeaders(query.as, 'catalog'));
    const separated = sent > 0 && query.as === 'jsonld' && part !== '' ? `,\n${part}` : part;
    sent += 1;
    if (!response.write(separated))
      await new Promise<void>((resolve) => {
        response.once('drain', resolve);
        left.addEventListener('abort', () => resolve(), { once: true });
      });
  }
  response.end(last);
}
