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

function collect(json: Json, path: string, depth: number, into: Map<string, string[]>): void {
  if (json === null || depth > DEEPEST) return;
  if (Array.isArray(json)) for (const item of json) collect(item, `${path}[*]`, depth + 1, into);
  else if (typeof json === 'object') for (const [key, item] of Object.entries(json)) collect(item, `${path}.${/^[A-Za-z_][\w-]*$/.test(key) ? key : JSON.stringify(key)}`, depth + 1, into);
  else {
    const list = into.get(path);
    if (list) list.push(String(json));
    else if (into.size < MOST_PATHS) into.set(path, [String(json)]);
  }
}

const typeOf = (values: readonly string[]): ValueType => (values.every((value) => /^-?\d{1,18}$/.test(value)) ? 'integer' : values.every((value) => /^-?\d+\.\d+$/.test(value)) ? 'decimal' : 'text');

function lastKey(path: string): string | undefined {
  const [, plain, quoted] = /(?:\.([\w-]+)|("(?:[^"\\]|\\.)*"))(?:\[\*\])*$/.exec(path) ?? [];
  return plain ?? (quoted === undefined ? undefined : (JSON.parse(quoted) as string));
}

/**
 * A column of JSON as one column for each path to its values (`$.contact.email`, `$.crew[*].name`; the notation of RFC 9535), named by the last key.
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
  const leaves = new Map<string, string[]>();
  for (const value of filled) collect(parse(value) ?? null, '$', 0, leaves);
  return [...leaves].map(([path, values]) => ({ path, name: lastKey(path) ?? column.name, type: typeOf(values), values }));
}
