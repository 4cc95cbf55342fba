import type { Node } from '@pgsql/types';
import { Deparser } from 'pgsql-deparser';

/** Each expression is written once, however many columns it is made of. */
const written = new WeakMap<object, string | null>();

/**
 * An expression as SQL, on one line: written from its tree, so that it is told in the same way however it was laid out in the statement.
 * @returns undefined where it cannot be written
 */
export function expressionText(node: Node): string | undefined {
  const known = written.get(node);
  if (known !== undefined) return known ?? undefined;
  let text: string | null = null;
  try {
    text = Deparser.deparse(node, { pretty: false }).replace(/\s+/g, ' ').trim() || null;
  } catch {
    // What makes no sense to the writer is read where the statement stands.
  }
  written.set(node, text);
  return text ?? undefined;
}
