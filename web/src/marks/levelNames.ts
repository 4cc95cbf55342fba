import { LEVELS } from '@idrel/core/recognition/classes';
import { createContext, useContext } from 'react';

/** What the organisation calls a level, and what it says of it. */
export interface NamedLevel {
  readonly name: string;
  readonly meaning: string;
  readonly advice: string;
}

/** The levels, lowest first; until they are known, by the words they ship with. */
export const LevelNames = createContext<readonly NamedLevel[]>(
  LEVELS.map((name) => ({ name, meaning: '', advice: '' })),
);

/** What a level is called; `none` without one. */
export function useLevelWord(): (level: number | null) => string {
  const names = useContext(LevelNames);
  return (level) => (level === null ? 'none' : (names[level - 1]?.name ?? ''));
}

/** The levels as choices, lowest first. */
export const useLevelChoices = (): { value: string; label: string }[] =>
  useContext(LevelNames).map((level, index) => ({ value: String(index + 1), label: level.name }));
