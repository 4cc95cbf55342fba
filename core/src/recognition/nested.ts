import type { ColumnSample, ValueType } from './types.ts';

/** Paths that are looked into, at most, and how deep they go. */
const MOST_PATHS = 200;
const DEEPEST = 8;
/** Share of values that must be objects or lists for the column to be taken apart. */
const ENOUGH = 0.8;

type Json = string | number | boolean | null | Json[] | { [key: string]: Json };

function parse(value: string): Json | undefined {
  if (!/^[[{]/.test(value)) return undefined;
  try {
    return JSON.parse(value) as Json;
  } catch {
    return undefined;
  }
}

/** What stands at one path: how often something does, plain values, and what lies below by key or in lists. */
interface Spot {
  seen: number;
  readonly values: string[];
  readonly keys: Map<string, Spot>;
  items: Spot | undefined;
}
const newSpot = (): Spot => ({ seen: 0, values: [], keys: new Map(), items: undefined });

function collect(json: Json, spot: Spot, depth: number): void {
  if (json === null || depth > DEEPEST) return;
  spot.seen += 1;
  if (Array.isArray(json)) {
    spot.items ??= newSpot();
    for (const item of json) collect(item, spot.items, depth + 1);
  } else if (typeof json === 'object') {
    for (const [key, item] of Object.entries(json)) {
      const below = spot.keys.get(key) ?? (spot.keys.size < MOST_PATHS ? newSpot() : undefined);
      if (!below) continue;
      spot.keys.set(key, below);
      collect(item, below, depth + 1);
    }
  } else spot.values.push(String(json));
}

/** From so many keys on, of which each stands in few of the objects, the keys are data themselves: what is behind them is one thing. */
const KEYS_OF_MAP = 12;
const SELDOM = 0.2;

function joined(spots: Iterable<Spot>): Spot {
  const whole = newSpot();
  for (const spot of spots) {
    whole.seen += spot.seen;
    for (const value of spot.values) whole.values.push(value);
    for (const [key, below] of spot.keys)
      whole.keys.set(key, whole.keys.has(key) ? joined([whole.keys.get(key) as Spot, below]) : below);
    if (spot.items) whole.items = whole.items ? joined([whole.items, spot.items]) : spot.items;
  }
  return whole;
}

function flatten(spot: Spot, path: string, into: Map<string, string[]>): void {
  if (into.size >= MOST_PATHS) return;
  if (spot.values.length > 0) into.set(path, spot.values);
  if (spot.items) flatten(spot.items, `${path}[*]`, into);
  const below = [...spot.keys.values()];
  if (
    below.length >= KEYS_OF_MAP &&
    below.reduce((sum, entry) => sum + entry.seen, 0) < SELDOM * below.length * spot.seen
  )
    flatten(joined(below), `${path}.*`, into);
  else
    for (const [key, entry] of spot.keys)
      flatten(entry, `${path}.${/^[A-Za-z_][\w-]*$/.test(key) ? key : JSON.stringify(key)}`, into);
}

const typeOf = (values: readonly string[]): ValueType =>
  values.every((value) => /^-?\d{1,18}$/.test(value))
    ? 'integer'
    : values.every((value) => /^-?\d+\.\d+$/.test(value))
      ? 'decimal'
      : 'text';

function lastKey(path: string): string | undefined {
  // Keys that are data say nothing of what stands behind them.
  if (/\.\*(\[\*\])*$/.test(path)) return lastKey(path.slice(0, path.lastIndexOf('.*')));
  const [, plain, quoted] = /(?:\.([\w-]+)|("(?:[^"\\]|\\.)*"))(?:\[\*\])*$/.exec(path) ?? [];
  return plain ?? (quoted === undefined ? undefined : (JSON.parse(quoted) as string));
}

/**
 * A column of JSON as one column for each path to its values (`$.contact.email`, `$.crew[*].name`; the notation of RFC 9535), named by the last key. Where keys are data themselves
 * (codes of languages, say), all that stands behind them is one column (`$.*`), named by what holds them.
 *
 * @returns undefined when most of its values are no objects or lists
 */
export function columnsInside(column: ColumnSample): (ColumnSample & { readonly path: string })[] | undefined {
  if (column.type !== 'text' && column.type !== 'other') return undefined;
  const filled = column.values.flatMap((value) => value?.trim() || []);
  // A look at the first few spares the rest of the work for nearly every column.
  if (filled.length === 0 || filled.slice(0, 5).every((value) => !/^[[{]/.test(value))) return undefined;
  const parsed = filled.flatMap((value) => parse(value) ?? []).length;
  if (parsed < ENOUGH * filled.length) return undefined;
  const top = newSpot();
  for (const value of filled) collect(parse(value) ?? null, top, 0);
  const leaves = new Map<string, string[]>();
  flatten(top, '$', leaves);
  return [...leaves].map(([path, values]) => ({
    path,
    name: lastKey(path) ?? column.name,
    type: typeOf(values),
    values,
  }));
}
