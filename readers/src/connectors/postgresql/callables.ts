import { type CallableFacts, type FunctionFact, KNOWN_EXTENSIONS } from '@idrel/core/access';
import type { ClientBase } from 'pg';

/** The system's own schema, and those in which a known extension lies. */
const SCHEMAS = `
  select n.oid
  from pg_namespace n
  where n.nspname = 'pg_catalog'
  union
  select x.extnamespace
  from pg_extension x
  where x.extname = any($1)`;

/** Functions of those schemas and those behind conversions; types stay numbers, which are named once. */
const FUNCTIONS = `
  select
    p.oid::int as oid, n.nspname as schema, p.proname as name, p.proargtypes::text as args, p.prorettype::int as result,
    p.pronargs - p.pronargdefaults as required, p.pronargs as most, p.provariadic <> 0 as variadic,
    p.provolatile as volatility, e.extname as extension
  from pg_proc p
  join pg_namespace n on n.oid = p.pronamespace
  left join pg_depend d on d.classid = 'pg_proc'::regclass and d.objid = p.oid and d.deptype = 'e'
  left join pg_extension e on e.oid = d.refobjid
  where p.pronamespace in (${SCHEMAS}) or p.oid in (select k.castfunc from pg_cast k)`;
const OPERATORS = `
  select s.nspname as schema, o.oprname as name, o.oprcode::int as function
  from pg_operator o
  join pg_namespace s on s.oid = o.oprnamespace
  where o.oprnamespace in (${SCHEMAS}) and o.oprcode <> 0`;
const TYPES = `
  select
    t.oid::int as oid, n.nspname as schema, t.typname as name, e.extname as extension, t.typbasetype::int as base,
    t.typelem::int as element, case when n.nspname = 'pg_catalog' then null else format_type(t.oid, null) end as written
  from pg_type t
  join pg_namespace n on n.oid = t.typnamespace
  left join pg_depend d on d.classid = 'pg_type'::regclass and d.objid = t.oid and d.deptype = 'e'
  left join pg_extension e on e.oid = d.refobjid`;
const CASTS =
  'select castsource::int as source, casttarget::int as target, castfunc::int as function from pg_cast where castfunc <> 0';

type NumberedFunction = Omit<FunctionFact, 'args' | 'result'> & { oid: number; args: string; result: number };
interface NumberedType {
  oid: number;
  schema: string;
  name: string;
  extension: string | null;
  written: string | null;
  /** What a domain is made over, and what a list holds; 0 for none. */
  base: number;
  element: number;
}

/** What statements can call at this source, as its own catalog tells. Names are found in pg_catalog alone. */
export async function readCallables(client: ClientBase): Promise<CallableFacts> {
  const known = [[...KNOWN_EXTENSIONS]];
  const rows = async <T extends object>(sql: string, bind: unknown[] = []) => (await client.query<T>(sql, bind)).rows;
  const types = new Map((await rows<NumberedType>(TYPES)).map((type) => [type.oid, type]));
  const nameOf = (oid: number) => types.get(oid)?.name ?? String(oid);
  const functions = new Map(
    (await rows<NumberedFunction>(FUNCTIONS, known)).map(({ oid, args, result, ...fact }): [number, FunctionFact] => [
      oid,
      { ...fact, args: args === '' ? '' : args.split(' ').map(Number).map(nameOf).join(','), result: nameOf(result) },
    ]),
  );
  const operators = await rows<{ schema: string; name: string; function: number }>(OPERATORS, known);
  const foreign = new Map<number, string>();
  for (const { source, target, function: oid } of await rows<{ source: number; target: number; function: number }>(
    CASTS,
  )) {
    const [by, into] = [functions.get(oid), types.get(target)];
    // What an extension brought was installed by whoever may do anything. A type of somebody's own is turned into by nothing that a statement can call.
    const trusted = by && (by.schema === 'pg_catalog' || by.extension !== null);
    const reached =
      into && (into.schema === 'pg_catalog' || (into.extension !== null && KNOWN_EXTENSIONS.has(into.extension)));
    if (!trusted && reached) foreign.set(source, by ? `${by.schema}.${by.name}` : 'a function that cannot be seen');
  }
  // A domain is converted as what it is made over, a list element by element.
  for (let grown = true; grown; ) {
    grown = false;
    for (const { oid, base, element } of types.values()) {
      const by = foreign.get(base) ?? foreign.get(element);
      if (by === undefined || foreign.has(oid)) continue;
      foreign.set(oid, by);
      grown = true;
    }
  }
  const schemas = new Set([...functions.values()].map((fact) => fact.schema));
  return {
    functions: [...functions.values()],
    operators: operators.flatMap(({ function: oid, ...operator }) => {
      const behind = functions.get(oid) ?? {
        schema: '',
        name: '',
        args: '',
        result: '',
        volatility: 'v',
        extension: null,
      };
      return [{ ...operator, function: behind }];
    }),
    typeNames: [...types.values()]
      .filter((type) => schemas.has(type.schema))
      .map(({ schema, name }) => ({ schema, name })),
    types: [...types.values()]
      .filter((type) => type.extension !== null || foreign.has(type.oid))
      .map(({ oid, written, schema, name, extension }) => ({
        schema,
        name,
        extension,
        written: written ?? name,
        convertedBy: foreign.get(oid) ?? null,
      })),
  };
}
