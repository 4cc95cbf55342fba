import type { Pace } from '@idrel/contract/exchange';

/** How soon one is told, in words. */
export const PACE_WORDS: Readonly<Record<Pace, string>> = {
  'at once': 'at once',
  daily: 'each morning',
  weekly: 'on Mondays',
};

export const PACES = Object.keys(PACE_WORDS) as readonly Pace[];
