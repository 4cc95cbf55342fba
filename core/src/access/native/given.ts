import type { NativeGrant, NativeTable } from './types.ts';

/** A right on a table, or on one column of it. */
export interface GivenRight {
  readonly grant: NativeGrant;
  /** Id of the column; null for the whole table. */
  readonly column: string | null;
}

/** All rights that were given on a table and its columns. */
const rightsOn = (table: NativeTable): GivenRight[] => [
  ...table.grants.filter(({ how }) => how === 'grant').map((grant) => ({ grant, column: null })),
  ...[...table.columnGrants].flatMap(([column, grants]) => grants.map((grant) => ({ grant, column }))),
];

/**
 * Rights that hang on some that are taken away: what their holders gave on, and those again, where nobody else gave them the right to. In an order in which
 * they can be given again.
 * @param gone rights that are taken away
 */
export function hangingOn(table: NativeTable, gone: (right: GivenRight) => boolean): GivenRight[] {
  const owners = new Set(table.grants.flatMap(({ how, holder }) => (how === 'owner' ? [holder] : [])));
  let left = rightsOn(table).filter((right) => !gone(right));
  const lost: GivenRight[] = [];
  for (;;) {
    const mayGive = ({ grant: { by }, column }: GivenRight) =>
      owners.has(by) ||
      left.some(({ grant, column: of }) => grant.holder === by && grant.passesOn && (of === null || of === column));
    const falls = left.filter((right) => !mayGive(right));
    if (falls.length === 0) return lost;
    lost.push(...falls);
    left = left.filter((right) => !falls.includes(right));
  }
}

/** Which rights of a holder on a table are taken away so that only some of its columns stay open: all of them where one is on the whole table, else those on the other columns. */
export function takenAway(table: NativeTable, holder: string, kept: readonly string[]): (right: GivenRight) => boolean {
  const isWhole = table.grants.some((grant) => grant.how === 'grant' && grant.holder === holder);
  return ({ grant, column }) => grant.holder === holder && (isWhole || column === null || !kept.includes(column));
}
