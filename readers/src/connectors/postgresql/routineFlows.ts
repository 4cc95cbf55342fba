import { type ColumnName, readRoutineText, readScript, type SchemaCatalog } from '@idrel/core/lineage';
import type { ClientBase } from 'pg';
import { takingTurns } from '../turns.ts';
import { type FoundFlow, KEY_SEPARATOR, keyOf } from '../types.ts';
import { attempt, toldFlow } from '../written.ts';
import { OURS } from './columns.ts';
import { calledName, MADE_ROUTINE } from './definitions.ts';

/** Longer bodies are not read: they are data, or made to tire whoever reads them. In characters. */
const LONGEST = 1_000_000;

/** Functions and procedures that people made, and the tables on which each runs as a trigger. */
const ROUTINES = `
  select
    n.nspname as schema, p.proname as name, oidvectortypes(p.proargtypes) as takes, p.prokind as kind,
    pg_get_functiondef(p.oid) as definition,
    (
      select json_agg(distinct jsonb_build_object('schema', tn.nspname, 'relation', c.relname))
      from pg_trigger t
      join pg_class c on c.oid = t.tgrelid
      join pg_namespace tn on tn.oid = c.relnamespace
      where t.tgfoid = p.oid and not t.tgisinternal and not c.relispartition
    ) as tables
  from pg_proc p
  join pg_namespace n on n.oid = p.pronamespace
  where p.prokind <> 'a' and ${MADE_ROUTINE}
  order by 1, 2, 3`;

const RULES = `
  select n.nspname as schema, c.relname as relation, r.rulename as name, pg_get_ruledef(r.oid) as definition
  from pg_rewrite r
  join pg_class c on c.oid = r.ev_class
  join pg_namespace n on n.oid = c.relnamespace
  where r.rulename <> '_RETURN' and ${OURS}
  order by 1, 2, 3`;

interface RoutineRow {
  schema: string;
  name: string;
  takes: string;
  kind: string;
  definition: string;
  tables: { schema: string; relation: string }[] | null;
}
interface RuleRow {
  schema: string;
  relation: string;
  name: string;
  definition: string;
}

/**
 * What the bodies of functions, procedures and triggers, and the actions of rules, do to columns: each is a flow. A body that cannot be read becomes a
 * flow that says so.
 *
 * @param catalog what statements may name; its search path is that which sessions begin with
 */
export async function readRoutineFlows(
  client: ClientBase,
  database: string,
  catalog: SchemaCatalog,
): Promise<FoundFlow[]> {
  await client.query('set search_path = pg_catalog');
  const routines = (await client.query<RoutineRow>(ROUTINES)).rows;
  const rules = (await client.query<RuleRow>(RULES)).rows;
  const flows: FoundFlow[] = [];
  const ends = {
    column: ({ schema, relation, column }: ColumnName) => keyOf(database, schema, relation, column),
    table: ({ schema, relation }: Pick<ColumnName, 'schema' | 'relation'>) => keyOf(database, schema, relation),
  };
  const rest = takingTurns();
  for (const { schema, name, takes, kind, definition, tables } of routines) {
    const key = keyOf(database, schema, calledName(name, takes));
    const base = {
      key,
      kind: kind === 'p' ? 'procedure' : 'function',
      origin: 'routine' as const,
      statement: definition,
    };
    flows.push(
      toldFlow(
        base,
        attempt(definition, LONGEST, () => readRoutineText(definition, catalog, tables ?? [])),
        ends,
      ),
    );
    await rest();
  }
  for (const { schema, relation, name, definition } of rules) {
    const asset = keyOf(database, schema, relation);
    const base = {
      key: [asset, 'rule', name].join(KEY_SEPARATOR),
      asset,
      kind: 'rule',
      origin: 'routine' as const,
      statement: definition,
    };
    flows.push(
      toldFlow(
        base,
        attempt(definition, LONGEST, () => readScript(definition, catalog.within())),
        ends,
      ),
    );
    await rest();
  }
  return flows;
}
