import { fold } from '../text/index.ts';

/** A text for one of a list. */
export interface Placed {
  readonly id: string;
  readonly name: string;
  readonly before: string;
  readonly after: string;
}
export interface PastedTexts {
  /** What differs from what stands there, in the order in which it was pasted. */
  readonly placed: readonly Placed[];
  readonly same: number;
  /** By name: names that nothing has. From a place on: lines for which there was no place. */
  readonly left: readonly string[];
  /** Whether lines were placed by the names in their first cells, not one below the other. */
  readonly byName: boolean;
}

interface Entry {
  readonly id: string;
  readonly name: string;
  readonly description: string | null;
}

/**
 * Where texts go that somebody pasted from a spreadsheet: with names in the first column to what is called so; else one below the other, from the chosen
 * one on. An empty cell changes nothing: a gap in a spreadsheet is not a wish to erase.
 * @param rows cells of lines
 * @param entries the list as it is shown
 * @param from the place in it that was chosen
 */
export function placePasted(
  rows: readonly (readonly string[])[],
  entries: readonly Entry[],
  from: number,
): PastedTexts {
  const lines = rows.filter((row) => row.some((cell) => cell.trim() !== ''));
  const called = new Map(entries.map((entry) => [fold(entry.name), entry]));
  const named = lines.filter(([first = '']) => called.has(fold(first.trim()))).length;
  const byName = lines.some((row) => row.length > 1) && named > 0 && named * 2 >= lines.length;
  const targets = byName
    ? lines.map((row) => [called.get(fold((row[0] ?? '').trim())), row[1] ?? '', row[0] ?? ''] as const)
    : lines.map((row, nth) => [entries[from + nth], row[0] ?? '', row[0] ?? ''] as const);
  const placed = new Map<string, Placed>();
  const left: string[] = [];
  let same = 0;
  for (const [entry, text, told] of targets) {
    const after = text.trim();
    if (!entry) left.push(told.trim());
    else if (after === '') continue;
    else if (after === entry.description) same += 1;
    else placed.set(entry.id, { id: entry.id, name: entry.name, before: entry.description ?? '', after });
  }
  return { placed: [...placed.values()], same, left, byName };
}
