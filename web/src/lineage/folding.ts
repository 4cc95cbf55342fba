import type { LineageAnswer, LineageLink, LineageNode } from '@idrel/contract/lineage';

/** What a picture can be folded by. */
export const FOLD_BY = ['schema', 'source', 'domain'] as const;
export type FoldBy = (typeof FOLD_BY)[number];
export const foldByOf = (text: string | null): FoldBy | null => FOLD_BY.find((by) => by === text) ?? null;

/** Tables that stand in the picture as one. */
export interface Group {
  readonly id: string;
  readonly by: FoldBy;
  readonly name: string;
  readonly source: string;
  readonly members: readonly LineageNode[];
}

/** What holds a table, as it stands in its path. */
const holderOf = ({ path, name }: LineageNode): string =>
  path.endsWith(name) && path.length > name.length ? path.slice(0, path.length - name.length - 1) : '';
const keyOf = (by: FoldBy, node: LineageNode): string =>
  by === 'source'
    ? node.source
    : by === 'domain'
      ? `${node.domain}\n${node.source}`
      : `${holderOf(node)}\n${node.source}`;
const nameOf = (by: FoldBy, node: LineageNode): string =>
  by === 'source' ? node.source : by === 'domain' ? node.domain : holderOf(node) || node.source;

/** What is seen of several in one: the highest level. */
const highest = (levels: readonly (number | null)[]): number | null =>
  levels.reduce<number | null>(
    (most, level) => (level !== null && (most === null || level > most) ? level : most),
    null,
  );

/** A group as a table of the picture, without columns: whatever draws tables, lays them out and lists them does so with groups as well. */
function asNode({ id, by, name, members }: Group): LineageNode {
  const [first] = members as [LineageNode, ...LineageNode[]];
  const sum = (side: 'upstream' | 'downstream') => members.reduce((all, { more }) => all + more[side], 0);
  return {
    ...first,
    id,
    kind: by === 'source' ? 'database' : 'schema',
    name,
    path: name,
    standing: 'unreviewed',
    notices: members.flatMap(({ notices }) => notices),
    level: highest(members.map(({ level }) => level)),
    columns: [],
    columnCount: 0,
    statement: null,
    problems: [],
    goneAt: null,
    more: { upstream: sum('upstream'), downstream: sum('downstream') },
  };
}

/**
 * A picture in which tables stand together by what they share, those of one source each; edges within a group are left out, and those that lead to it or from it
 * lead to the whole. What is alone in its group stands as it is.
 * @param open groups that stand unfolded, by id; @param kept tables that stand by themselves in any case
 */
export function folded(
  answer: LineageAnswer,
  by: FoldBy | null,
  open: ReadonlySet<string>,
  kept: ReadonlySet<string>,
): { answer: LineageAnswer; groups: ReadonlyMap<string, Group> } {
  const groups = new Map<string, Group & { members: LineageNode[] }>();
  if (by === null) return { answer, groups };
  for (const node of answer.nodes) {
    const { id, name } = groupAt(by, node);
    if (kept.has(node.id) || open.has(id)) continue;
    const known = groups.get(id);
    if (known) known.members.push(node);
    else groups.set(id, { id, by, name, source: node.source, members: [node] });
  }
  for (const [id, { members }] of groups) if (members.length < 2) groups.delete(id);
  const groupOf = new Map([...groups.values()].flatMap(({ id, members }) => members.map((node) => [node.id, id])));
  const at = (id: string) => groupOf.get(id) ?? id;
  const ends = <E extends Pick<LineageLink, 'from' | 'fromTable' | 'toTable'>>(edge: E): E => ({
    ...edge,
    from: groupOf.has(edge.fromTable) ? at(edge.fromTable) : edge.from,
    fromTable: at(edge.fromTable),
    toTable: at(edge.toTable),
  });
  const flows = answer.flows
    .map((flow) => ({ ...flow, from: distinct(flow.from.map(at)), to: distinct(flow.to.map(at)) }))
    // A flow within one group is part of it.
    .filter(({ from, to }) => new Set([...from, ...to]).size !== 1 || ![...from, ...to].every((id) => groups.has(id)));
  const drawn = new Set(flows.map(({ id }) => id));
  return {
    groups,
    answer: {
      ...answer,
      nodes: [...answer.nodes.filter(({ id }) => !groupOf.has(id)), ...[...groups.values()].map(asNode)],
      flows,
      links: answer.links
        .filter(({ fromTable, toTable }) => at(fromTable) !== at(toTable) || !groupOf.has(fromTable))
        .map((link) => ({
          ...ends(link),
          to: groupOf.has(link.toTable) ? at(link.toTable) : link.to,
          flow: link.flow !== null && drawn.has(link.flow) ? link.flow : null,
        })),
      influences: answer.influences
        .filter(({ fromTable, toTable }) => at(fromTable) !== at(toTable) || !groupOf.has(fromTable))
        .map(ends),
    },
  };
}
const distinct = (ids: readonly string[]): string[] => [...new Set(ids)];

/** The group that a table belongs to, whether it is folded or not. */
export const groupAt = (by: FoldBy, node: LineageNode): Pick<Group, 'id' | 'name'> => ({
  id: `${by}\n${keyOf(by, node)}`,
  name: nameOf(by, node),
});
