import { quoteIdentifier } from '../masks.ts';
import { hangingOn, takenAway } from './given.ts';
import { EVERYBODY, type NativeGrant, type NativeHow, type NativeTable } from './types.ts';

/** What is to be closed: a right, the tables, and what of them. */
export interface ClosingWish {
  readonly how: NativeHow;
  readonly holder: string;
  readonly through: string | null;
  /** Tables that are to be closed for the holder. */
  readonly tables: readonly NativeTable[];
  /** By id of the table, the columns that are kept open: those that no policy keeps from anybody who reads by the right. Nothing: all of it is closed. */
  readonly keep: ReadonlyMap<string, readonly string[]>;
  /** For a role that reads all: the other tables, which it goes on reading by rights of their own; with their columns where it holds rights on some of these. */
  readonly others: readonly NativeTable[];
  /** What tables open for the holder that are made later, where that is to end. */
  readonly later: readonly { readonly maker: string; readonly schema: string | null }[];
}

/** One step of a plan, and what takes it back. */
export interface PlanStep {
  readonly why: string;
  readonly sql: string;
  readonly back: string;
}

export interface ClosingPlan {
  readonly steps: readonly PlanStep[];
  /** What no plan can do, and what would. */
  readonly cannot: readonly string[];
  /** What whoever runs it should know. */
  readonly cautions: readonly string[];
}

const TABLES_A_STATEMENT = 100;
const to = (holder: string) => (holder === EVERYBODY ? 'PUBLIC' : quoteIdentifier(holder));
const called = (holder: string) => (holder === EVERYBODY ? 'everybody' : holder);
const nameOf = ({ schema, name }: NativeTable) => `${quoteIdentifier(schema)}.${quoteIdentifier(name)}`;
const columnsIn = (names: readonly string[]) => `(${names.map(quoteIdentifier).join(', ')})`;
const namesOf = (table: NativeTable, ids: readonly string[]): string[] =>
  table.columns.filter(({ id }) => ids.includes(id)).map(({ name }) => name);

/** A statement as the role that gave the right would say it: what somebody else gave, the owner's word does not take away. */
function as(by: string, owner: string | undefined, sql: string): string {
  return by === '' || by === owner ? sql : `SET LOCAL ROLE ${quoteIdentifier(by)};\n${sql}\nRESET ROLE;`;
}
const ownerOf = (table: NativeTable) => table.grants.find(({ how }) => how === 'owner')?.holder;

/** The statement that gives a right, as it was given. */
const given = (table: NativeTable, grant: NativeGrant, columns: readonly string[] | null): string =>
  as(
    grant.by,
    ownerOf(table),
    `GRANT SELECT${columns ? ` ${columnsIn(columns)}` : ''} ON TABLE ${nameOf(table)} TO ${to(grant.holder)}${grant.passesOn ? ' WITH GRANT OPTION' : ''};`,
  );

function closeGrant(table: NativeTable, { holder, keep }: ClosingWish): PlanStep[] {
  const whole = table.grants.filter((grant) => grant.how === 'grant' && grant.holder === holder);
  const single = [...table.columnGrants].flatMap(([column, grants]) =>
    grants.filter((grant) => grant.holder === holder).map((grant) => ({ column, grant })),
  );
  const kept = keep.get(table.id) ?? [];
  const passed = hangingOn(table, takenAway(table, holder, kept)).map(({ grant, column }) =>
    given(table, grant, column === null ? null : namesOf(table, [column])),
  );
  const cascade = passed.length > 0 ? ' CASCADE' : '';
  const closed = single.filter(({ column }) => !kept.includes(column));
  const regiven = single.map(({ column, grant }) => given(table, grant, namesOf(table, [column])));
  const noted = passed.length > 0 ? `; what ${called(holder)} gave on goes with it` : '';
  const endsOf = (those: typeof closed) =>
    those.map(({ column, grant }) =>
      as(
        grant.by,
        ownerOf(table),
        `REVOKE SELECT ${columnsIn(namesOf(table, [column]))} ON TABLE ${nameOf(table)} FROM ${to(holder)}${cascade};`,
      ),
    );
  if (whole.length === 0) {
    if (closed.length === 0) return [];
    const columns = namesOf(
      table,
      closed.map(({ column }) => column),
    );
    return [
      {
        why: `${called(holder)} reads ${columns.join(', ')} of ${table.schema}.${table.name} by a right on the columns${noted}`,
        sql: distinct(endsOf(closed)),
        back: distinct([
          ...closed.map(({ column, grant }) => given(table, grant, namesOf(table, [column]))),
          ...passed,
        ]),
      },
    ];
  }
  const keptNames = namesOf(table, kept);
  const keeping =
    keptNames.length > 0 ? [`GRANT SELECT ${columnsIn(keptNames)} ON TABLE ${nameOf(table)} TO ${to(holder)};`] : [];
  // To take the right on a table takes those on its columns along, as far as the same role gave them.
  const others = closed.filter(({ grant }) => !whole.some(({ by }) => by === grant.by));
  return [
    {
      why: `${called(holder)} reads all of ${table.schema}.${table.name}${
        keptNames.length > 0 ? `; ${keptNames.join(', ')} ${keptNames.length === 1 ? 'stays' : 'stay'} open` : ''
      }${noted}`,
      sql: distinct([
        ...whole.map((grant) =>
          as(grant.by, ownerOf(table), `REVOKE SELECT ON TABLE ${nameOf(table)} FROM ${to(holder)}${cascade};`),
        ),
        ...endsOf(others),
        ...keeping,
      ]),
      back: distinct([
        ...(keeping.length > 0
          ? [`REVOKE SELECT ${columnsIn(keptNames)} ON TABLE ${nameOf(table)} FROM ${to(holder)};`]
          : []),
        ...whole.map((grant) => given(table, grant, null)),
        ...regiven,
        ...passed,
      ]),
    },
  ];
}

const distinct = (statements: readonly string[]): string => [...new Set(statements)].join('\n');

/** Ids of columns on which a role holds rights of their own. */
const columnsHeldBy = (table: NativeTable, holder: string): Set<string> =>
  new Set(
    [...table.columnGrants].flatMap(([column, grants]) =>
      grants.some((grant) => grant.holder === holder) ? [column] : [],
    ),
  );

function endReadsAll({ holder, through, tables, others, keep }: ClosingWish): PlanStep[] {
  const membership = `${quoteIdentifier(through ?? '')}`;
  const reading = (table: NativeTable) =>
    table.grants.some((grant) => grant.holder === holder || grant.holder === EVERYBODY);
  const steps: PlanStep[] = [
    {
      why: `${holder} reads everything as a member of ${through}`,
      sql: `REVOKE ${membership} FROM ${to(holder)};`,
      back: `GRANT ${membership} TO ${to(holder)};`,
    },
  ];
  const rest = others.filter((table) => !reading(table));
  // Where it holds rights on columns already, it gets the others beside them: to take back a right on the table would take those along.
  const own = rest.filter((table) => columnsHeldBy(table, holder).size === 0);
  const inPart = [
    ...tables.filter((table) => !reading(table)).map((table) => ({ table, ids: keep.get(table.id) ?? [] })),
    ...rest.filter((table) => !own.includes(table)).map((table) => ({ table, ids: table.columns.map(({ id }) => id) })),
  ].flatMap(({ table, ids }) => {
    const held = columnsHeldBy(table, holder);
    const names = namesOf(
      table,
      ids.filter((id) => !held.has(id)),
    );
    return names.length > 0 ? [{ table, names }] : [];
  });
  const schemas = new Map<string, NativeTable>();
  for (const table of [...others, ...inPart.map((one) => one.table)]) schemas.set(table.schema, table);
  const closedOff = [...schemas]
    .filter(
      ([, { schemaGrants }]) => !schemaGrants.some((grant) => grant.holder === holder || grant.holder === EVERYBODY),
    )
    .map(([schema]) => schema);
  for (let from = 0; from < closedOff.length; from += TABLES_A_STATEMENT) {
    const list = closedOff
      .slice(from, from + TABLES_A_STATEMENT)
      .map(quoteIdentifier)
      .join(', ');
    steps.push({
      why: 'It goes on reaching the schemas of what it keeps',
      sql: `GRANT USAGE ON SCHEMA ${list} TO ${to(holder)};`,
      back: `REVOKE USAGE ON SCHEMA ${list} FROM ${to(holder)};`,
    });
  }
  for (let from = 0; from < own.length; from += TABLES_A_STATEMENT) {
    const list = own
      .slice(from, from + TABLES_A_STATEMENT)
      .map(nameOf)
      .join(', ');
    steps.push({
      why: 'It goes on reading, by rights of their own, what no policy keeps from it',
      sql: `GRANT SELECT ON TABLE ${list} TO ${to(holder)};`,
      back: `REVOKE SELECT ON TABLE ${list} FROM ${to(holder)};`,
    });
  }
  for (const { table, names } of inPart)
    steps.push({
      why: `Of ${table.schema}.${table.name} it goes on reading ${names.join(', ')}`,
      sql: `GRANT SELECT ${columnsIn(names)} ON TABLE ${nameOf(table)} TO ${to(holder)};`,
      back: `REVOKE SELECT ${columnsIn(names)} ON TABLE ${nameOf(table)} FROM ${to(holder)};`,
    });
  return steps;
}

/** A plan that closes a right at the source for some tables, step by step with what takes each step back. Nothing else is touched by it. */
export function closingPlan(wish: ClosingWish): ClosingPlan {
  const { how, holder, through, tables, later } = wish;
  if (how === 'superuser')
    return {
      steps: [],
      cannot: [
        `${holder} is a superuser: no right can be taken from it. Let people come in as another role, and keep this one for those who run the database.`,
      ],
      cautions: [],
    };
  if (how === 'owner')
    return {
      steps: [],
      cannot: [
        `${holder} owns ${tables.length === 1 ? 'the table' : 'these tables'}, and an owner can always give itself the right to read again. Make a role the owner as which nobody comes in (ALTER TABLE … OWNER TO …), or let people come in as another role.`,
      ],
      cautions: [],
    };
  const ends = later.map(({ maker, schema }): PlanStep => {
    const where = `ALTER DEFAULT PRIVILEGES FOR ROLE ${quoteIdentifier(maker)}${schema === null ? '' : ` IN SCHEMA ${quoteIdentifier(schema)}`}`;
    return {
      why: `Tables that ${maker} makes later${schema === null ? '' : ` in ${schema}`} are closed to ${called(holder)} when they are made`,
      sql: `${where} REVOKE SELECT ON TABLES FROM ${to(holder)};`,
      back: `${where} GRANT SELECT ON TABLES TO ${to(holder)};`,
    };
  });
  const steps = how === 'reads all' ? endReadsAll(wish) : tables.flatMap((table) => closeGrant(table, wish));
  return {
    steps: [...steps, ...ends],
    cannot: [],
    cautions: [
      ...(how === 'reads all'
        ? [
            `${through} holds for the whole server: ${holder} loses it in its other databases too.`,
            'What is made later is closed to it until a right on it is given.',
          ]
        : []),
      ...(holder === EVERYBODY
        ? ['It is taken from everybody who can come in, also from roles that were not asked about.']
        : []),
    ],
  };
}

/** Statements as one transaction, each below what it is for. */
export function inTransaction(
  title: string,
  statements: readonly { readonly why: string; readonly sql: string }[],
): string {
  const said = (text: string) => `-- ${text.replaceAll(/\s+/g, ' ')}`;
  return [said(title), 'BEGIN;', ...statements.flatMap(({ why, sql }) => ['', said(why), sql]), '', 'COMMIT;', ''].join(
    '\n',
  );
}

/** The plan as a text to be read, changed and run by whoever runs the database. */
export const planText = (title: string, { steps }: ClosingPlan): string => inTransaction(title, steps);

/** What takes the whole plan back, last step first. */
export const backText = (title: string, { steps }: ClosingPlan): string =>
  inTransaction(
    title,
    [...steps].reverse().map(({ why, back }) => ({ why, sql: back })),
  );
