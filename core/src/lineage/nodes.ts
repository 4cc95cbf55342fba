import type { Node } from '@pgsql/types';

/** The text of a `String` node, or undefined for any other. */
export const textOf = (node: Node | undefined): string | undefined =>
  node && 'String' in node ? (node.String.sval ?? '') : undefined;

export const textsOf = (nodes: readonly Node[] | undefined): string[] =>
  (nodes ?? []).map(textOf).filter((text): text is string => text !== undefined);

/** The nodes found directly below a node's body, whatever its kind; locations and type names are left out. */
export function childNodes(body: object): Node[] {
  const children: Node[] = [];
  for (const [key, value] of Object.entries(body)) {
    if (key === 'typeName' || key === 'location' || value === null || typeof value !== 'object') continue;
    for (const entry of Array.isArray(value) ? value : [value]) {
      if (entry && typeof entry === 'object')
        children.push(isNode(entry) ? entry : ({ Wrapped: entry } as unknown as Node));
    }
  }
  return children;
}

/** A node is written as an object with one key, the name of its kind, which starts with a capital letter. */
function isNode(value: object): value is Node {
  const keys = Object.keys(value);
  return keys.length === 1 && /^[A-Z]/.test(keys[0] ?? '');
}

/** The body of a node, whatever its kind. */
export const bodyOf = (node: Node): object => Object.values(node)[0] as object;
