import type { GovernedBy } from '@idrel/contract/coverage';
import { useCallback, useContext } from 'react';
import { LevelNames } from '../marks/levelNames.ts';

const LEVELS = ['open', 'internal', 'guarded', 'sealed'];

/** What rows are called: levels as the organisation calls them. */
export function useRowNames(by: GovernedBy): (name: string) => string {
  const levels = useContext(LevelNames);
  return useCallback(
    (name: string) => (by === 'level' ? (levels[LEVELS.indexOf(name)]?.name ?? name) : name),
    [by, levels],
  );
}
