import type { KeptView } from '@idrel/contract/lineage';
import { useMemo, useState } from 'react';

export interface Spot {
  readonly x: number;
  readonly y: number;
}
interface State {
  /** Groups that stand unfolded. */
  readonly open: ReadonlySet<string>;
  /** Where somebody moved a table, a flow or a group to: there it stays, whatever else comes into the picture. */
  readonly moved: ReadonlyMap<string, Spot>;
}
/** What somebody did to a picture by hand, each step of which can be taken back. */
export interface Places extends State {
  /** Unfolds a group, or folds it again. */
  readonly toggle: (group: string) => void;
  /** To be said before the first of several moves that are one step. */
  readonly begin: () => void;
  readonly move: (id: string, to: Spot) => void;
  /** Undefined where there is nothing to take back. */
  readonly undo: (() => void) | undefined;
  /** Undefined where nothing was moved. */
  readonly putBack: (() => void) | undefined;
}

/** So many steps can be taken back. */
const STEPS = 100;

/** @param kept how a picture that was kept stands: what it begins with */
export function usePlaces(kept: KeptView['shows'] | undefined): Places {
  const [{ now, before }, set] = useState<{ now: State; before: readonly State[] }>(() => ({
    now: {
      open: new Set(kept?.open),
      moved: new Map(kept?.places.map(({ id, x, y }) => [id, { x, y }])),
    },
    before: [],
  }));
  return useMemo(() => {
    const step = (change: (state: State) => State) =>
      set((was) => ({ now: change(was.now), before: [...was.before.slice(1 - STEPS), was.now] }));
    return {
      ...now,
      toggle: (group) =>
        step(({ open, ...rest }) => {
          const next = new Set(open);
          if (!next.delete(group)) next.add(group);
          return { ...rest, open: next };
        }),
      begin: () => step((state) => state),
      move: (id, to) => set((was) => ({ ...was, now: { ...was.now, moved: new Map(was.now.moved).set(id, to) } })),
      undo:
        before.length === 0
          ? undefined
          : () => set((was) => ({ now: was.before.at(-1) ?? was.now, before: was.before.slice(0, -1) })),
      putBack: now.moved.size === 0 ? undefined : () => step((state) => ({ ...state, moved: new Map() })),
    };
  }, [now, before]);
}
