import type { ShownLineage } from './shown.ts';

/** What only decides rows, among the kinds of edges that can be left out. */
export const ROWS = 'decides rows';
export const EDGE_KINDS = ['copied', 'transformed', 'aggregated', 'masked', ROWS] as const;

/** A picture whose tables and flows say of what kind they are. */
type Pictured = Omit<ShownLineage, 'nodes' | 'flows'> & {
  readonly nodes: readonly (ShownLineage['nodes'][number] & { readonly kind: string })[];
  readonly flows: readonly (ShownLineage['flows'][number] & { readonly kind: string })[];
};

/**
 * A picture without some kinds of edges and of assets, and where asked for without what does not fit; what is looked at stays in any case.
 * @param hidden kinds of edges and of assets; @param fitting ids of what stays; null: everything
 */
export function without<P extends Pictured>(
  picture: P,
  focus: string,
  hidden: ReadonlySet<string>,
  fitting: ReadonlySet<string> | null,
): P {
  if (hidden.size === 0 && fitting === null) return picture;
  const nodes = picture.nodes.filter(
    ({ id, kind }) => id === focus || (!hidden.has(kind) && (fitting === null || fitting.has(id))),
  );
  const there = new Set(nodes.map(({ id }) => id));
  const flows = picture.flows
    .filter(({ id, kind }) => id === focus || !hidden.has(kind))
    .map((flow) => ({
      ...flow,
      from: flow.from.filter((id) => there.has(id)),
      to: flow.to.filter((id) => there.has(id)),
    }))
    .filter(({ id, from, to }) => id === focus || from.length + to.length > 0);
  const drawn = new Set(flows.map(({ id }) => id));
  const between = ({ fromTable, toTable }: { readonly fromTable: string; readonly toTable: string }) =>
    there.has(fromTable) && there.has(toTable);
  return {
    ...picture,
    nodes,
    flows,
    links: picture.links
      .filter((link) => !hidden.has(link.kind) && between(link))
      .map((link) => (link.flow !== null && !drawn.has(link.flow) ? { ...link, flow: null } : link)),
    influences: hidden.has(ROWS) ? [] : picture.influences.filter(between),
  };
}
