import {
  readRoutineText,
  readScript,
  type SchemaCatalog,
  type ScriptLineage,
  type StatementLineage,
} from '@idrel/core/lineage';
import type { ClientBase } from 'pg';
import { type FoundFlow, KEY_SEPARATOR, keyOf } from '../types.ts';
import { OURS } from './columns.ts';
import { calledName, MADE_ROUTINE } from './definitions.ts';

/** Longer bodies are not read: they are data, or made to tire whoever reads them. */
const LONGEST = 1_000_000;
/** So long is read at a stretch before whatever else waits has its turn, in milliseconds. */
const STRETCH = 100;

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

/** What copies passes more on than what transforms, and that more than what masks: of two ways the one counts that passes most on. */
const WEAKEST = ['copied', 'transformed', 'aggregated', 'masked'];

/** What was read of a body. */
type Told = Pick<ScriptLineage, 'statements' | 'unresolved' | 'read'>;

/** What statements do to columns of tables, told by keys: edges with the line on which the first that says so stands. */
function toFlow(
  base: Pick<FoundFlow, 'key' | 'asset' | 'kind' | 'statement'>,
  database: string,
  { statements, unresolved, read }: Told,
): FoundFlow {
  const edges = new Map<string, FoundFlow['edges'][number]>();
  const influences = new Map<string, FoundFlow['influences'][number]>();
  for (const made of statements) {
    // What a function gives is no column of the catalog.
    if (made.kind === 'function' || made.kind === 'select') continue;
    const target = keyOf(database, made.target.schema, made.target.relation);
    for (const edge of made.edges) {
      const found = {
        from: columnKey(database, edge.from),
        to: keyOf(target, edge.to),
        kind: edge.kind,
        line: made.line,
      };
      const id = `${found.from}>${found.to}`;
      const before = edges.get(id);
      if (found.from !== found.to && (!before || WEAKEST.indexOf(before.kind) > WEAKEST.indexOf(found.kind)))
        edges.set(id, before ? { ...found, line: before.line ?? found.line } : found);
    }
    for (const { from, kind } of made.influences)
      influences.set(`${columnKey(database, from)}>${target}>${kind}`, {
        from: columnKey(database, from),
        to: target,
        kind,
      });
  }
  return {
    ...base,
    origin: 'routine',
    problems: unresolved.map(({ reason, line, statement, lost }) => ({ reason, line, statement, lost })),
    statements: Math.max(1, read),
    edges: [...edges.values()],
    influences: [...influences.values()],
  };
}

const columnKey = (database: string, { schema, relation, column }: StatementLineage['edges'][number]['from']) =>
  keyOf(database, schema, relation, column);

const unread = (error: unknown): Told => ({
  statements: [],
  unresolved: [
    {
      statement: '',
      line: 1,
      reason: `It cannot be read: ${error instanceof Error ? error.message : String(error)}`,
      lost: true,
    },
  ],
  read: 1,
});

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
  let began = performance.now();
  const rest = async () => {
    if (performance.now() - began < STRETCH) return;
    await new Promise((resolve) => setImmediate(resolve));
    began = performance.now();
  };
  for (const { schema, name, takes, kind, definition, tables } of routines) {
    const key = keyOf(database, schema, calledName(name, takes));
    const base = { key, kind: kind === 'p' ? 'procedure' : 'function', statement: definition };
    flows.push(
      toFlow(
        base,
        database,
        attempt(definition, () => readRoutineText(definition, catalog, tables ?? [])),
      ),
    );
    await rest();
  }
  for (const { schema, relation, name, definition } of rules) {
    const asset = keyOf(database, schema, relation);
    const base = { key: [asset, 'rule', name].join(KEY_SEPARATOR), asset, kind: 'rule', statement: definition };
    flows.push(
      toFlow(
        base,
        database,
        attempt(definition, () => readScript(definition, catalog.within())),
      ),
    );
    await rest();
  }
  return flows;
}

function attempt(definition: string, read: () => Told): Told {
  if (definition.length > LONGEST) return unread(`it is longer than ${LONGEST.toLocaleString('en')} characters`);
  try {
    return read();
  } catch (error) {
    return unread(error);
  }
}
