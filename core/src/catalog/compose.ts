import { type Filter, FilterError, type FilterKey, parseFilter, writeFilter } from './filter.ts';

/** A condition as it is written: `where('domain', 'Fleet ops')` is `domain:"Fleet ops"`. */
export const where = (key: FilterKey, ...values: readonly string[]): string =>
  writeFilter({ type: 'is', key, comparison: '=', values });

/** What a filter asks for at once; nothing when it cannot be read. */
function partsOf(text: string): readonly Filter[] | undefined {
  try {
    const filter = parseFilter(text);
    return filter.type === 'all' ? filter.of : [filter];
  } catch (error) {
    if (error instanceof FilterError) return undefined;
    throw error;
  }
}

/** What passes each of these filters. One that cannot be read stays as it is, so that its error is told where it is asked. */
export function both(...filters: readonly string[]): string {
  const parts = filters.map(partsOf);
  if (parts.some((found) => found === undefined)) return filters.filter(Boolean).join(' ');
  return writeFilter({ type: 'all', of: parts.flatMap((found) => found ?? []) });
}

const isCondition = (part: Filter, key: FilterKey, value: string): boolean =>
  part.type === 'is' &&
  part.key === key &&
  part.comparison === '=' &&
  part.values.length === 1 &&
  part.values[0] === value;

/** Whether a filter asks for this value among all that it asks for. */
export const asksFor = (filter: string, key: FilterKey, value: string): boolean =>
  partsOf(filter)?.some((part) => isCondition(part, key, value)) ?? false;

/** A filter with a condition more, or without it where it had it. */
export function toggled(filter: string, key: FilterKey, value: string): string {
  const parts = partsOf(filter);
  if (!parts) return both(filter, where(key, value));
  const others = parts.filter((part) => !isCondition(part, key, value));
  return others.length < parts.length ? writeFilter({ type: 'all', of: others }) : both(filter, where(key, value));
}

function* conditions(filter: Filter): Iterable<Extract<Filter, { type: 'is' }>> {
  if (filter.type === 'is') yield filter;
  else if (filter.type === 'not') yield* conditions(filter.of);
  else if (filter.type !== 'word') for (const part of filter.of) yield* conditions(part);
}

/** All that a filter names under a key, wherever in it, in small letters; nothing of one that cannot be read. */
export function valuesOf(text: string, key: FilterKey): ReadonlySet<string> {
  const found = new Set<string>();
  for (const part of partsOf(text) ?? [])
    for (const condition of conditions(part))
      if (condition.key === key) for (const value of condition.values) found.add(value.toLowerCase());
  return found;
}

const someWord = (filter: Filter): boolean =>
  filter.type === 'word' || ((filter.type === 'all' || filter.type === 'any') && filter.of.some(someWord));

/** Whether a filter asks for words, beside its conditions; not one that cannot be read. */
export const hasWords = (text: string): boolean => partsOf(text)?.some(someWord) ?? false;
