import type { LineageInfluence, LineageLink } from '@idrel/contract/lineage';
import type { AssetKind } from '@idrel/contract/things';
import type { Step } from '@idrel/core/lineage';
import { isKindThat } from '@idrel/core/things';
import { type Direction, type StepsAt, walk } from './walk.ts';

/** A flow that is an asset of its own, with the tables of a picture that it reads and writes. */
export interface FlowEnds {
  readonly id: string;
  readonly from: readonly string[];
  readonly to: readonly string[];
}

/** Where an asset is seen in a picture of tables: a column in its table, anything else as itself. */
export const seenIn = (asset: string): string => `seen_in(${asset}.kind, ${asset}.id, ${asset}.parent_id)`;

/** The edges of the catalog, as they stand or as they stood. */
export interface Edges {
  readonly tables: StepsAt;
  readonly columns: StepsAt;
  /** Which tables a flow that is an asset of its own reads (upstream), or writes (downstream). */
  ends(flowId: string, direction: Direction): Promise<string[]>;
  /** What carries values between columns of some tables and of others, either way; `among` holds the tables themselves, too. */
  links(tables: readonly string[], among: readonly string[]): Promise<LineageLink[]>;
  /** What carries values between some tables, an edge for each kind of it. */
  tableLinks(tables: readonly string[]): Promise<LineageLink[]>;
  /** What decides rows of some tables. */
  influences(tables: readonly string[]): Promise<LineageInfluence[]>;
  /** The same, between tables. */
  tableInfluences(tables: readonly string[]): Promise<LineageInfluence[]>;
  /** The flows between some tables, and `focus`, whatever it stands between. */
  flows(tables: readonly string[], focus: string | null): Promise<FlowEnds[]>;
}

/** The steps around an asset; around a flow those to its tables, and on from there. */
export async function stepsFrom(
  edges: Pick<Edges, 'tables' | 'columns' | 'ends'>,
  { id, kind }: { readonly id: string; readonly kind: AssetKind },
  direction: Direction,
  most?: number,
  enough?: number,
): Promise<Step<string | null>[]> {
  if (!isKindThat('runs', kind))
    return walk(kind === 'column' ? edges.columns : edges.tables, [id], direction, most, enough);
  if (most === 0) return [];
  const ends = await edges.ends(id, direction);
  const first = ends.map((end) =>
    direction === 'downstream' ? { from: id, to: end, edge: null } : { from: end, to: id, edge: null },
  );
  return [...first, ...(await walk(edges.tables, ends, direction, most === undefined ? most : most - 1, enough))];
}
