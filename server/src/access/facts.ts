import {
  HANDS_MOST,
  hasFewValues,
  holdsAt,
  isOver,
  type Origin,
  type Person,
  type Policy,
  type ReadableColumn,
  type ReadableTable,
  type Through,
} from '@idrel/core/access';
import { classesOf, kindsAskedSql, kindsSql } from '../catalog/index.ts';
import { isSeen } from '../people/index.ts';
import { type Db, momentOf } from '../platform/database.ts';
import { type Filtered, withMatches } from './matches.ts';
import { LISTS } from './policyRows.ts';

/** Where a table lies, as the gateway names it. @param id SQL */
const placeSql = (id: string) =>
  `select jsonb_build_object('sourceId', r.source_id, 'schema', split_part(r.key, chr(31), 2), 'name', r.name) as place
   from asset r
   where r.id = ${id} and r.gone_at is null`;

/** Where a table of rights lies; null when it is not there. */
export const placeOf = async (db: Db, tableId: string): Promise<Through['at']> =>
  (await db.one<{ place: NonNullable<Through['at']> }>(placeSql('$1'), [tableId]))?.place ?? null;

/** What is known of a person. @param id SQL */
const attributesSql = (id: string) => `coalesce(
  (select jsonb_object_agg(x.key, x.values)
   from (select key, jsonb_agg(value order by value) as values from person_attribute where person_id = ${id} group by key) x), '{}')`;

/** A person as it is decided for them. @param id SQL */
const giverSql = (id: string) => `
  select jsonb_build_object(
    'id', y.id, 'email', y.email, 'outside', y.partner_id is not null, 'attributes', ${attributesSql('y.id')}, 'purpose', null, 'share', null,
    'groups', array(select m.group_id from group_member m where m.person_id = y.id order by 1))
  from person y
  where y.id = ${id}`;

const POLICY = `
  select p.id, p.name, p.effect, p.everyone, p.carried, p.columns, p.columns_but as "columnsBut", p.mask,
         case
           when p.rows -> 'through' is null or p.rows -> 'through' = 'null' then p.rows
           else jsonb_set(p.rows, '{through,at}', coalesce(
             (${placeSql("(p.rows #>> '{through,tableId}')::uuid")}),
             'null'))
         end as rows,
         p.until, p.hours, p.purposes, p.filter, p.share_id as share, p.opens, p.passes_on as "passesOn",
         case when p.given_by is not null then (${giverSql('p.given_by')}) end as giver,
         ${LISTS.groups} as groups, ${LISTS.people} as people, ${LISTS.exceptGroups} as "exceptGroups",
         ${LISTS.assets} as assets, ${LISTS.classes} as classes
  from policy p
  where p.enabled
    -- What is only seen by it is seen where assets are asked for (isSeen): over values it decides nothing.
    and p.opens <> 'see'
    -- What was given on goes with whoever gave it.
    and (p.given_by is null or exists (select from person y where y.id = p.given_by and y.left_at is null))`;

/** The end of a policy comes as a moment of the database from a row, and as text out of JSON: it is a text from here on. */
const asRead = (policy: Filtered): Filtered => ({
  ...policy,
  until: policy.until === null ? null : new Date(policy.until).toISOString(),
});

/** The policies that are on and have not ended, with what their filters say. */
export const policiesSaid = async (db: Db): Promise<Filtered[]> =>
  (await db.rows<Filtered>(`${POLICY} order by p.name`)).map(asRead).filter((policy) => !isOver(policy, momentOf(db)));

/** The policies that are on and have not ended, with the hours and the purposes for which they hold. */
export async function policiesKept(db: Db): Promise<Policy[]> {
  return withMatches(db, await policiesSaid(db), null);
}

/**
 * The policies in force, as what they change is computed: all of them that have not ended, as if their hours were now and their purpose were stated.
 * Who decides for one person over some tables asks {@link factsFor}.
 */
export const policiesInForce = async (db: Db): Promise<Policy[]> =>
  (await policiesKept(db)).map((policy) => ({ ...policy, purposes: [] }));

/** Of policies those that hold at a moment. */
const holding = (policies: readonly Filtered[], moment: number): Filtered[] =>
  policies.map(asRead).filter((policy) => holdsAt(policy, moment));

/** Shares by which a person of a partner reads now: those whose policies are on. @param person SQL of their id */
const sharesSql = (person: string): string => `
  select distinct q.share_id as id, h.number
  from policy q
  join policy_subject s on s.policy_id = q.id
  join group_member m on m.group_id = s.group_id
  left join share h on h.id = q.share_id
  where q.enabled and q.share_id is not null and m.person_id = ${person}`;

/** Shares by which a person of a partner reads. */
export const sharesReadBy = (db: Db, personId: string): Promise<{ id: string; number: number | null }[]> =>
  db.rows(`${sharesSql('$1')} order by 2`, [personId]);

/** People with the groups they are in; all of them, or the ones asked for. Who is of a partner is there once for each share that they read by. */
export const readPeople = (db: Db, ids: readonly string[] | null): Promise<(Person & { name: string })[]> =>
  db.rows(
    `
      select
        p.id, concat(p.name, ' of ' || (select q.name from partner q where q.id = p.partner_id), ', by share ' || r.number) as name,
        p.email, ${attributesSql('p.id')} as attributes, null as purpose, p.partner_id is not null as outside, r.id as share,
        array(select m.group_id from group_member m where m.person_id = p.id order by 1) as groups
      from person p
      left join lateral (${sharesSql('p.id')}) r on p.partner_id is not null
      where p.left_at is null and ($1::uuid[] is null or p.id = any($1))
      order by p.name, r.number`,
    [ids],
  );

/** What a source gives that is asked for a statement itself. */
const GATEWAY = `s.kind in (${kindsAskedSql('there')}) and t.kind in (${kindsSql('queried')})`;
/** What statements can be asked of, wherever they run. */
const ASKED = `(${GATEWAY} or s.kind in (${kindsAskedSql('here')}) and t.kind in (${kindsSql('holdsRows')}))`;

const upFrom = (id: string, parent: string) =>
  `
    (
      with recursive up as (
        select ${id} as id, ${parent} as parent
        union all
        select p.id, p.parent_id
        from asset p
        join up on p.id = up.parent
      )
      select array_agg(id)
      from up
    )`;

/** Classes that a column was held by when a policy rested on them, and that nobody let go. */
const heldOf = (column: string) =>
  `coalesce((select json_agg(h.class_key) from class_hold h where h.asset_id = ${column}), '[]')`;
const carriedBy = (column: string) => `coalesce((select json_agg(k.class_key) from (${classesOf(column)}) k), '[]')`;

export interface TableFacts extends ReadableTable {
  readonly key: string;
  readonly path: string;
  /** Whether statements over it run here, over rows that are laid out. */
  readonly here: boolean;
  readonly sourceId: string;
  readonly domainId: string;
  readonly levels: Readonly<Record<string, number>>;
}

type ColumnRow = Omit<ReadableColumn, 'fewValues' | 'origins'> & {
  profile: { rows: number; nulls: number; distinct: number } | null;
};
type TableRow = Omit<TableFacts, 'columns'> & { columns: ColumnRow[] };

/**
 * Tables and views with their columns and classes, by a condition on `t`.
 * Of those that the gateway reads, or of any source. For decisions a class counts as long as people have not dismissed it: what may be personal is treated as such.
 * @param policies those that decisions will be made by: where the values of columns come from is read only when one of them asks
 */
export const readTables = (
  db: Db,
  condition: string,
  bind: readonly unknown[],
  policies: readonly Policy[],
  sources: Sources = 'gateway',
): Promise<TableFacts[]> =>
  tablesWhere(
    db,
    condition,
    bind,
    policies.some((policy) => policy.carried && policy.effect !== 'allow'),
    sources,
  );

/** Those that the gateway reads, or those of any source. */
type Sources = 'gateway' | 'asked' | 'any';

async function tablesWhere(
  db: Db,
  condition: string,
  bind: readonly unknown[],
  withOrigins: boolean,
  sources: Sources,
): Promise<TableFacts[]> {
  const tables = await db.rows<TableRow>(`${tablesSql(condition, sources)} order by t.key`, bind);
  return withOriginsOf(db, tables, withOrigins);
}

/** Rows of tables, with their columns. @param condition on the table `t` */
const tablesSql = (condition: string, sources: Sources): string => `
  select
    t.id, t.key, split_part(t.key, chr(31), 2) as schema, t.name,
    case s.kind
      when 'postgresql' then split_part(t.key, chr(31), 2) || '.' || t.name
      else replace(substr(t.key, strpos(t.key, chr(31)) + 1), chr(31), '/')
    end as path,
    s.kind in (${kindsAskedSql('here')}) as here,
    t.source_id as "sourceId", t.domain_id as "domainId", ${upFrom('t.id', 't.parent_id')} as ancestors,
    coalesce(
      (
        select json_agg(
          json_build_object(
            'id', c.id,
            'name', c.name,
            'type', coalesce(c.native ->> 'type', ''),
            'classes', ${carriedBy('c.id')},
            'held', ${heldOf('c.id')},
            'profile', (
              select json_build_object(
                'rows', pf.facts -> 'rows', 'nulls', pf.facts -> 'nulls', 'distinct', pf.facts -> 'distinct'
              )
              from column_profile pf
              where pf.asset_id = c.id
            )
          )
          order by c.position, c.name
        )
        from asset c
        where c.parent_id = t.id and c.kind = 'column' and c.gone_at is null
      ),
      '[]'
    ) as columns,
    coalesce(
      (select json_object_agg(c.id, c.level) from asset c where c.parent_id = t.id and c.level is not null), '{}'
    ) as levels
  from asset t
  join source s on s.id = t.source_id
  where ${{ any: 'true', gateway: GATEWAY, asked: ASKED }[sources]} and t.gone_at is null and (${condition})`;

/** The tables as decisions need them; where the values of their columns come from, only when it is asked for. */
async function withOriginsOf(db: Db, tables: readonly TableRow[], asked: boolean): Promise<TableFacts[]> {
  const origins = asked
    ? await originsOf(
        db,
        tables.flatMap((table) => table.columns.map((column) => column.id)),
      )
    : new Map<string, Origin[]>();
  return tables.map((table) => ({
    ...table,
    columns: table.columns.map(({ profile, ...column }) => ({
      ...column,
      level: table.levels[column.id] ?? null,
      fewValues: hasFewValues(profile),
      origins: origins.get(column.id) ?? [],
    })),
  }));
}

/** All that a decision for one person over some tables rests on, and no more. */
export interface Facts {
  /** With the purpose that they state. */
  readonly person: Person & { readonly name: string };
  readonly tables: TableFacts[];
  /** Those that can mean one of the tables, or a column of theirs, for this person. */
  readonly policies: Policy[];
}

/** Who asks, and what they say that they read for: null when they say nothing. */
export interface Asking {
  readonly personId: string;
  readonly purpose: string | null;
  /** Whether a few rows are to be shown, and no statement is run. */
  readonly preview?: boolean;
  /** Of who reads by a share: what it is of; nothing else is there for them. */
  readonly share?: { readonly id: string; readonly assetIds: readonly string[] };
  /** Where they see only some of the source: domains and sights by which they do. */
  readonly seen?: readonly string[];
}

/**
 * Of the tables `t` of a source those that are there for who asks.
 * @param at the number of the first parameter that is free
 */
export function thereFor(
  { share, seen }: Pick<Asking, 'share' | 'seen'>,
  at: number,
): { readonly condition: string; readonly bind: readonly unknown[] } {
  if (share) return { condition: liesIn(`$${at}`), bind: [share.assetIds] };
  if (seen) return { condition: `${isSeen('t', `$${at}`)}`, bind: [seen] };
  return { condition: 'true', bind: [] };
}

/**
 * Reads what decisions for one person over some tables need: of ten thousand policies those few that can mean them, and hold now.
 * @param condition on the table `t`: a text of ours, what it is about is bound
 * @returns undefined when the person is not there
 */
export async function factsFor(
  db: Db,
  { personId, purpose, preview = false, share }: Asking,
  condition: string,
  bind: readonly unknown[],
  sources: Sources = 'gateway',
): Promise<Facts | undefined> {
  const [row] = await db.often<{
    person: Facts['person'] | null;
    asked: boolean;
    tables: TableRow[];
    policies: Filtered[];
  }>(factsSql(condition, sources, bind.length + 1), [...bind, personId]);
  if (!row?.person) return undefined;
  const { asked } = row;
  const person = { ...row.person, purpose, preview, share: share?.id ?? null };
  const tables = await withOriginsOf(db, row.tables, asked);
  // A policy that follows values along lineage means what they come from as well.
  const theirs = asked ? await policiesMeaning(db, [person], tables) : row.policies;
  const policies = holding(await withGivers(db, theirs, tables), momentOf(db));
  const ids = policies.some(({ filter }) => filter !== null) ? [...meantBy(tables).assets] : [];
  return { person, tables, policies: await withMatches(db, policies, ids) };
}

/** All of it in one question: a statement of a reader waits for each. @param at the number of the parameter that names the person */
const factsSql = (condition: string, sources: Sources, at: number): string => `
  with tables as materialized (${tablesSql(condition, sources)}),
  columns as (select c from tables, json_array_elements(tables.columns) c),
  meant as materialized (
    select
      array(
        select id
        from tables
        union
        select unnest(ancestors)
        from tables
        union
        select (c ->> 'id')::uuid
        from columns
      ) as assets,
      array(
        select json_array_elements_text(c -> 'classes')
        from columns
        union
        select json_array_elements_text(c -> 'held')
        from columns
      ) as classes
  )
  select
    (
      select json_build_object(
        'id', p.id, 'name', p.name, 'email', p.email, 'outside', p.partner_id is not null, 'attributes', ${attributesSql('p.id')}, 'groups', array(select m.group_id from group_member m where m.person_id = p.id)
      )
      from person p
      where p.id = $${at}
    ) as person,
    exists (select from policy where enabled and carried and effect <> 'allow') as asked,
    (select coalesce(json_agg(t order by t.key), '[]') from tables t) as tables,
    (
      select coalesce(json_agg(q order by q.name), '[]')
      from (
        ${policiesSql('(select assets from meant)', '(select classes from meant)', `array[$${at}]`, `array(select m.group_id from group_member m where m.person_id = $${at})`)}
      ) q
    ) as policies`;

/** Policies that mean one of the assets or classes, and one of the people: each parameter is SQL. */
const policiesSql = (assets: string, classes: string, people: string, groups: string): string => `
  ${POLICY}
    and p.id in (
      select o.policy_id from policy_object o where o.asset_id = any(${assets}::uuid[])
      union
      select o.policy_id from policy_object o where o.class_key = any(${classes}::text[])
      union
      -- What a filter finds is asked for these assets alone, once it is known which policies mean the person.
      select f.id from policy f where f.filter is not null)
    and (p.everyone or exists (
      select from policy_subject s
      where s.policy_id = p.id and not s.excepted and (s.person_id = any(${people}::uuid[]) or s.group_id = any(${groups}::uuid[]))))`;

/** Whether the table `t` is one of some assets, lies in one, or has one as its column. @param assets SQL of their ids */
export const liesIn = (assets: string): string => `
  t.id in (
    with recursive down as (
      select x.id, x.kind from asset x where x.id = any(${assets}::uuid[])
      union
      select c.id, c.kind
      from down
      join asset c on c.parent_id = down.id
      where c.kind <> 'column'
    )
    select id from down where kind <> 'column'
    union
    select x.parent_id from asset x where x.id = any(${assets}::uuid[]) and x.kind = 'column')`;

/**
 * Tables that policies can mean: what they list and what their filters find, with all below it, and what carries their classes.
 * @param policies of which none follows values along lineage: such a one can mean tables that only lineage tells
 * @param at the number of the first of two parameters
 * @returns a condition on the table `t`, and what is bound
 */
export function meantTables(
  policies: readonly Policy[],
  at: number,
): { readonly condition: string; readonly bind: readonly unknown[] } {
  const assets = [...new Set(policies.flatMap((policy) => [...policy.assets, ...(policy.matched ?? [])]))];
  const classes = [...new Set(policies.flatMap((policy) => policy.classes))];
  // What lies in a table is a column: from those one goes up, from all else down.
  return {
    condition: `
      ${liesIn(`$${at}`)}
      or t.id in (
        select c.parent_id
        from asset c
        where c.kind = 'column'
          and c.id in (
            select k.asset_id from carried k where k.class_key = any($${at + 1}::text[])
            union
            select h.asset_id from class_hold h where h.class_key = any($${at + 1}::text[])))`,
    bind: [assets, classes],
  };
}

/** What a policy lists or names classes of is compared with every asset that a decision looks at: a policy that means none of them decides nothing. */
async function policiesMeaning(db: Db, people: readonly Person[], tables: readonly TableFacts[]): Promise<Filtered[]> {
  const { assets, classes } = meantBy(tables);
  return db.rows<Filtered>(`${policiesSql('$1', '$2', '$3', '$4')} order by p.name`, [
    [...assets],
    [...classes],
    people.map(({ id }) => id),
    people.flatMap(({ groups }) => groups),
  ]);
}

/** With those that decide for whoever gave something on: it opens no more than these let them pass on. */
async function withGivers(db: Db, policies: Filtered[], tables: readonly TableFacts[]): Promise<Filtered[]> {
  const found = new Map(policies.map((policy) => [policy.id, policy]));
  if (policies.every(({ giver }) => giver === null)) return policies;
  const known = new Set<string>();
  for (let hand = 0; hand < HANDS_MOST; hand += 1) {
    const givers = [...found.values()].flatMap(({ giver }) => (giver && !known.has(giver.id) ? [giver] : []));
    if (givers.length === 0) break;
    for (const { id } of givers) known.add(id);
    for (const policy of await policiesMeaning(db, givers, tables)) found.set(policy.id, policy);
  }
  return [...found.values()].sort((one, other) => (one.name < other.name ? -1 : 1));
}

/** Ids and classes of all that a decision over tables looks at. */
function meantBy(tables: readonly TableFacts[]): { readonly assets: Set<string>; readonly classes: Set<string> } {
  const assets = new Set<string>();
  const classes = new Set<string>();
  for (const table of tables) {
    for (const id of [table.id, ...table.ancestors]) assets.add(id);
    for (const column of table.columns) {
      assets.add(column.id);
      for (const key of [...column.classes, ...column.held]) classes.add(key);
      for (const origin of column.origins) {
        for (const id of [origin.id, ...origin.ancestors]) assets.add(id);
        for (const key of origin.classes) classes.add(key);
      }
    }
  }
  return { assets, classes };
}

/**
 * An edge that carries a value on: not one that masks it, nor one that only counts texts or times.
 * `f` and `o` are the assets at its ends.
 */
export const CARRIES = `e.kind <> 'masked' and not (e.kind = 'aggregated' and coalesce(o.native ->> 'type', '') ~ '^(small|big)?int|^numeric|^double|^real' and coalesce(f.native ->> 'type', '') !~ '^(small|big)?int|^numeric|^double|^real')`;

/** For each column the columns whose values it carries on, through any number of steps. */
async function originsOf(db: Db, columns: readonly string[]): Promise<Map<string, Origin[]>> {
  const rows = await db.rows<Origin & { of: string }>(
    `
      with recursive up(of, id) as (
        select c, c
        from unnest($1::uuid[]) c
        union
        select up.of, e.from_id
        from up
        join lineage_edge e on e.to_id = up.id
        join asset f on f.id = e.from_id
        join asset o on o.id = e.to_id
        where ${CARRIES}
      ),
      origin as (select distinct id from up where id <> of)
      select
        up.of, a.id, a.name, ${upFrom('a.id', 'a.parent_id')} as ancestors,
        (
          select coalesce(json_agg(distinct k.class_key), '[]')
          from (${classesOf('a.id')} union select h.class_key from class_hold h where h.asset_id = a.id) k
        ) as classes
      from up
      join origin on origin.id = up.id
      join asset a on a.id = up.id
      where up.of <> up.id`,
    [columns],
  );
  const origins = new Map<string, Origin[]>();
  for (const { of, ...origin } of rows) origins.set(of, [...(origins.get(of) ?? []), origin]);
  return origins;
}
