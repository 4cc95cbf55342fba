import { Engine, type Reader } from '../engine.ts';
import type { Person, Policy, TableDecision } from '../types.ts';
import {
  type Bypass,
  type BypassedColumn,
  type LoginPeople,
  NATIVE_HOW,
  type NativeRole,
  type NativeTable,
  type NativeWay,
} from './types.ts';
import { limitedThere, loginOf, loginsNear, waysInto } from './ways.ts';

/** From this level on a column is closed to whom no policy opens it, and a right at the source that opens it is told. */
const SENSITIVE = 3;

/** Whoever comes in as a role of which nothing was said: the policies for everyone hold for them, and no other. */
const NOBODY: Person = { id: '', groups: [], email: '', attributes: {}, purpose: null, outside: false, share: null };

interface Growing extends Omit<Bypass, 'logins' | 'tables' | 'columns' | 'since'> {
  since: string | null;
  readonly logins: Map<string, { login: string; chain: readonly string[]; people: Set<string>; program: boolean }>;
  readonly tables: Set<string>;
  readonly columns: Map<string, BypassedColumn>;
}

/** What the policies keep from somebody of a table: by column, what they are told of it instead and by which policies. */
function keptFrom(table: NativeTable, decision: TableDecision): Map<string, BypassedColumn> {
  const kept = new Map<string, BypassedColumn>();
  for (const column of decision.columns) {
    const base = { tableId: table.id, columnId: column.id, column: column.name };
    const restricting = column.reasons.filter(({ effect }) => effect !== 'allow');
    if (column.access !== 'plain') {
      if (restricting.length > 0 || (table.levels[column.id] ?? 0) >= SENSITIVE)
        kept.set(column.id, { ...base, told: column.access, reasons: restricting });
    } else if (decision.rowLimits.length > 0)
      kept.set(column.id, { ...base, told: 'fewer rows', reasons: decision.rowLimits.map(({ reason }) => reason) });
  }
  return kept;
}

const WORSE = { 'fewer rows': 0, masked: 1, refused: 2 } as const;

/** Of two tellings about a column (two people may be kept from different things) the stricter, with the policies of both. */
function together(one: BypassedColumn | undefined, other: BypassedColumn): BypassedColumn {
  if (!one) return other;
  const reasons = [
    ...one.reasons,
    ...other.reasons.filter((reason) => !one.reasons.some(({ policyId }) => policyId === reason.policyId)),
  ];
  return { ...(WORSE[one.told] >= WORSE[other.told] ? one : other), reasons };
}

/**
 * Rights at one source that give more than the policies do: each with those who read by it and what they should not read so. A column counts where a
 * policy masks it, denies it or limits its rows for somebody who comes in as a role, or where no policy allows it and it is sensitive.
 * What the role that scans can read counts not.
 *
 * @param peopleOf who comes in as a role; nothing where nobody said it: then as somebody for whom the policies for everyone hold
 */
export function bypassesOf(
  roles: ReadonlyMap<string, NativeRole>,
  peopleOf: ReadonlyMap<string, LoginPeople>,
  policies: readonly Policy[],
  tables: readonly NativeTable[],
): Bypass[] {
  const logins = [...roles.values()]
    .filter(({ login, scans }) => login && !scans)
    .map((role) => ({ ...loginOf(role.name, roles), ...(peopleOf.get(role.name) ?? { people: [], program: false }) }));
  const engine = new Engine(policies);
  const readers = new Map<string, Reader>();
  const readerOf = (person: Person) => {
    const known = readers.get(person.id) ?? engine.for(person);
    readers.set(person.id, known);
    return known;
  };
  const near = loginsNear(logins);
  const found = new Map<string, Growing>();
  for (const table of tables) {
    // People for whom the same policies are read the same columns.
    const decided = new Map<string, Map<string, BypassedColumn>>();
    const keptOf = (person: Person) => {
      const reader = readerOf(person);
      const known = decided.get(reader.key) ?? keptFrom(table, reader.decide(table));
      decided.set(reader.key, known);
      return known;
    };
    for (const login of near(table)) {
      const ways = waysInto(table, login);
      if (ways.length === 0) continue;
      for (const person of login.people.length > 0 ? login.people : [NOBODY]) {
        const kept = keptOf(person);
        if (kept.size === 0) continue;
        for (const way of ways) {
          const opened = [...kept.values()].filter(
            (column) =>
              (way.columns === null || way.columns.includes(column.columnId)) &&
              (column.told !== 'fewer rows' || !limitedThere(table, login, way)),
          );
          if (opened.length > 0) add(found, table, way, login, person, opened);
        }
      }
    }
  }
  return [...found.values()].map(told).sort(byWeight);
}

function add(
  found: Map<string, Growing>,
  table: NativeTable,
  way: NativeWay,
  login: { readonly name: string; readonly program: boolean },
  person: Person,
  columns: readonly BypassedColumn[],
): void {
  const schema = way.how === 'grant' || way.how === 'owner' ? table.schema : null;
  const key = JSON.stringify([way.how, way.holder, way.through, schema]);
  const bypass: Growing = found.get(key) ?? {
    how: way.how,
    holder: way.holder,
    through: way.through,
    schema,
    since: way.since,
    logins: new Map(),
    tables: new Set(),
    columns: new Map(),
  };
  found.set(key, bypass);
  if (way.since !== null && (bypass.since === null || way.since < bypass.since)) bypass.since = way.since;
  bypass.tables.add(table.id);
  for (const column of columns)
    bypass.columns.set(column.columnId, together(bypass.columns.get(column.columnId), column));
  const who = bypass.logins.get(login.name) ?? {
    login: login.name,
    chain: way.chain,
    people: new Set<string>(),
    program: login.program,
  };
  bypass.logins.set(login.name, who);
  if (person.id !== NOBODY.id) who.people.add(person.id);
}

const told = ({ logins, tables, columns, ...rest }: Growing): Bypass => ({
  ...rest,
  logins: [...logins.values()].map(({ people, ...login }) => ({ ...login, people: [...people] })),
  tables: [...tables],
  columns: [...columns.values()],
});

/** Those against a policy before those where none allows; then what is easiest to mend, then what opens most. */
const byWeight = (one: Bypass, other: Bypass): number =>
  Number(isAgainst(other)) - Number(isAgainst(one)) ||
  NATIVE_HOW.indexOf(one.how) - NATIVE_HOW.indexOf(other.how) ||
  other.columns.length - one.columns.length ||
  (one.holder < other.holder ? -1 : 1);

/** Whether it gives what a policy keeps; else only what none allows. */
export const isAgainst = (bypass: Bypass): boolean => bypass.columns.some(({ reasons }) => reasons.length > 0);
