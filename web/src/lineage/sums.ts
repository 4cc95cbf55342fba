import type { ImpactRow } from '@idrel/contract/lineage';

/** By what an impact list can be summed. */
export const SUMS = ['owner', 'kind', 'source'] as const;
export type SumBy = (typeof SUMS)[number];

/** What nobody answers for is summed under this word. */
export const NOBODY = 'nobody';

export const valuesOf = (row: ImpactRow, by: SumBy): readonly string[] =>
  by === 'owner' ? (row.owners.length > 0 ? row.owners : [NOBODY]) : [by === 'kind' ? row.kind : row.source];

/** How many rows there are of each owner (a row of two counts for both), kind or source, the most first. */
export function sumsOf(rows: readonly ImpactRow[], by: SumBy): { value: string; rows: number }[] {
  const sums = new Map<string, number>();
  for (const row of rows) for (const value of valuesOf(row, by)) sums.set(value, (sums.get(value) ?? 0) + 1);
  return [...sums]
    .map(([value, count]) => ({ value, rows: count }))
    .sort((a, b) => b.rows - a.rows || a.value.localeCompare(b.value, 'en'));
}
