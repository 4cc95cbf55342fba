import type { Argument, Part, RoutineFacts, SequenceFacts, TypeFacts } from '@idrel/core/scanning';
import type { ClientBase } from 'pg';
import type { ObjectFacts } from '../relations.ts';
import { digest } from '../types.ts';
import { OURS } from './columns.ts';

/** What an extension brought along belongs to it, and what came with something else (the constructors of a range) to that. */
const notOfExtension = (catalog: string, oid: string) =>
  `not exists (select 1 from pg_depend x where x.classid = '${catalog}'::regclass and x.objid = ${oid} and x.deptype in ('e', 'i'))`;
const described = (catalog: string, oid: string) =>
  `left join pg_description d on d.objoid = ${oid} and d.classoid = '${catalog}'::regclass and d.objsubid = 0`;

export const MADE_ROUTINE = `${OURS} and ${notOfExtension('pg_proc', 'p.oid')}`;
/** Types that somebody made: not those of tables, of arrays, nor the multiranges that come with a range. Chosen first: each table brings two types along. */
const MADE_TYPE = `t.oid in (select oid from pg_type where typtype in ('e', 'd', 'r') union all select reltype from pg_class where relkind = 'c') and ${OURS} and ${notOfExtension('pg_type', 't.oid')}`;
/** Sequences; those behind identity columns are part of the column. */
const MADE_SEQUENCE = `${OURS} and ${notOfExtension('pg_class', 'c.oid')}`;

const ROUTINES = `
  select
    n.nspname as schema, p.proname as name, oidvectortypes(p.proargtypes) as takes, p.prokind as kind,
    l.lanname as language, p.provolatile as volatility, p.prosecdef as definer, pg_get_userbyid(p.proowner) as owner,
    d.description as comment, pg_get_function_result(p.oid) as returns,
    p.prorettype in ('trigger'::regtype, 'event_trigger'::regtype) as trigger,
    case when p.prokind <> 'a' then pg_get_functiondef(p.oid) end as definition,
    (
      select json_agg(
        json_build_object(
          'name', coalesce(p.proargnames[u.i], ''),
          'mode', coalesce(p.proargmodes[u.i]::text, 'i'),
          'type', format_type(u.type, null),
          'default', pg_get_function_arg_default(p.oid, u.i::int)
        )
        order by u.i
      )
      from unnest(coalesce(p.proallargtypes, p.proargtypes::oid[])) with ordinality u(type, i)
    ) as arguments
  from pg_proc p
  join pg_namespace n on n.oid = p.pronamespace
  join pg_language l on l.oid = p.prolang ${described('pg_proc', 'p.oid')}
  where ${MADE_ROUTINE}
  order by 1, 2, 3`;

const TYPES = `
  select
    n.nspname as schema, t.typname as name, t.typtype as type, pg_get_userbyid(t.typowner) as owner,
    coalesce(d.description, obj_description(t.typrelid, 'pg_class')) as comment,
    (select json_agg(e.enumlabel order by e.enumsortorder) from pg_enum e where e.enumtypid = t.oid) as values,
    case t.typtype
      when 'd' then format_type(t.typbasetype, t.typtypmod)
      when 'r' then (select format_type(r.rngsubtype, null) from pg_range r where r.rngtypid = t.oid)
    end as base,
    t.typdefault as default, t.typnotnull as required,
    (
      select json_agg(
        json_build_object(
          'name', k.conname,
          'definition', pg_get_constraintdef(k.oid),
          'off', not k.convalidated,
          'comment', obj_description(k.oid, 'pg_constraint')
        )
        order by k.conname
      )
      from pg_constraint k
      where k.contypid = t.oid and k.contype = 'c'
    ) as checks,
    (
      select json_agg(
        json_build_object(
          'name', a.attname, 'type', format_type(a.atttypid, a.atttypmod), 'comment', col_description(a.attrelid, a.attnum)
        )
        order by a.attnum
      )
      from pg_attribute a
      where a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
    ) as attributes
  from pg_type t
  join pg_namespace n on n.oid = t.typnamespace
  left join pg_class c on c.oid = t.typrelid and c.relkind = 'c' ${described('pg_type', 't.oid')}
  where ${MADE_TYPE}
  order by 1, 2`;

const SEQUENCES = `
  select
    n.nspname as schema, c.relname as name, pg_get_userbyid(c.relowner) as owner, d.description as comment,
    format_type(s.seqtypid, null) as type, s.seqstart::text as start, s.seqincrement::text as step, s.seqmin::text as least,
    s.seqmax::text as most, s.seqcycle as cycles,
    (
      select tn.nspname || '.' || t.relname || '.' || a.attname
      from pg_depend o
      join pg_class t on t.oid = o.refobjid
      join pg_namespace tn on tn.oid = t.relnamespace
      join pg_attribute a on a.attrelid = t.oid and a.attnum = o.refobjsubid
      where o.classid = 'pg_class'::regclass and o.objid = c.oid and o.refclassid = 'pg_class'::regclass and o.deptype = 'a'
      limit 1
    ) as "ownedBy"
  from pg_sequence s
  join pg_class c on c.oid = s.seqrelid
  join pg_namespace n on n.oid = c.relnamespace ${described('pg_class', 'c.oid')}
  where ${MADE_SEQUENCE}
  order by 1, 2`;

interface Named {
  schema: string;
  name: string;
  owner: string;
  comment: string | null;
}
interface RoutineRow extends Named {
  takes: string;
  kind: string;
  language: string;
  volatility: string;
  definer: boolean;
  returns: string | null;
  trigger: boolean;
  definition: string | null;
  arguments: { name: string; mode: string; type: string; default: string | null }[] | null;
}
interface TypeRow extends Named {
  type: string;
  values: string[] | null;
  base: string | null;
  default: string | null;
  required: boolean;
  checks: { name: string; definition: string; off: boolean; comment: string | null }[] | null;
  attributes: { name: string; type: string; comment: string | null }[] | null;
}
type SequenceRow = Named & Omit<SequenceFacts, 'cycles' | 'ownedBy'> & { cycles: boolean; ownedBy: string | null };

const MODES: Record<string, Argument['mode']> = { i: 'in', o: 'out', b: 'inout', v: 'variadic', t: 'table' };
const VOLATILITY: Record<string, string> = { i: 'immutable', s: 'stable', v: 'volatile' };
const FORMS: Record<string, string> = { a: 'aggregate', w: 'window' };
const TYPE_FORMS: Record<string, TypeFacts['form']> = { e: 'enumeration', d: 'domain', r: 'range', c: 'composite' };

/** Longer lists of arguments are told by their number. */
const LONGEST_TAKES = 200;
/** Several routines have one name: the types that they take tell them apart. */
export const calledName = (name: string, takes: string) =>
  `${name}(${takes.length > LONGEST_TAKES ? `${takes.split(', ').length} arguments ${digest(takes).slice(0, 8)}` : takes})`;

function routine(row: RoutineRow): ObjectFacts {
  const form = row.trigger ? 'trigger' : FORMS[row.kind];
  const facts: RoutineFacts & { owner: string } = {
    owner: row.owner,
    arguments: (row.arguments ?? []).map((argument) => ({
      name: argument.name,
      mode: MODES[argument.mode] ?? 'in',
      type: argument.type,
      ...(argument.default === null ? {} : { default: argument.default }),
    })),
    ...(row.returns === null ? {} : { returns: row.returns }),
    language: row.language,
    volatility: VOLATILITY[row.volatility] ?? row.volatility,
    ...(form ? { form } : {}),
    runsAs: row.definer ? 'its owner' : 'whoever calls it',
    ...(row.definition === null ? {} : { definition: row.definition }),
  };
  return {
    names: [row.schema, calledName(row.name, row.takes)],
    kind: row.kind === 'p' ? 'procedure' : 'function',
    comment: row.comment,
    native: { ...facts },
  };
}

function type(row: TypeRow): ObjectFacts {
  const checks = row.checks?.map(
    (check): Part => ({
      name: check.name,
      definition: check.definition,
      ...(check.off ? { off: true as const } : {}),
      ...(check.comment ? { comment: check.comment } : {}),
    }),
  );
  const facts: TypeFacts & { owner: string } = {
    owner: row.owner,
    form: TYPE_FORMS[row.type] ?? 'composite',
    ...(row.values ? { values: row.values } : {}),
    ...(row.base === null ? {} : { base: row.base }),
    ...(row.default === null ? {} : { default: row.default }),
    ...(row.required ? { nullable: false } : {}),
    ...(checks ? { checks } : {}),
    ...(row.attributes
      ? {
          attributes: row.attributes.map((attribute) => ({
            name: attribute.name,
            type: attribute.type,
            ...(attribute.comment ? { comment: attribute.comment } : {}),
          })),
        }
      : {}),
  };
  return { names: [row.schema, row.name], kind: 'type', comment: row.comment, native: { ...facts } };
}

function sequence({ schema, name, comment, cycles, ownedBy, ...facts }: SequenceRow): ObjectFacts {
  return {
    names: [schema, name],
    kind: 'sequence',
    comment,
    native: { ...facts, ...(cycles ? { cycles } : {}), ...(ownedBy ? { ownedBy } : {}) },
  };
}

/** Reads routines, types and sequences that people made. `search_path` must be `pg_catalog`, so that every name stands with its schema. */
export async function readDefinitions(client: ClientBase): Promise<ObjectFacts[]> {
  const types = (await client.query<TypeRow>(TYPES)).rows;
  const sequences = (await client.query<SequenceRow>(SEQUENCES)).rows;
  const routines = (await client.query<RoutineRow>(ROUTINES)).rows;
  return [...types.map(type), ...sequences.map(sequence), ...routines.map(routine)];
}

/** The same by name alone, as far as `limit` goes. */
export async function readDefinitionNames(
  client: ClientBase,
  limit: number,
): Promise<{ schema: string; name: string; kind: string }[]> {
  const { rows } = await client.query<{ schema: string; name: string; takes: string | null; kind: string }>(
    `
      select n.nspname as schema, t.typname as name, null as takes, 'type' as kind
      from pg_type t
      join pg_namespace n on n.oid = t.typnamespace
      left join pg_class c on c.oid = t.typrelid and c.relkind = 'c'
      where ${MADE_TYPE}
      union all
      select n.nspname, c.relname, null, 'sequence'
      from pg_sequence s
      join pg_class c on c.oid = s.seqrelid
      join pg_namespace n on n.oid = c.relnamespace
      where ${MADE_SEQUENCE}
      union all
      select
        n.nspname, p.proname, oidvectortypes(p.proargtypes), case p.prokind when 'p' then 'procedure' else 'function' end
      from pg_proc p
      join pg_namespace n on n.oid = p.pronamespace
      where ${MADE_ROUTINE}
      order by 1, 4 desc, 2, 3
      limit ${limit}`,
  );
  return rows.map((row) => ({
    schema: row.schema,
    name: row.takes === null ? row.name : calledName(row.name, row.takes),
    kind: row.kind,
  }));
}
