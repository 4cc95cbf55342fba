import { Engine, type Reader } from './engine.ts';
import { isSameMask, type Mask } from './maskKinds.ts';
import {
  asShown,
  type Person,
  type Policy,
  type ReadableTable,
  type TableDecision,
  type ToldAccess,
  toldAccess,
} from './types.ts';
import { decidedLimitInWords } from './words.ts';

/** A change of what one person gets of one table, column by column. */
export interface ReachChange {
  readonly personId: string;
  readonly tableId: string;
  readonly column: string;
  readonly columnId: string;
  readonly before: ToldAccess;
  readonly after: ToldAccess;
  readonly beforeMask: Mask | null;
  readonly afterMask: Mask | null;
}

/**
 * Who gains or loses what when the policies change from one set to another, for the people and tables given.
 * @param then the same tables as they would be after, where it is they that change
 */
export function reachOf(
  before: readonly Policy[],
  after: readonly Policy[],
  people: readonly Person[],
  tables: readonly ReadableTable[],
  then: readonly ReadableTable[] = tables,
): ReachChange[] {
  const known = new Map<string, Omit<ReachChange, 'personId'>[]>();
  const engines = [new Engine(before), new Engine(after)] as const;
  return people.map(asShown).flatMap((person) => {
    const [was, will] = [engines[0].for(person), engines[1].for(person)];
    const key = `${was.key} / ${will.key}`;
    const changes = known.get(key) ?? changesFor(was, will, tables, then);
    known.set(key, changes);
    return changes.map((change) => ({ personId: person.id, ...change }));
  });
}

function changesFor(
  was: Reader,
  will: Reader,
  tables: readonly ReadableTable[],
  then: readonly ReadableTable[],
): Omit<ReachChange, 'personId'>[] {
  return tables.flatMap((table, index) => {
    const before = was.decide(table).columns;
    return will.decide(then[index] ?? table).columns.flatMap((column, at) => {
      const old = before[at];
      if (!old || (toldAccess(old) === toldAccess(column) && isSameMask(old.mask, column.mask))) return [];
      return [
        {
          tableId: table.id,
          column: column.name,
          columnId: column.id,
          before: toldAccess(old),
          after: toldAccess(column),
          beforeMask: old.mask,
          afterMask: column.mask,
        },
      ];
    });
  });
}

/** A change of the rows that one person gets of one table: limits in words, none for all rows. */
export interface RowReachChange {
  readonly personId: string;
  readonly tableId: string;
  readonly before: readonly string[];
  readonly after: readonly string[];
}

/** Who gains or loses rows of what when the policies change, for the people and tables given; only of tables of which they read something both before and after. */
export function rowReachOf(
  before: readonly Policy[],
  after: readonly Policy[],
  people: readonly Person[],
  tables: readonly ReadableTable[],
): RowReachChange[] {
  const told = ({ rowLimits }: TableDecision) =>
    rowLimits.map((limit) => decidedLimitInWords({ ...limit, byRights: limit.through !== null })).sort();
  // Two tables of rights are told alike, and are not the same.
  const keyOf = ({ rowLimits }: TableDecision) =>
    rowLimits
      .map(({ column, values, through, least }) => JSON.stringify([column, values, through, least]))
      .sort()
      .join();
  const known = new Map<string, Omit<RowReachChange, 'personId'>[]>();
  // By what is known of the reader each gets rows of their own.
  const isOwn = [...before, ...after].some(({ rows }) => rows && (rows.attribute !== null || rows.through !== null));
  const engines = [new Engine(before), new Engine(after)] as const;
  return people.map(asShown).flatMap((person) => {
    const readers = [engines[0].for(person), engines[1].for(person)] as const;
    const key = `${readers[0].key} / ${readers[1].key}${isOwn ? ` / ${person.id}` : ''}`;
    const changes =
      known.get(key) ??
      tables.flatMap((table) => {
        const [was, will] = [readers[0].decide(table), readers[1].decide(table)];
        if (was.access === 'no' || will.access === 'no') return [];
        return keyOf(was) === keyOf(will) ? [] : [{ tableId: table.id, before: told(was), after: told(will) }];
      });
    known.set(key, changes);
    return changes.map((change) => ({ personId: person.id, ...change }));
  });
}
