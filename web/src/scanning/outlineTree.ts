import type { OutlineItem } from '@idrel/contract/scanning';

/** An object as the tree of choices shows it. */
export interface OutlineNode {
  readonly path: string;
  readonly name: string;
  readonly kind: string;
  readonly depth: number;
  readonly children: OutlineNode[];
}

/** Makes a tree of paths; what is named without what holds it stands at the top. */
export function toTree(items: readonly OutlineItem[], separator: string): OutlineNode[] {
  const byPath = new Map<string, OutlineNode>();
  const top: OutlineNode[] = [];
  for (const { path, kind } of [...items].sort(
    (a, b) => a.path.split(separator).length - b.path.split(separator).length,
  )) {
    const cut = path.lastIndexOf(separator);
    const parent = cut < 0 ? undefined : byPath.get(path.slice(0, cut));
    const node: OutlineNode = {
      path,
      kind,
      name: parent ? path.slice(cut + separator.length) : path,
      depth: parent ? parent.depth + 1 : 0,
      children: [],
    };
    byPath.set(path, node);
    (parent ? parent.children : top).push(node);
  }
  const sort = (nodes: OutlineNode[]) => {
    nodes.sort((a, b) => (a.name < b.name ? -1 : 1));
    for (const node of nodes) sort(node.children);
  };
  sort(top);
  return top;
}

/** The rows that show: opened ones with what is in them; while something is searched, whatever fits and what it lies in. */
export function visibleNodes(tree: readonly OutlineNode[], open: ReadonlySet<string>, search: string): OutlineNode[] {
  const wanted = search.trim().toLowerCase();
  const rows: OutlineNode[] = [];
  const walk = (node: OutlineNode): boolean => {
    const before = rows.length;
    rows.push(node);
    if (!wanted) {
      if (open.has(node.path)) for (const child of node.children) walk(child);
      return true;
    }
    const self = node.path.toLowerCase().includes(wanted);
    let below = false;
    for (const child of node.children) below = walk(child) || below;
    if (!self && !below) rows.length = before;
    return self || below;
  };
  for (const node of tree) walk(node);
  return rows;
}

/** Chooses or leaves a node; what lies in a chosen one is chosen with it and needs no mark of its own. */
export function toggled(chosen: readonly string[], node: OutlineNode, separator: string): string[] {
  if (chosen.includes(node.path)) return chosen.filter((path) => path !== node.path);
  return [...chosen.filter((path) => !path.startsWith(node.path + separator)), node.path].sort();
}

/** Whether a node is chosen itself, with what it lies in, in part, or not. */
export function choiceOf(
  chosen: ReadonlySet<string>,
  node: OutlineNode,
  separator: string,
): 'chosen' | 'within' | 'partly' | 'not' {
  if (chosen.has(node.path)) return 'chosen';
  for (let cut = node.path.lastIndexOf(separator); cut > 0; cut = node.path.lastIndexOf(separator, cut - 1))
    if (chosen.has(node.path.slice(0, cut))) return 'within';
  for (const path of chosen) if (path.startsWith(node.path + separator)) return 'partly';
  return 'not';
}
