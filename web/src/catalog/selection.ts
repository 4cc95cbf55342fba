import type { Choice } from '@idrel/contract/curation';

/** What is chosen of a list: some rows, or all that match but some. */
export interface Selection {
  readonly all: boolean;
  /** The rows that are chosen; where all are, those that are not. */
  readonly ids: ReadonlySet<string>;
}
export const NOTHING_SELECTED: Selection = { all: false, ids: new Set() };
export const EVERYTHING: Selection = { all: true, ids: new Set() };

export const isSelected = ({ all, ids }: Selection, id: string): boolean => ids.has(id) !== all;
export const isEverything = ({ all, ids }: Selection): boolean => all && ids.size === 0;
/** @param total how many there are in the list */
export const countOf = ({ all, ids }: Selection, total: number): number =>
  all ? Math.max(0, total - ids.size) : ids.size;

/** The same with some rows chosen, or not. */
export function withSelected({ all, ids }: Selection, these: readonly string[], chosen: boolean): Selection {
  const next = new Set(ids);
  for (const id of these)
    if (chosen === all) next.delete(id);
    else next.add(id);
  return { all, ids: next };
}

/** The same as the server is told. @param filter what the list was found by */
export function choiceOf({ all, ids }: Selection, filter: string, under: string): Choice {
  if (!all) return { ids: [...ids] };
  return { filter, ...(under ? { under } : {}), ...(ids.size > 0 ? { except: [...ids] } : {}) };
}
