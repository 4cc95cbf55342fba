/** By what an impact list can be summed. */
export const SUMS = ['owner', 'domain', 'kind', 'source'] as const;
export type SumBy = (typeof SUMS)[number];

/** What nobody answers for is summed under this word. */
export const NOBODY = 'nobody';

/** What a row must tell to be summed. */
export interface Summed extends Readonly<Record<Exclude<SumBy, 'owner'>, string>> {
  readonly owners: readonly string[];
}

export const valuesOf = (row: Summed, by: SumBy): readonly string[] =>
  by === 'owner' ? (row.owners.length > 0 ? row.owners : [NOBODY]) : [row[by]];

/** How many rows there are of each owner (a row of two counts for both), domain, kind or source, the most first. */
export function sumsOf(rows: readonly Summed[], by: SumBy): { value: string; rows: number }[] {
  const sums = new Map<string, number>();
  for (const row of rows) for (const value of valuesOf(row, by)) sums.set(value, (sums.get(value) ?? 0) + 1);
  return [...sums]
    .map(([value, count]) => ({ value, rows: count }))
    .sort((a, b) => b.rows - a.rows || a.value.localeCompare(b.value, 'en'));
}
