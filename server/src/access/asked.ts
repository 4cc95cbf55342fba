import { LAID_SCHEMA } from '@idrel/core/access';
import { readAsked, SchemaCatalog } from '@idrel/core/lineage';
import { loadParser } from '@idrel/core/sql';
import { GIVES_MOST } from '@idrel/readers/connectors';
import { keepAsked, kindsAskedSql } from '../catalog/index.ts';
import type { Context } from '../platform/context.ts';
import type { Database, Db } from '../platform/database.ts';
import { threads } from '../platform/threads.ts';
import { wordsVector } from '../scanning/index.ts';

/** What a person asked through the gateway, so many times. */
export interface AskedThere {
  readonly sourceId: string;
  readonly personId: string;
  readonly sql: string;
  readonly tables: readonly string[];
  readonly times: number;
}

/** Statements are put together for so long before they are kept: who asks does not wait, and the same is counted at once. */
const TOGETHER_MS = 2000;

/** Keeps what goes through the gateway, beside what the sources' own counters say. What was asked last before a server falls is not counted. */
export function askedKeeper({ db, log }: Pick<Context, 'db' | 'log'>): (asked: Omit<AskedThere, 'times'>) => void {
  let waiting = new Map<string, AskedThere>();
  let keeping = Promise.resolve();
  const keep = async () => {
    const all = [...waiting.values()];
    waiting = new Map();
    const elsewhere = threads();
    try {
      // Statements of others are read in a thread.
      if (elsewhere) await elsewhere('keepAskedAtGateway', { all }, 'gateway', new AbortController().signal);
      else await keepAskedThere(db, all);
    } catch (error) {
      log.warn({ err: error }, 'what was asked through the gateway could not be counted');
    }
  };
  return (asked) => {
    if (waiting.size === 0)
      setTimeout(() => {
        keeping = keeping.then(keep);
      }, TOGETHER_MS).unref();
    const key = JSON.stringify([asked.sourceId, asked.personId, asked.sql]);
    waiting.set(key, { ...asked, times: (waiting.get(key)?.times ?? 0) + 1 });
  };
}

/** Keeps what was asked: which tables and columns, read off the statements. */
export async function keepAskedThere(db: Database, all: readonly AskedThere[]): Promise<void> {
  await loadParser();
  const tables = await namedTables(db, [...new Set(all.flatMap((one) => one.tables))]);
  const byId = new Map(tables.map((table) => [table.id, table]));
  for (const { sourceId, personId, sql, tables: named, times } of all) {
    const known = named.flatMap((id) => byId.get(id) ?? []);
    const asked = readAsked(sql, catalogOf(known));
    if (!asked) continue;
    const reads = asked.reads.flatMap(({ schema, relation, column, how }) => {
      const table = known.find((one) => one.schema === schema && one.name === relation);
      const id = column === null ? table?.id : table?.columns[column];
      return id ? [[id, how] as const] : [];
    });
    await db.transaction((tx) =>
      keepAsked(tx, sourceId, null, [
        {
          print: asked.print,
          text: asked.text,
          person: { id: personId, times },
          reads,
          words: wordsVector([], asked.gives.slice(0, GIVES_MOST)),
          whole: asked.whole && reads.length === asked.reads.length,
        },
      ]),
    );
  }
}

/** A table that statements name, with its columns and their ids. */
export interface NamedTable {
  readonly id: string;
  readonly schema: string;
  readonly name: string;
  readonly columns: Readonly<Record<string, string>>;
}

/** Tables as statements name them. */
export const namedTables = (db: Db, ids: readonly string[]): Promise<NamedTable[]> =>
  db.rows<NamedTable>(
    `
      select
        t.id,
        case when s.kind in (${kindsAskedSql('here')}) then '${LAID_SCHEMA}' else p.name end as schema,
        case when s.kind in (${kindsAskedSql('here')}) then replace(substr(t.key, strpos(t.key, chr(31)) + 1), chr(31), '/') else t.name end as name,
        coalesce(
          (
            select json_object_agg(c.name, c.id order by c.position)
            from asset c
            where c.parent_id = t.id and c.kind = 'column' and c.gone_at is null
          ),
          '{}'
        ) as columns
      from asset t
      join source s on s.id = t.source_id
      left join asset p on p.id = t.parent_id
      where t.id = any($1::uuid[])`,
    [ids],
  );

/** The relations that a statement over some tables can name. */
export function catalogOf(tables: readonly NamedTable[]): SchemaCatalog {
  const catalog = new SchemaCatalog(['pg_catalog', ...new Set(tables.map(({ schema }) => schema))]);
  for (const { schema, name, columns } of tables) catalog.addRelation({ schema, name, columns: Object.keys(columns) });
  return catalog;
}
