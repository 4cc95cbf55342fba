import { KINDS, type SourceKind } from '@idrel/contract/sources';
import type { Standing } from '@idrel/core/catalog';
import { Finder, type FinderAsset, type FinderNames } from '@idrel/core/catalog/finder';
import { type Label, labelsOf } from '@idrel/core/glossary';
import { DATA_CLASSES } from '@idrel/core/recognition';
import type { Database, Db } from '../platform/database.ts';
import { ARRIVED } from './classesSql.ts';
import { TELLING } from './filterSql.ts';
import { BYTES } from './rows.ts';

/** So many assets are read at a time. */
const AT_ONCE = 20_000;
/** More than this, and than was known, is not taken in piece by piece. */
const MOST_TOUCHED = 50_000;
/** The picture is read anew when nobody looked for so long: what was touched is written down for a day (`forgetTouched`). */
const READ_ANEW_AFTER = 20 * 3_600_000;

interface Row {
  id: string;
  parent_id: string | null;
  source_id: string;
  domain_id: string;
  opened_id: string | null;
  kind: string;
  name: string;
  key: string;
  position: number;
  level: number | null;
  priority: number;
  standing: Standing;
  described: boolean;
  gone: boolean;
  type: string | null;
  bytes: number | null;
  created: number;
  changed: number;
  words: string[] | null;
}

const FIELDS = `
  a.id, a.parent_id, a.source_id, a.domain_id, a.opened_id, a.kind, a.name, a.key, a.position, a.level, a.standing, greatest(coalesce(a.priority_set, v.found, 0), coalesce(v.inherited, 0)) as priority,
  coalesce(a.native ->> 'type', a.native ->> 'returns', a.native ->> 'form') as type,
  ${BYTES} as bytes,
  extract(epoch from a.first_seen)::float8 * 1000 as created, extract(epoch from coalesce(a.changed_at, a.first_seen))::float8 * 1000 as changed, coalesce(a.description, '') <> '' as described, a.gone_at is not null as gone,
  case
    when s.asset_id is not null then
      tsvector_to_array(
        s.words || case when a.words = '' then coalesce((select n.words from name_words n where n.name = a.name), '') else a.words end
      )
    when a.words <> '' then tsvector_to_array(a.words)
  end as words`;
/** Assets with what is said about them at length: few have any. @param these which of these are read; all, where it is empty */
const assetsWhere = (these: string): string => `
  asset a
  left join (
    select asset_id, string_agg(words::text, ' ')::tsvector as words
    from said_words
    ${these && `where asset_id ${these}`}
    group by asset_id
  ) s on s.asset_id = a.id
  left join asset_priority v on v.asset_id = a.id
  ${these && `where a.id ${these}`}`;

/** What hangs on assets: of these, or of all. */
interface Carried {
  readonly classes: ReadonlyMap<string, readonly string[]>;
  readonly arrived: ReadonlyMap<string, readonly string[]>;
  readonly owners: ReadonlyMap<string, readonly string[]>;
  readonly stewards: ReadonlyMap<string, readonly string[]>;
  readonly custodians: ReadonlyMap<string, readonly string[]>;
  readonly experts: ReadonlyMap<string, readonly string[]>;
  readonly terms: ReadonlyMap<string, readonly string[]>;
  readonly tags: ReadonlyMap<string, readonly string[]>;
  readonly came: ReadonlyMap<string, readonly string[]>;
  readonly notices: ReadonlyMap<string, readonly string[]>;
  readonly uses: ReadonlyMap<string, { readonly calls: number; readonly asked: number }>;
  readonly waiting: ReadonlyMap<string, FinderAsset['waiting']>;
  readonly certified: ReadonlyMap<string, number>;
  readonly madeFrom: ReadonlyMap<string, readonly string[]>;
}

/**
 * A {@link Finder} over what the database holds. Before each question it takes in what was committed since the last one; so whoever has written something
 * finds it, on whichever server they ask.
 */
export class KeptFinder {
  readonly #db: Database;
  #finder: Finder | undefined;
  /** All transactions before this one are taken in, and of those after it the ones in `#seen`. */
  #floor = '0';
  #seen = new Set<string>();
  #followedAt = 0;

  constructor(db: Database) {
    this.#db = db;
  }

  /** The finder as of now. Not to be called again before it has answered; where it fails, the next call begins where this one did. */
  async upToDate(): Promise<Finder> {
    const known = this.#finder;
    if (!known || Date.now() - this.#followedAt > READ_ANEW_AFTER || isWasteful(known)) return this.#readAll();
    const begun = Date.now();
    const { floor, seen, ids, names } = await this.#touched();
    // Where most of it is new, reading all in one go is several times faster than taking in what was touched.
    if (ids.length > Math.max(MOST_TOUCHED, known.size)) return this.#readAll();
    if (names) known.rename(await namesOf(this.#db));
    for (let at = 0; at < ids.length; at += AT_ONCE) await this.#takeIn(known, ids.slice(at, at + AT_ONCE));
    // Only now it is taken in: what failed on the way is looked for again.
    this.#floor = floor;
    this.#seen = new Set([...this.#seen, ...seen].filter((at) => BigInt(at) >= BigInt(floor)));
    this.#followedAt = begun;
    return known;
  }

  /** What was touched by transactions that have been committed since. */
  async #touched(): Promise<{ floor: string; seen: ReadonlySet<string>; ids: string[]; names: boolean }> {
    const rows = await this.#db.often<{ floor: string; at: string | null; asset_ids: string[] | null }>(
      `
        select s.floor::text, t.at::text, t.asset_ids
        from (select pg_snapshot_xmin(pg_current_snapshot()) as floor) s
        left join touched t on t.at >= $1::xid8 and t.at <> all($2::xid8[])`,
      [this.#floor, [...this.#seen]],
    );
    const ids = new Set<string>();
    const seen = new Set<string>();
    let names = false;
    for (const { at, asset_ids: touched } of rows) {
      if (at === null) continue;
      seen.add(at);
      if (touched === null) names = true;
      else for (const id of touched) ids.add(id);
    }
    return { floor: rows[0]?.floor ?? this.#floor, seen, ids: [...ids], names };
  }

  async #takeIn(finder: Finder, ids: readonly string[]): Promise<void> {
    // What holds others comes before them.
    const rows = await this.#db.rows<Row>(
      `select ${FIELDS} from ${assetsWhere('= any($1::uuid[])')} order by a.depth`,
      [ids],
    );
    const carried = await carriedBy(this.#db, ids);
    const there = new Set<string>();
    for (const row of rows) {
      there.add(row.id);
      finder.put(assetOf(row, carried));
    }
    for (const id of ids) if (!there.has(id)) finder.drop(id);
  }

  async #readAll(): Promise<Finder> {
    const finder = new Finder();
    this.#seen = new Set();
    const begun = Date.now();
    await this.#db.transaction(async (tx) => {
      // All of it as of one moment.
      await tx.run('set transaction isolation level repeatable read, read only');
      const now = await tx.one<{ floor: string }>('select pg_snapshot_xmin(pg_current_snapshot())::text as floor');
      this.#floor = now?.floor ?? '0';
      const carried = await carriedBy(tx);
      finder.rename(await namesOf(tx));
      await tx.run(
        `declare every_asset no scroll cursor for select ${FIELDS} from ${assetsWhere('')} order by a.source_id, a.key`,
      );
      for (;;) {
        const rows = await tx.rows<Row>(`fetch ${AT_ONCE} from every_asset`);
        for (const row of rows) finder.put(assetOf(row, carried));
        if (rows.length < AT_ONCE) break;
      }
    });
    this.#finder = finder;
    this.#followedAt = begun;
    return finder;
  }
}

/** Most of its slots are of assets that are no more: it is made anew. */
const isWasteful = (finder: Finder): boolean => finder.slots > 2 * finder.size + 100_000;

function assetOf(row: Row, carried: Carried): FinderAsset {
  const of = (lists: ReadonlyMap<string, readonly string[]>) => (lists.size > 0 && lists.get(row.id)) || NONE;
  return {
    id: row.id,
    parentId: row.parent_id,
    sourceId: row.source_id,
    domainId: row.domain_id,
    openedId: row.opened_id,
    kind: row.kind,
    name: row.name,
    key: row.key,
    position: row.position,
    words: row.words ?? NONE,
    classes: of(carried.classes),
    arrived: of(carried.arrived),
    owners: of(carried.owners),
    stewards: of(carried.stewards),
    custodians: of(carried.custodians),
    experts: of(carried.experts),
    terms: of(carried.terms),
    tags: of(carried.tags),
    came: of(carried.came),
    notices: of(carried.notices),
    level: row.level,
    priority: row.priority,
    standing: row.standing,
    described: row.described,
    gone: row.gone,
    uses: carried.uses.get(row.id)?.calls ?? 0,
    bytes: row.bytes,
    type: row.type,
    asked: carried.uses.get(row.id)?.asked ?? null,
    created: row.created,
    changed: row.changed,
    certified: carried.certified.get(row.id) ?? null,
    madeFrom: of(carried.madeFrom),
    waiting: carried.waiting.get(row.id),
  };
}
const NONE: readonly string[] = [];
/** Terms of assets; those that are removed are carried by nothing. */
const TERMS_OF = `
  (select at.asset_id, at.term_id from asset_term at join term t on t.id = at.term_id and t.removed_at is null) terms_of`;
/** Tags of assets as the finder keeps them: the id, and with a value both. */
const TAGS_OF = `
  (select at.asset_id, at.distance, v.tag
   from tag_here at
   cross join lateral (values (at.tag_id::text), (case when at.value <> '' then at.tag_id || '/' || at.value end)) v(tag)
   where v.tag is not null) tags_of`;

/** From what assets are made in one step: tables by whatever flows into them, columns by their values. */
const STEPS_TO = `
  (
    select to_id as asset_id, from_id from lineage_feed
    union all
    select to_id, from_id from lineage_edge where not wrong
  ) steps_to`;

/** What hangs on these assets; without them, on all. */
async function carriedBy(db: Db, ids?: readonly string[]): Promise<Carried> {
  const these = ids ? 'where asset_id = any($1::uuid[])' : '';
  const bind = ids ? [ids] : [];
  const lists = async (table: string, value: string, also = '') => {
    const rows = await db.rows<{ asset_id: string; list: string[] }>(
      `
        select asset_id, array_agg(distinct ${value}) as list
        from ${table} ${these} ${also && (these ? `and ${also}` : `where ${also}`)}
        group by 1`,
      bind,
    );
    return new Map(rows.map((row) => [row.asset_id, row.list]));
  };
  const uses = await db.rows<{ asset_id: string; calls: number; asked: number }>(
    `select asset_id, calls, extract(epoch from moved_at)::float8 * 1000 as asked from asset_use ${these}`,
    bind,
  );
  const waiting = await db.rows<{ asset_id: string; list: FinderAsset['waiting'] }>(
    `
      select asset_id, json_agg(json_build_object('classKey', class_key, 'confidence', confidence)) as list
      from finding_waiting ${these}
      group by 1`,
    bind,
  );
  const certified = await db.rows<{ asset_id: string; at: number }>(
    `
      select c.asset_id, extract(epoch from c.at)::float8 * 1000 as at
      from certification c
      join asset a on a.id = c.asset_id and a.standing = 'trusted'
      where c.lapsed_at is null ${ids ? 'and c.asset_id = any($1::uuid[])' : ''}`,
    bind,
  );
  return {
    certified: new Map(certified.map(({ asset_id: id, at }) => [id, at])),
    waiting: new Map(waiting.map((row) => [row.asset_id, row.list])),
    classes: await lists('carried', 'class_key'),
    arrived: await lists(ARRIVED, 'class_key'),
    owners: await lists('asset_person', 'person_id::text', "role = 'owner'"),
    stewards: await lists('asset_person', 'person_id::text', "role = 'steward'"),
    custodians: await lists('asset_person', 'person_id::text', "role = 'custodian'"),
    experts: await lists('asset_person', 'person_id::text', "role = 'expert'"),
    terms: await lists(TERMS_OF, 'term_id::text'),
    tags: await lists(TAGS_OF, 'tag'),
    came: await lists(TAGS_OF, 'tag', 'distance is not null'),
    notices: await lists('notice', 'kind', 'holds'),
    madeFrom: await lists(STEPS_TO, 'from_id::text'),
    uses: new Map(uses.map((row) => [row.asset_id, row])),
  };
}

async function namesOf(db: Db): Promise<FinderNames> {
  const named = async (table: string) =>
    new Map(
      (await db.rows<{ id: string; name: string }>(`select id, name from ${table}`)).map((row) => [row.id, row.name]),
    );
  const domains = await db.rows<{ id: string; name: string; parentId: string | null }>(
    'select id, name, parent_id as "parentId" from domain',
  );
  const read = await db.rows<{ id: string; at: number }>(
    `
      select source_id as id, extract(epoch from max(ended_at))::float8 * 1000 as at
      from scan_run
      where state in ('done', 'partly done') and ended_at is not null
      group by 1`,
  );
  const sources = await db.rows<{ id: string; name: string; kind: SourceKind }>('select id, name, kind from source');
  const classes = await db.rows<{ key: string; label: string }>('select key, label from data_class');
  return {
    // Of the classes that ship, unless the organisation calls them otherwise, and of its own.
    classes: new Map([...DATA_CLASSES, ...classes].map(({ key, label }) => [key, label])),
    sources: new Map(sources.map(({ id, name }) => [id, name])),
    told: new Set(
      (await db.rows<{ id: string }>(`select id from source where id in (${TELLING})`)).map(({ id }) => id),
    ),
    paths: new Map(sources.map(({ id, kind }) => [id, KINDS[kind]])),
    read: new Map(read.map(({ id, at }) => [id, at])),
    domains: new Map(domains.map(({ id, name, parentId }) => [id, { name, parentId }])),
    people: await named('party'),
    terms: new Map(
      (
        await db.rows<{ id: string; name: string; language: string; labels: readonly Label[] }>(
          'select id, name, language, labels from term where removed_at is null',
        )
      ).map((term) => [term.id, { name: term.name, labels: labelsOf(term).map(({ text }) => text) }]),
    ),
    tags: await named('tag'),
  };
}

/** Takes away what every server has read long ago. */
export const forgetTouched = (db: Db): Promise<number> =>
  db.run("delete from touched where noted < now() - interval '1 day'");
