import type { Keyed } from '../maskKinds.ts';
import { maskedExpression, quoteIdentifier, quoteText, rowCondition } from '../masks.ts';
import type { PlanStep } from '../native/index.ts';
import type { OpenTable, Readers } from './readers.ts';

/** By this comment what Idrel made at a database is known to be its own, and nothing else is touched. */
export const MADE_BY = 'Made by Idrel from its policies. Change the policies, not this.';
/** The schema with the keys of digests, which nobody but its owner reads. */
export const KEYS_SCHEMA = 'idrel_keys';

/** What the role that makes all this may do with each table. */
export interface TableMeans {
  /** May read it, and so show it. */
  readonly reads: boolean;
  /** May pass the right to read it on, and that to reach its schema. */
  readonly passesOn: boolean;
  /** Row policies of its own hold for whoever asks: through a view they would hold for its maker instead. */
  readonly ownRows: boolean;
}

/** By which a table of a database is found. */
export const tableKey = (schema: string, name: string): string => JSON.stringify([schema, name]);

/** How some readers reach a table at the database. */
export interface Placed extends OpenTable {
  /** Row policies of the table itself limit what comes as well. */
  readonly ownRows: boolean;
  readonly how: 'right' | 'view';
  /** The name under which they ask for it. */
  readonly schema: string;
  readonly name: string;
}

export interface PlacedReaders extends Omit<Readers, 'tables'> {
  readonly number: number;
  readonly role: string;
  readonly tables: readonly Placed[];
}

/** What stands at a database that was made by such a plan before. */
export interface MadeBefore {
  readonly roles: readonly { readonly name: string; readonly logins: readonly string[] }[];
  readonly schemas: readonly string[];
  readonly views: readonly { readonly schema: string; readonly name: string }[];
  readonly keys: boolean;
}
export const NOTHING_MADE: MadeBefore = { roles: [], schemas: [], views: [], keys: false };

export interface EnforcingPlan {
  readonly readers: readonly PlacedReaders[];
  /** Each with why; none takes back alone: all of it is taken back at once. */
  readonly steps: readonly Omit<PlanStep, 'back'>[];
  /** Tables that policies open and that stay closed there, with why. */
  readonly without: readonly Without[];
}

export interface Without {
  readonly table: string;
  readonly why: string;
}

/** A name has at most so many bytes; what is longer would be cut by the server. */
const NAME_BYTES = 63;
const bytes = new TextEncoder();
const fits = (name: string) => bytes.encode(name).length <= NAME_BYTES;

/** The role of the readers with a number: roles stand beside those of other databases of a server. */
export const roleOfReaders = (database: string, number: number): string => {
  const name = `idrel_${database}_${number}`;
  return fits(name) ? name : `idrel_${[...database].slice(0, 10).join('')}_${toldApart(database)}_${number}`;
};
/** A short text by which long names that begin alike are told apart (FNV-1a, 32 bits, http://www.isthe.com/chongo/tech/comp/fnv/). */
function toldApart(name: string): string {
  let hash = 0x811c9dc5;
  for (const byte of bytes.encode(name)) hash = Math.imul(hash ^ byte, 0x01000193) >>> 0;
  return hash.toString(36);
}
/** The number of the readers whose role has a name; null where it is no such role of this database. */
export function numberOfReaders(database: string, role: string): number | null {
  const number = Number(/_([1-9]\d*)$/.exec(role)?.[1]);
  return role === roleOfReaders(database, number) ? number : null;
}
/** The schema in which readers find what they see otherwise than it stands. @param place of the schema among those of the source, for names that are too long */
const schemaOfReaders = (number: number, schema: string, place: number): string => {
  const name = `idrel_${number}_${schema}`;
  return fits(name) ? name : `idrel_${number}_schema_${place + 1}`;
};
const full = (schema: string, name: string) => `${quoteIdentifier(schema)}.${quoteIdentifier(name)}`;

/** Readers keep the number of those before them with whom they share most logins. */
function numbered(
  database: string,
  readers: readonly Readers[],
  before: MadeBefore,
): { readonly readers: Readers; readonly number: number }[] {
  const numberOf = new Map(
    before.roles.flatMap(({ name, logins }) => {
      const number = numberOfReaders(database, name);
      return number === null ? [] : [[number, new Set(logins)] as const];
    }),
  );
  const pairs = readers
    .flatMap((one) =>
      [...numberOf].map(([number, logins]) => ({
        one,
        number,
        shared: one.logins.filter((login) => logins.has(login)).length,
      })),
    )
    .filter(({ shared }) => shared > 0)
    .sort((a, b) => b.shared - a.shared || a.number - b.number);
  const given = new Map<Readers, number>();
  const taken = new Set<number>();
  for (const { one, number } of pairs) {
    if (given.has(one) || taken.has(number)) continue;
    given.set(one, number);
    taken.add(number);
  }
  let next = 1;
  return readers.map((one) => {
    let number = given.get(one);
    if (number === undefined) {
      while (taken.has(next)) next += 1;
      number = next;
      taken.add(number);
    }
    return { readers: one, number };
  });
}

/** Where readers reach what they see: by a right on the table itself where they see it as it stands, else by a view. */
function placed(
  database: string,
  readers: readonly Readers[],
  means: ReadonlyMap<string, TableMeans>,
  before: MadeBefore,
): { readonly readers: PlacedReaders[]; readonly without: Without[] } {
  const schemas = [...new Set(readers.flatMap(({ tables }) => tables.map(({ table }) => table.schema)))].sort();
  const without = new Map<string, Without>();
  const result = numbered(database, readers, before).map(({ readers: { tables, ...rest }, number }) => ({
    ...rest,
    number,
    role: roleOfReaders(database, number),
    tables: tables.flatMap((open): Placed[] => {
      const { schema, name } = open.table;
      const can = means.get(tableKey(schema, name));
      const leave = (why: string): Placed[] => {
        without.set(open.table.id, { table: `${schema}.${name}`, why });
        return [];
      };
      if (!can) return leave('it is not there any more');
      if (!can.reads) return leave('the role that makes all this cannot read it');
      const unread = open.limits.find(
        ({ through }) => through && !means.get(tableKey(through.schema, through.name))?.reads,
      )?.through;
      if (unread)
        return leave(
          `its rows are limited by ${unread.schema}.${unread.name}, which the role that makes all this cannot read`,
        );
      const asItIs = open.limits.length === 0 && open.columns.every(({ mask }) => mask === null);
      const byRight = asItIs && can.passesOn;
      if (can.ownRows && !byRight)
        return leave('it has row policies of its own, which a view would ask for its maker and not for who reads');
      return byRight
        ? [{ ...open, how: 'right', schema, name, ownRows: can.ownRows }]
        : [
            {
              ...open,
              how: 'view',
              schema: schemaOfReaders(number, schema, schemas.indexOf(schema)),
              name,
              ownRows: false,
            },
          ];
    }),
  }));
  return { readers: result.filter(({ tables }) => tables.length > 0), without: [...without.values()] };
}

/** The name of the key that readers of an organisation share. */
export const keyName = (keyed: Keyed, organisation: string): string =>
  keyed === 'installation' ? 'all' : `organisation:${organisation}`;

/** The name of a table inside a view of it. */
const INSIDE = 'idrel_row';

/** What a view shows of a table: masks applied, rows limited. */
function viewQuery({ table, columns, limits }: OpenTable, organisation: string): string {
  const key = (keyed: Keyed) =>
    `(SELECT k.value FROM ${full(KEYS_SCHEMA, 'key')} AS k WHERE k.name = ${quoteText(keyName(keyed, organisation))})`;
  const known = new Set(table.columns.map(({ name }) => name));
  const shown = columns.map(
    (column) => `  ${maskedExpression(column, INSIDE, key)} AS ${quoteIdentifier(column.name)}`,
  );
  const where = limits.map((limit) => (known.has(limit.column) ? rowCondition(limit, INSIDE) : 'FALSE'));
  return [
    `SELECT\n${shown.join(',\n')}`,
    `FROM ${full(table.schema, table.name)} AS ${INSIDE}`,
    ...(where.length > 0 ? [`WHERE ${where.join('\n  AND ')}`] : []),
  ].join('\n');
}

const keyed = ({ columns }: OpenTable): Keyed[] =>
  columns.flatMap(({ mask }) =>
    !mask ? [] : 'keyed' in mask ? [mask.keyed] : mask.kind === 'noise' ? ['installation'] : [],
  );

/** Whether what readers see needs keys of digests. */
export const needsKeys = (readers: readonly Pick<PlacedReaders, 'tables'>[]): boolean =>
  readers.some(({ tables }) => tables.some((table) => keyed(table).length > 0));

/** What takes away all that was made before, and nothing else. @param keep the keys of digests stay, so that equal values stay equal */
export function undoing(before: MadeBefore, keep: boolean): Omit<PlanStep, 'back'>[] {
  const step = (why: string, sql: readonly string[]) => (sql.length > 0 ? [{ why, sql: sql.join('\n') }] : []);
  return [
    ...step('What was shown before goes: where somebody built upon it, nothing is changed and this says by what', [
      ...before.views.map(({ schema, name }) => `DROP VIEW ${full(schema, name)};`),
      ...before.schemas.map((schema) => `DROP SCHEMA ${quoteIdentifier(schema)};`),
    ]),
    ...step(
      'The roles of readers go, with the rights that they had here and with who was in them',
      before.roles.flatMap(({ name }) => [
        `DROP OWNED BY ${quoteIdentifier(name)};`,
        `DROP ROLE ${quoteIdentifier(name)};`,
      ]),
    ),
    ...(keep || !before.keys
      ? []
      : step('The keys of digests go: digests made later are others', [
          `DROP TABLE ${full(KEYS_SCHEMA, 'key')};`,
          `DROP SCHEMA ${quoteIdentifier(KEYS_SCHEMA)};`,
        ])),
  ];
}

/** Text that draws a key where there is none: made there, it is known nowhere else. */
const drawn = (name: string) =>
  `INSERT INTO ${full(KEYS_SCHEMA, 'key')} (name, value)\nSELECT ${quoteText(name)}, encode(sha256(convert_to(CAST(gen_random_uuid() AS text) || gen_random_uuid() || gen_random_uuid(), 'UTF8')), 'hex')\nON CONFLICT DO NOTHING;`;

/**
 * Policies as what a database itself can hold: a role for those who read alike, rights on tables that they see as they stand, and views of the others.
 *
 * @param database its name
 * @param means by {@link tableKey}; what does not stand here cannot be read by the role that makes all this
 * @param before what stands there already: it goes in the same transaction
 */
export function enforcingPlan(
  database: string,
  readers: readonly Readers[],
  means: ReadonlyMap<string, TableMeans>,
  before: MadeBefore,
): EnforcingPlan {
  const { readers: those, without } = placed(database, readers, means, before);
  const steps = undoing(before, true);
  const keys = new Set(
    those.flatMap(({ tables, organisation }) => tables.flatMap(keyed).map((one) => keyName(one, organisation))),
  );
  if (keys.size > 0)
    steps.push({
      why: 'Keys of digests, drawn here: they are known nowhere else, and no reader may read them',
      sql: [
        ...(before.keys
          ? []
          : [
              `CREATE SCHEMA ${quoteIdentifier(KEYS_SCHEMA)};`,
              `COMMENT ON SCHEMA ${quoteIdentifier(KEYS_SCHEMA)} IS ${quoteText(MADE_BY)};`,
              `CREATE TABLE ${full(KEYS_SCHEMA, 'key')} (name text PRIMARY KEY, value text NOT NULL);`,
            ]),
        ...[...keys].sort().map(drawn),
      ].join('\n'),
    });
  for (const one of those) steps.push(...stepsOf(one));
  return { readers: those, steps, without };
}

function stepsOf({ role, logins, tables, organisation, number }: PlacedReaders): Omit<PlanStep, 'back'>[] {
  const to = quoteIdentifier(role);
  const byRight = tables.filter(({ how }) => how === 'right');
  const byView = tables.filter(({ how }) => how === 'view');
  const schemas = [...new Set(byView.map(({ schema }) => schema))];
  const reached = [...new Set(byRight.map(({ schema }) => schema))];
  return [
    {
      why: `Readers ${number}: ${logins.join(', ')}`,
      sql: [
        `CREATE ROLE ${to} NOLOGIN;`,
        `COMMENT ON ROLE ${to} IS ${quoteText(MADE_BY)};`,
        `GRANT ${to} TO CURRENT_USER;`,
        ...logins.map((login) => `GRANT ${to} TO ${quoteIdentifier(login)};`),
      ].join('\n'),
    },
    ...(byRight.length > 0
      ? [
          {
            why: `What they see as it stands, under its own name`,
            sql: [
              ...reached.map((schema) => `GRANT USAGE ON SCHEMA ${quoteIdentifier(schema)} TO ${to};`),
              ...byRight.map(
                ({ table, columns }) =>
                  `GRANT SELECT (${columns.map(({ name }) => quoteIdentifier(name)).join(', ')}) ON TABLE ${full(table.schema, table.name)} TO ${to};`,
              ),
            ].join('\n'),
          },
        ]
      : []),
    ...schemas.flatMap((schema) => [
      {
        why: `What they see otherwise than it stands is in ${schema}`,
        sql: [
          `CREATE SCHEMA ${quoteIdentifier(schema)};`,
          `COMMENT ON SCHEMA ${quoteIdentifier(schema)} IS ${quoteText(MADE_BY)};`,
          `GRANT USAGE ON SCHEMA ${quoteIdentifier(schema)} TO ${to};`,
        ].join('\n'),
      },
      ...byView
        .filter((one) => one.schema === schema)
        .map((one) => ({
          why: [`${one.table.schema}.${one.table.name}`, shownInWords(one)].filter(Boolean).join('; '),
          sql: [
            // Conditions of whoever asks come after the limit of rows, whatever functions they call.
            `CREATE VIEW ${full(one.schema, one.name)} WITH (security_barrier) AS\n${viewQuery(one, organisation)};`,
            `GRANT SELECT ON TABLE ${full(one.schema, one.name)} TO ${to};`,
          ].join('\n'),
        })),
    ]),
  ];
}

const limitInWords = (limits: OpenTable['limits']): string[] => {
  if (limits.length === 0) return [];
  const by = [...new Set(limits.map(({ column }) => column))].join(' and ');
  return [limits.some(({ values }) => values.length === 0) ? `no rows, limited by ${by}` : `rows limited by ${by}`];
};

/** What readers are not told of a table; empty where they see it as it stands. */
export function shownInWords({ table, columns, limits }: OpenTable): string {
  const masked = columns.filter(({ mask }) => mask !== null).map(({ name }) => name);
  const shut = table.columns.length - columns.length;
  return [
    ...(masked.length > 0 ? [`${masked.join(', ')} masked`] : []),
    ...(shut > 0 ? [`${shut} of ${table.columns.length} columns left out`] : []),
    ...limitInWords(limits),
  ].join('; ');
}
