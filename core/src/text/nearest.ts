import { fold } from './fold.ts';
import { near } from './slips.ts';

/** A name that is known and near to one that is not; undefined where none is. */
export function nearest(names: Iterable<string>, wanted: string): string | undefined {
  const folded = [...new Map([...names].map((name) => [fold(name), name]))].sort(([a], [b]) => (a < b ? -1 : 1));
  const [found] = near(fold(wanted), folded.length, (at) => folded[at]?.[0] ?? '');
  return found && folded[found.at]?.[1];
}
