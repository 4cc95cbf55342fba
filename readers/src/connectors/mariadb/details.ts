import type { Argument, Part, RoutineFacts, SequenceFacts, TableDetails } from '@idrel/core/scanning';
import type { Connection } from 'mysql2/promise';
import type { ObjectFacts } from '../relations.ts';
import { quoteName as quote, rows } from './connect.ts';

const INDEXES = `
  select table_name as relation, index_name as name, non_unique as several, group_concat(concat(column_name, ifnull(concat('(', sub_part, ')'), '')) order by seq_in_index separator '\\0') as columns,
         max(index_type) as type, max(index_comment) as comment
  from information_schema.statistics where table_schema = ? group by 1, 2, 3 order by 1, 2`;
const UNIQUES =
  "select table_name as relation, constraint_name as name from information_schema.table_constraints where table_schema = ? and constraint_type = 'UNIQUE' order by 1, 2";
const CHECKS =
  'select table_name as relation, constraint_name as name, check_clause as definition from information_schema.check_constraints where constraint_schema = ? order by 1, 2';
const TRIGGERS = `
  select event_object_table as relation, trigger_name as name, concat(action_timing, ' ', event_manipulation, ' ON ', event_object_table, ' FOR EACH ', action_orientation, ' ', action_statement) as definition
  from information_schema.triggers where trigger_schema = ? order by 1, 2`;
const ROUTINES = `
  select specific_name as name, routine_type as type, dtd_identifier as \`returns\`, routine_definition as body, is_deterministic as \`fixed\`, security_type as runs_as, routine_comment as comment
  from information_schema.routines where routine_schema = ? order by 1`;
const PARAMETERS = `
  select specific_name as routine, routine_type as type, parameter_name as name, parameter_mode as mode, dtd_identifier as takes
  from information_schema.parameters where specific_schema = ? and ordinal_position > 0 order by specific_name, ordinal_position`;

interface PartRow {
  relation: string;
  name: string;
  definition: string;
}

/** What tables have beside their columns, by the table's name. Triggers show to accounts with the right to them alone. */
export async function readMariaDetails(connection: Connection, database: string): Promise<Map<string, TableDetails>> {
  type IndexRow = {
    relation: string;
    name: string;
    several: number | string;
    columns: string;
    type: string;
    comment: string;
  };
  const found = new Map<string, Record<string, Part[]>>();
  const add = (relation: string, kind: string, part: Part) => {
    const lists = found.get(relation) ?? {};
    found.set(relation, lists);
    lists[kind] = [...(lists[kind] ?? []), part];
  };
  const unique = new Set(
    (await rows<{ relation: string; name: string }>(connection, UNIQUES, database)).map(
      (row) => `${row.relation}\0${row.name}`,
    ),
  );
  for (const row of await rows<IndexRow>(connection, INDEXES, database)) {
    const columns = row.columns.split('\0');
    const one = Number(row.several) === 0;
    const definition = `${row.name === 'PRIMARY' ? 'PRIMARY KEY' : one ? 'UNIQUE' : 'INDEX'} (${columns.join(', ')}) USING ${row.type}`;
    const part: Part = {
      name: row.name,
      definition,
      columns,
      ...(one ? { unique: true as const } : {}),
      ...(row.comment ? { comment: row.comment } : {}),
    };
    add(row.relation, 'indexes', part);
    if (unique.has(`${row.relation}\0${row.name}`))
      add(row.relation, 'uniques', { name: row.name, definition: `UNIQUE (${columns.join(', ')})`, columns });
  }
  for (const { relation, name, definition } of await rows<PartRow>(connection, CHECKS, database))
    add(relation, 'checks', { name, definition });
  for (const { relation, name, definition } of await rows<PartRow>(connection, TRIGGERS, database))
    add(relation, 'triggers', { name, definition });
  return found;
}

interface RoutineRow {
  name: string;
  type: 'FUNCTION' | 'PROCEDURE';
  returns: string | null;
  body: string | null;
  fixed: string;
  runs_as: string;
  comment: string;
}
const MODES: Record<string, Argument['mode']> = { IN: 'in', OUT: 'out', INOUT: 'inout' };

/** Routines and sequences of a database. @param sequences what its list of tables calls so */
export async function readMariaObjects(
  connection: Connection,
  database: string,
  sequences: readonly { readonly name: string; readonly comment: string | null }[],
): Promise<ObjectFacts[]> {
  const parameters = new Map<string, Argument[]>();
  for (const row of await rows<{
    routine: string;
    type: string;
    name: string | null;
    mode: string | null;
    takes: string;
  }>(connection, PARAMETERS, database)) {
    const key = `${row.type} ${row.routine}`;
    parameters.set(key, [
      ...(parameters.get(key) ?? []),
      { name: row.name ?? '', mode: MODES[row.mode ?? 'IN'] ?? 'in', type: row.takes },
    ]);
  }
  const routines = (await rows<RoutineRow>(connection, ROUTINES, database)).map((row): ObjectFacts => {
    const facts: RoutineFacts = {
      arguments: parameters.get(`${row.type} ${row.name}`) ?? [],
      ...(row.returns ? { returns: row.returns } : {}),
      language: 'sql',
      volatility: row.fixed === 'YES' ? 'deterministic' : 'not deterministic',
      runsAs: row.runs_as === 'DEFINER' ? 'its owner' : 'whoever calls it',
      ...(row.body ? { definition: row.body } : {}),
    };
    return {
      names: [`${row.name}(${facts.arguments.map((argument) => argument.type).join(', ')})`],
      kind: row.type === 'PROCEDURE' ? 'procedure' : 'function',
      comment: row.comment || null,
      native: { ...facts },
    };
  });
  return [
    ...(await Promise.all(sequences.map((sequence) => readSequence(connection, database, sequence)))),
    ...routines,
  ];
}

/** A sequence's facts stand in itself: without the right to read it, its name alone is known. */
async function readSequence(
  connection: Connection,
  database: string,
  { name, comment }: { readonly name: string; readonly comment: string | null },
): Promise<ObjectFacts> {
  const asked =
    'select cast(start_value as char) as start, cast(increment as char) as step, cast(minimum_value as char) as least, cast(maximum_value as char) as most, cycle_option as cycles from';
  const [facts] = await rows<Omit<SequenceFacts, 'type' | 'cycles'> & { cycles: number }>(
    connection,
    `${asked} ${quote(database)}.${quote(name)}`,
    '',
  ).catch(() => []);
  const told: SequenceFacts | undefined = facts && {
    type: 'bigint',
    start: facts.start,
    step: facts.step,
    least: facts.least,
    most: facts.most,
    ...(Number(facts.cycles) ? { cycles: true as const } : {}),
  };
  return { names: [name], kind: 'sequence', comment, native: { ...told } };
}

/** The values that `enum('a','b')` permits; null for every other type. */
export function permittedBy(type: string): string[] | null {
  if (!/^enum\(/i.test(type)) return null;
  return [...type.slice(5, -1).matchAll(/'((?:[^'\\]|''|\\.)*)'/g)].map(([, value = '']) =>
    value.replaceAll("''", "'").replace(/\\(.)/g, '$1'),
  );
}
