import { createHash } from 'node:crypto';
import type { ReportAnswer, ReportRow } from '@idrel/contract/access';
import type { FileAnswer } from '@idrel/contract/curation';
import { asShown, Engine, rightBySentence, type TableDecision, type ToldAccess, toldAccess } from '@idrel/core/access';
import { neutral } from '@idrel/core/text';
import { getAsset, kindsSql } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import { asOfMoment, begunAt, type Database, type Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { asSheet, SHEET_TYPES, type SheetFormat } from '../platform/sheets.ts';
import { knownClasses } from '../recognition/index.ts';
import { policiesInForce, readPeople, readTables, type TableFacts } from './facts.ts';
import { byText, openAtSources, TABLES_OF } from './lists.ts';
import { inDomains, knownMoment } from './past.ts';
import { policiesNamed, policyNames } from './policyNames.ts';

/** So many moments are looked at, at most: at each all is decided anew. */
const MOMENTS = 400;
/** So many rows a report may have. */
const ROWS = 50_000;

/** What a report is about. */
export interface ReportAsked {
  readonly asset?: string | undefined;
  readonly class?: string | undefined;
  readonly from: string;
  readonly to: string;
}

/** The assets a report is about: a condition on tables `t`, and which of their columns count. */
interface About {
  readonly name: string;
  readonly condition: string;
  readonly bind: readonly unknown[];
  readonly counts: (column: TableFacts['columns'][number]) => boolean;
  /** A column, where it is about one. */
  readonly only: string | null;
}

async function aboutOf(db: Db, who: Who, { asset: assetId, class: key }: ReportAsked): Promise<About> {
  if (assetId !== undefined) {
    const asset = await getAsset(db, who, assetId);
    who.must('policy administrator', asset.domainId);
    const only = asset.kind === 'column' ? asset.id : null;
    return {
      name: asset.path,
      condition: TABLES_OF,
      bind: [asset.id, only === null ? null : asset.parentId],
      counts: only === null ? () => true : ({ id }) => id === only,
      only,
    };
  }
  const known = key === undefined ? undefined : (await knownClasses(db)).get(key);
  if (key === undefined || !known) throw notFound('The data class');
  return {
    name: known.label,
    // The second parameter is that of an asset.
    condition: `t.kind in (${kindsSql('holdsRows')}) and $2::uuid is null and t.id in (
      select c.parent_id from carried k join asset c on c.id = k.asset_id
      where k.class_key = $1 and k.via <> 'inside' and c.kind = 'column')`,
    bind: [key, null],
    counts: ({ classes }) => classes.includes(key),
    only: null,
  };
}

/** Rows of a table as they were at any time, those of now among them. */
const ever = (table: string, columns: string): string =>
  `(select ${columns}, past_since, 'infinity'::timestamptz as ended_at from public.${table}
    union all
    select ${columns}, past_since, ended_at from past.${table}_gone)`;
/** Of rows `r` those that were there at some time of the period from $1 to $2. */
const THEN = 'r.past_since < $2 and r.ended_at > $1';

/** All that a report concerns at some time of its period. */
interface Concerned {
  readonly tables: readonly string[];
  /** Tables, their columns, and what they lay in. */
  readonly assets: readonly string[];
  readonly columns: readonly string[];
  readonly policies: readonly string[];
}

type Period = readonly [from: string, to: string];

async function concernedBy(
  db: Db,
  { asset, class: key }: ReportAsked,
  about: About,
  period: Period,
): Promise<Concerned> {
  const ids = async (sql: string, bind: readonly unknown[]) =>
    (await db.rows<{ id: string }>(sql, [...period, ...bind])).map(({ id }) => id);
  const [assetEver, carriedEver] = [ever('asset', 'id, parent_id, kind'), ever('carried', 'asset_id, class_key')];
  const tables =
    asset === undefined
      ? await ids(
          `select distinct c.parent_id as id from ${carriedEver} r join ${assetEver} c on c.id = r.asset_id
           where ${THEN} and r.class_key = $3 and c.kind = 'column'`,
          [key],
        )
      : await ids(
          `select distinct r.id from ${assetEver} r
           where ${THEN} and r.kind in (${kindsSql('holdsRows')})
             and (r.id = $3 or r.id = $4 or r.parent_id = $3 or r.parent_id in (
               select s.id from ${assetEver} s where s.parent_id = $3 and s.kind = 'schema'))`,
          about.bind,
        );
  const columns = await ids(
    `select distinct r.id from ${assetEver} r where ${THEN} and r.parent_id = any($3::uuid[])`,
    [tables],
  );
  const above = new Set(tables);
  for (let near: string[] = tables; near.length > 0; ) {
    const parents = await ids(
      `select distinct r.parent_id as id from ${assetEver} r where ${THEN} and r.id = any($3::uuid[]) and r.parent_id is not null`,
      [near],
    );
    near = parents.filter((id) => !above.has(id));
    for (const id of near) above.add(id);
  }
  const assets = [...above, ...columns];
  const policies = await ids(
    `select r.policy_id as id from ${ever('policy_object', 'policy_id, asset_id, class_key')} r
     where ${THEN} and (r.asset_id = any($3::uuid[]) or r.class_key in (
       select class_key from ${carriedEver} k where k.asset_id = any($4::uuid[])
       union
       select class_key from ${ever('class_hold', 'asset_id, class_key')} h where h.asset_id = any($4::uuid[])))
     union
     select r.id from ${ever('policy', 'id, filter, carried')} r where ${THEN} and (r.filter is not null or r.carried)`,
    [assets, columns],
  );
  return { tables, assets, columns, policies };
}

/** The moments within a period at which something changed that decides who reads what is concerned. */
async function momentsOf(db: Db, { tables, assets, columns, policies }: Concerned, period: Period): Promise<number[]> {
  const moved = (table: string, named: string, condition: string) =>
    `select m.at from ${ever(table, named)} r, unnest(array[r.past_since, r.ended_at]) m(at) where ${condition}`;
  const sources = `r.source_id in (select a.source_id from ${ever('asset', 'id, source_id')} a where a.id = any($5::uuid[]))`;
  // What follows values along lineage is decided by what is known of columns upstream, wherever they are.
  const following = `(select p.id from ${ever('policy', 'id, carried')} p where p.id = any($6::uuid[]) and p.carried)`;
  const upstream = `r.class_key in (select o.class_key from ${ever('policy_object', 'policy_id, class_key')} o where o.policy_id in ${following})`;
  const rows = await db.rows<{ at: Date }>(
    `
      with edges as (select exists ${following} as asked)
      select distinct at
      from (
        ${moved('policy', 'id', 'r.id = any($6::uuid[])')}
        union all
        select r.until from ${ever('policy', 'id, until')} r where r.id = any($6::uuid[])
        union all
        ${moved('policy_subject', 'policy_id', 'r.policy_id = any($6::uuid[])')}
        union all
        ${moved('policy_object', 'policy_id', 'r.policy_id = any($6::uuid[])')}
        union all
        ${moved('policy_match', 'policy_id, asset_id', `r.policy_id = any($6::uuid[]) and r.asset_id = any($3::uuid[]) or r.policy_id in ${following}`)}
        union all
        ${moved('carried', 'asset_id, class_key', `r.asset_id = any($4::uuid[]) or ${upstream}`)}
        union all
        ${moved('class_hold', 'asset_id, class_key', `r.asset_id = any($4::uuid[]) or ${upstream}`)}
        union all
        ${moved('asset', 'id', 'r.id = any($3::uuid[])')}
        union all
        ${moved('person', 'id', 'true')}
        union all
        ${moved('person_attribute', 'person_id', `exists (select from ${ever('policy', 'id, rows')} p where p.id = any($6::uuid[]) and p.rows is not null)`)}
        union all
        ${moved(
          'group_member',
          'group_id',
          `r.group_id in (
          select s.group_id from ${ever('policy_subject', 'policy_id, group_id')} s where s.policy_id = any($6::uuid[])
          union
          select p.group_id from ${ever('native_match_party', 'group_id, source_id')} p
          where p.source_id in (select a.source_id from ${ever('asset', 'id, source_id')} a where a.id = any($5::uuid[])))`,
        )}
        union all
        ${moved('native_role', 'source_id', sources)}
        union all
        ${moved('native_match', 'source_id', sources)}
        union all
        ${moved('native_match_party', 'source_id', sources)}
        union all
        ${moved('native_grant', 'asset_id', 'r.asset_id = any($3::uuid[])')}
        union all
        select e.since from lineage_edge e where (select asked from edges)
        union all
        select m.at from ended_edge e, unnest(array[e.since, e.until]) m(at) where (select asked from edges)
      ) x
      where at > $1 and at < $2
      order by 1`,
    [...period, assets, columns, tables, policies],
  );
  // A moment is asked for by its milliseconds: what changed within one is seen at its end.
  return [...new Set(rows.map(({ at }) => at.getTime() + 1))].filter((at) => at < Date.parse(period[1]));
}

/** What somebody could read of a table, or a login at its source, without the time. */
type Held = Omit<ReportRow, 'from' | 'to'>;
type Login = Omit<ReportAnswer['logins'][number], 'from' | 'to'>;

/** Who can read what is asked about, as of a moment. */
async function stateOf(
  then: Db,
  who: Who,
  about: About,
): Promise<{ readonly held: Held[]; readonly logins: Login[]; readonly tables: readonly string[] }> {
  const policies = await policiesInForce(then);
  const tables = await readTables(
    then,
    `${about.condition} and ${inDomains(then, '$3')}`,
    [...about.bind, who.domainsAs('policy administrator')],
    policies,
    'any',
  );
  if (tables.length === 0) return { held: [], logins: [], tables: [] };
  const people = await readPeople(then, null);
  const names = await policyNames(then, who);
  const open = await openAtSources(then, tables, people, about.only);
  const sources = new Map(
    (
      await then.rows<{ id: string; name: string }>('select id, name from source where id = any($1::uuid[])', [
        [...new Set(tables.map(({ sourceId }) => sourceId))],
      ])
    ).map(({ id, name }) => [id, name]),
  );
  const told = ({ login, ways }: (typeof open)[number]) =>
    ways.map(({ how, holder, through }) => ({ login, how, holder, through }));
  const native = new Map<string, Held['atSource']>();
  for (const one of open)
    for (const person of one.people) {
      const key = `${person} ${one.table.id}`;
      native.set(key, [...(native.get(key) ?? []), ...told(one)]);
    }
  const engine = new Engine(policies);
  const known = new Map<string, readonly TableDecision[]>();
  const held = people.flatMap((person) => {
    const reader = engine.for(asShown(person));
    const decisions = known.get(reader.key) ?? tables.map((table) => reader.decide(table));
    known.set(reader.key, decisions);
    return tables.flatMap((table, index): Held[] => {
      const decision = decisions[index] as TableDecision;
      const columns = decision.columns.filter((_, at) =>
        about.counts(table.columns[at] as (typeof table.columns)[number]),
      );
      const read = columns.filter(({ access }) => access !== 'refused');
      const atSource = native.get(`${person.id} ${table.id}`) ?? [];
      if (read.length === 0 && atSource.length === 0) return [];
      const called = (how: ToldAccess) => read.flatMap((column) => (toldAccess(column) === how ? [column.name] : []));
      const limits = read.length > 0 ? decision.rowLimits.map(({ reason }) => reason) : [];
      const because = [...read.flatMap(({ reasons }) => reasons), ...limits].map(({ policyId }) => policyId);
      return [
        {
          personId: person.id,
          person: person.name,
          tableId: table.id,
          table: table.path,
          source: sources.get(table.sourceId) ?? '',
          plain: called('plain'),
          masked: called('masked'),
          preview: called('preview'),
          limited: limits.length > 0,
          policies: policiesNamed(because, names).sort((one, other) => (one.name < other.name ? -1 : 1)),
          atSource,
        },
      ];
    });
  });
  const logins = open
    .filter(({ people: whose }) => whose.length === 0)
    .flatMap((one) =>
      told(one).map((way) => ({
        ...way,
        source: one.source.name,
        program: one.program,
        table: one.table.path,
        tableId: one.table.id,
      })),
    );
  return { held, logins, tables: tables.map(({ id }) => id) };
}

/** Joins what was the same from moment to moment. */
class Spans<T extends object> {
  readonly #open = new Map<string, { readonly what: T; readonly from: string }>();
  readonly done: (T & { readonly from: string; readonly to: string })[] = [];
  /** What is so from a moment on: what was so before and is not among it has ended. */
  at(moment: string, all: readonly T[]): void {
    const now = new Map(all.map((what) => [JSON.stringify(what), what]));
    for (const [key, { what, from }] of this.#open)
      if (!now.has(key)) {
        this.done.push({ ...what, from, to: moment });
        this.#open.delete(key);
      }
    for (const [key, what] of now) if (!this.#open.has(key)) this.#open.set(key, { what, from: moment });
  }
}

/**
 * Who could read an asset, or what carried a class, in a period: with what, by what, and from when to when.
 * @throws 403, 404; 422 when the period is not known as a whole, or too much changed in it
 */
export async function whoCouldRead(db: Database, who: Who, asked: ReportAsked): Promise<ReportAnswer> {
  const about = await aboutOf(db, who, asked);
  const [from, to] = [await knownMoment(db, asked.from, 'from'), await knownMoment(db, asked.to, 'to')];
  if (from >= to)
    throw invalid('The period ends before it begins.', 'Choose a later end.', [
      { field: 'to', message: 'must be after the beginning' },
    ]);
  const period: Period = [new Date(from).toISOString(), new Date(to).toISOString()];
  const concerned = await concernedBy(db, asked, about, period);
  const moments = [from, ...(await momentsOf(db, concerned, period))];
  if (moments.length > MOMENTS)
    throw invalid(
      `Something that decides who reads it changed ${moments.length - 1} times in this period: at most ${MOMENTS} can be looked at.`,
      'Choose a shorter period, or a part of it.',
      [{ field: 'from', message: 'leaves too long a period' }],
    );
  const [people, logins, tables] = [new Spans<Held>(), new Spans<Login>(), new Set<string>()];
  for (const moment of moments) {
    const state = await asOfMoment(db, moment, (then) => stateOf(then, who, about));
    const at = new Date(moment).toISOString();
    people.at(at, state.held);
    logins.at(at, state.logins);
    for (const id of state.tables) tables.add(id);
    if (people.done.length > ROWS) break;
  }
  people.at(period[1], []);
  logins.at(period[1], []);
  if (people.done.length > ROWS)
    throw invalid(`The report would have more than ${ROWS} rows.`, 'Choose a shorter period, or a part of it.', [
      { field: 'from', message: 'leaves too much to tell' },
    ]);
  const rows = people.done.sort(
    (one, other) => byText(one.person, other.person) || byText(one.table, other.table) || byText(one.from, other.from),
  );
  const others = logins.done.sort(
    (one, other) =>
      byText(one.source, other.source) ||
      byText(one.login, other.login) ||
      byText(one.table, other.table) ||
      byText(one.from, other.from),
  );
  return {
    about: about.name,
    from: period[0],
    to: period[1],
    knownFrom: new Date(await begunAt(db)).toISOString(),
    madeAt: new Date().toISOString(),
    madeBy: who.name,
    looked: moments.length,
    tables: tables.size,
    people: new Set(rows.map(({ personId }) => personId)).size,
    rows,
    logins: others,
    digest: createHash('sha256')
      // By what it is about, however that is called by then.
      .update(JSON.stringify([asked.asset ?? asked.class, period, rows, others]))
      .digest('hex'),
  };
}

const HEADS = ['person', 'table', 'source', 'column', 'how', 'rows', 'from', 'to', 'policies', 'right at the source'];

/** A report as a sheet: a row for each person, column and time, and one for each right at a source. */
export async function reportFile(db: Database, who: Who, asked: ReportAsked, format: SheetFormat): Promise<FileAnswer> {
  const { about, from, to, rows, logins } = await whoCouldRead(db, who, asked);
  const lines = rows.flatMap((row) => {
    const line = (column: string, how: string, by: string, right: string) =>
      [row.person, row.table, row.source, column, how, row.limited ? 'some' : 'all', row.from, row.to, by, right].map(
        neutral,
      );
    const by = row.policies.map(({ name }) => name).join('; ');
    return [
      ...row.plain.map((column) => line(column, 'as it is', by, '')),
      ...row.masked.map((column) => line(column, 'masked', by, '')),
      ...row.preview.map((column) => line(column, 'preview', by, '')),
      ...row.atSource.map((way) => line('', 'at the source', '', `${way.login}, ${rightBySentence(way)}`)),
    ];
  });
  const others = logins.map((way) =>
    [
      '',
      way.table,
      way.source,
      '',
      'at the source',
      'all',
      way.from,
      way.to,
      '',
      `${way.login}, ${rightBySentence(way)}`,
    ].map(neutral),
  );
  const content = await asSheet(format, 'Who could read it', [HEADS, ...lines, ...others], { wide: ['policies'] });
  return {
    name: `who could read ${about.replace(/[^\p{L}\p{N}_.-]+/gu, ' ').trim()} ${from.slice(0, 10)} to ${to.slice(0, 10)}.${format}`,
    type: SHEET_TYPES[format],
    content: content.toString('base64'),
  };
}
