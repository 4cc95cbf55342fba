import type { Part, TableDetails } from '@idrel/core/scanning';
import type { ClientBase } from 'pg';
import { groupBy, OURS } from './columns.ts';

/** Joins the table `of` that is read, and what is said of the object itself. */
const ofTable = (of: string, object: string, catalog: string) => `
  join pg_class c on c.oid = ${of} join pg_namespace n on n.oid = c.relnamespace
  left join pg_description d on d.objoid = ${object} and d.classoid = '${catalog}'::regclass and d.objsubid = 0
  where c.relkind in ('r', 'p', 'v', 'm', 'f') and not c.relispartition and ${OURS}`;

const indexesOf = (chosen: string) => `
  select
    i.indrelid::int as oid, x.relname as name, pg_get_indexdef(i.indexrelid) as definition, d.description as comment,
    i.indisunique as unique, not i.indisvalid as off, i.indisprimary as primary, i.indpred is not null as partial,
    i.indkey[0]::int as first,
    (
      select json_agg(
        coalesce(
          (select quote_ident(a.attname) from pg_attribute a where a.attrelid = i.indrelid and a.attnum = i.indkey[k - 1]),
          pg_get_indexdef(i.indexrelid, k, false)
        )
        order by k
      )
      from generate_series(1, i.indnkeyatts) k
    ) as columns,
    i.indnkeyatts::int as "keyed"
  from pg_index i
  join pg_class x on x.oid = i.indexrelid ${ofTable('i.indrelid', 'i.indexrelid', 'pg_class')} ${chosen}
  order by 1, 2`;
const INDEX_MARKS = `
  select i.indrelid::int as oid, sum(hashtextextended(concat_ws(' ', i.xmin, x.xmin, d.xmin), i.indexrelid::int8))::text as mark
  from pg_index i join pg_class x on x.oid = i.indexrelid ${ofTable('i.indrelid', 'i.indexrelid', 'pg_class')} group by 1`;

const TRIGGERS = `
  select
    t.tgrelid::int as oid, t.tgname as name, pg_get_triggerdef(t.oid) as definition, t.tgenabled = 'D' as off,
    d.description as comment
  from pg_trigger t ${ofTable('t.tgrelid', 't.oid', 'pg_trigger')} and not t.tgisinternal
  order by 1, 2`;

const RULES = `
  select
    r.ev_class::int as oid, r.rulename as name, pg_get_ruledef(r.oid) as definition, r.ev_enabled = 'D' as off,
    d.description as comment
  from pg_rewrite r ${ofTable('r.ev_class', 'r.oid', 'pg_rewrite')} and r.rulename <> '_RETURN'
  order by 1, 2`;

const CONSTRAINTS = `
  select
    k.conrelid::int as oid, k.contype as type, k.conname as name, pg_get_constraintdef(k.oid) as definition,
    not k.convalidated as off, d.description as comment,
    (
      select array_agg(a.attname::text order by o.i)
      from unnest(k.conkey) with ordinality o(num, i)
      join pg_attribute a on a.attrelid = k.conrelid and a.attnum = o.num
    ) as columns
  from pg_constraint k ${ofTable('k.conrelid', 'k.oid', 'pg_constraint')} and k.contype in ('c', 'u', 'x')
  order by 1, 3`;

const PARENTS = `
  select i.inhrelid::int as oid, pn.nspname || '.' || p.relname as name
  from pg_inherits i
  join pg_class p on p.oid = i.inhparent
  join pg_namespace pn on pn.oid = p.relnamespace ${ofTable('i.inhrelid', 'i.inhrelid', 'pg_class')}
  order by 1, i.inhseqno`;

interface PartRow {
  oid: number;
  name: string;
  definition: string;
  comment: string | null;
  off: boolean;
  columns?: string[] | null;
}
interface IndexRow extends PartRow {
  unique: boolean;
  primary: boolean;
  partial: boolean;
  /** Number of the first column; 0 for an expression. */
  first: number;
  keyed: number;
}

/** What tables have beside columns and indexes, by the table's oid. */
export type Besides = ReadonlyMap<number, TableDetails>;

/** Indexes of tables by the table's oid; and which columns are unique by themselves, by an index that holds for all rows. */
export interface ReadIndexes {
  readonly of: ReadonlyMap<number, readonly Part[]>;
  readonly unique: ReadonlyMap<number, ReadonlySet<number>>;
}

const part = (row: PartRow): Part => ({
  name: row.name,
  definition: row.definition,
  ...(row.columns && row.columns.length > 0 ? { columns: row.columns } : {}),
  ...('unique' in row && row.unique ? { unique: true as const } : {}),
  ...(row.off ? { off: true as const } : {}),
  ...(row.comment ? { comment: row.comment } : {}),
});

const ask = async <R extends { oid: number }>(client: ClientBase, sql: string, bind: unknown[] = []) =>
  groupBy((await client.query<R>(sql, bind)).rows, (row) => row.oid);

/** Reads constraints, triggers, rules and inheritance of all tables: one statement a kind. */
export async function readBesides(client: ClientBase): Promise<Besides> {
  const constraints = await ask<PartRow & { type: string }>(client, CONSTRAINTS);
  const triggers = await ask<PartRow>(client, TRIGGERS);
  const rules = await ask<PartRow>(client, RULES);
  const parents = await ask<{ oid: number; name: string }>(client, PARENTS);
  const of = new Map<number, TableDetails>();
  for (const oid of new Set([...constraints.keys(), ...triggers.keys(), ...rules.keys(), ...parents.keys()])) {
    const made = constraints.get(oid) ?? [];
    const lists = {
      uniques: made.filter((row) => row.type === 'u'),
      checks: made.filter((row) => row.type === 'c'),
      exclusions: made.filter((row) => row.type === 'x'),
      triggers: triggers.get(oid) ?? [],
      rules: rules.get(oid) ?? [],
    };
    const inherits = (parents.get(oid) ?? []).map((row) => row.name);
    of.set(oid, {
      ...Object.fromEntries(
        Object.entries(lists).flatMap(([kind, rows]) => (rows.length > 0 ? [[kind, rows.map(part)]] : [])),
      ),
      ...(inherits.length > 0 ? { inherits } : {}),
    });
  }
  return of;
}

/** What changes with each change of one of a table's indexes, or of what is said of it: read many times faster than their definitions. What their columns are called is part of the columns. */
export const readIndexMarks = async (client: ClientBase): Promise<Map<number, string>> =>
  new Map((await client.query<{ oid: number; mark: string }>(INDEX_MARKS)).rows.map((row) => [row.oid, row.mark]));

/** Reads indexes. @param oids of these tables alone; of all when left out */
export async function readIndexes(client: ClientBase, oids?: readonly number[]): Promise<ReadIndexes> {
  const indexes =
    oids?.length === 0
      ? new Map<number, IndexRow[]>()
      : await ask<IndexRow>(client, indexesOf(oids ? 'and i.indrelid = any($1::oid[])' : ''), oids ? [oids] : []);
  const unique = new Map<number, Set<number>>();
  for (const [oid, rows] of indexes) {
    const alone = rows
      .filter((row) => row.unique && !row.primary && !row.partial && !row.off && row.keyed === 1 && row.first > 0)
      .map((row) => row.first);
    if (alone.length > 0) unique.set(oid, new Set(alone));
  }
  return { of: new Map([...indexes].map(([oid, rows]) => [oid, rows.map(part)])), unique };
}
