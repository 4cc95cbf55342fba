import type { InfluenceKind, ValueKind } from './types.ts';

/** What a picture of lineage shows, as far as its exports need it. */
export interface ShownLineage {
  readonly nodes: readonly {
    readonly id: string;
    readonly path: string;
    readonly source: string;
    readonly columns: readonly { readonly id: string; readonly name: string; readonly type: string | null }[];
  }[];
  readonly flows: readonly {
    readonly id: string;
    readonly path: string;
    readonly source: string;
    readonly statement: string | null;
    readonly from: readonly string[];
    readonly to: readonly string[];
  }[];
  readonly links: readonly {
    readonly from: string;
    readonly to: string;
    readonly fromTable: string;
    readonly toTable: string;
    readonly kind: ValueKind;
    /** Somebody said that it is wrong. */
    readonly wrong: boolean;
    /** The flow that the value takes, where it stands in the picture. */
    readonly flow: string | null;
    readonly change: 'came' | 'went' | null;
  }[];
  readonly influences: readonly {
    readonly from: string;
    readonly fromTable: string;
    readonly toTable: string;
    readonly kind: InfluenceKind;
    readonly change: 'came' | 'went' | null;
  }[];
}

/** Between which two nodes something is drawn, and what happens there. */
export interface Drawn {
  readonly from: string;
  readonly to: string;
  readonly words: Set<string>;
  /** Only rows are decided. */
  rows: boolean;
}

/** What is drawn between the tables and flows of a picture, each pair once, with what happens to the values; where none flow, what decides rows. */
export function drawnBetween({ links, influences }: Pick<ShownLineage, 'links' | 'influences'>): Drawn[] {
  const pairs = new Map<string, Drawn>();
  const draw = (from: string, to: string, word: string, rows: boolean): void => {
    const known = pairs.get(`${from} ${to}`) ?? { from, to, words: new Set<string>(), rows };
    pairs.set(`${from} ${to}`, known);
    if (rows && !known.rows) return;
    if (word) known.words.add(word);
  };
  for (const { fromTable, toTable, kind, wrong, flow, change } of links) {
    const word = [wrong ? `${kind}, wrong` : kind, change].filter(Boolean).join(', ');
    if (flow === null) draw(fromTable, toTable, word, false);
    else {
      draw(fromTable, flow, '', false);
      draw(flow, toTable, word, false);
    }
  }
  const fed = new Set(links.map(({ fromTable, toTable }) => `${fromTable} ${toTable}`));
  for (const { fromTable, toTable, kind, change } of influences)
    if (kind !== 'unused' && fromTable !== toTable && !fed.has(`${fromTable} ${toTable}`))
      draw(fromTable, toTable, [kind, change].filter(Boolean).join(', '), true);
  return [...pairs.values()];
}

/** A text between quotation marks of Mermaid: what means something there is written as an entity (Mermaid's documentation, flowchart, "Entity codes to escape characters"). */
const quoted = (text: string): string =>
  `"${text.replace(/[#"<>&]/g, (mark) => `#${mark.charCodeAt(0)};`).replace(/\s+/g, ' ')}"`;

/**
 * A picture as a flowchart of Mermaid: a frame for each source, its tables as boxes, flows rounded; dotted where only rows are decided.
 * @returns text that stands in a block ```` ```mermaid ````
 */
export function toMermaid(shown: ShownLineage): string {
  const nodes = [
    ...shown.nodes.map(({ id, path, source }) => ({ id, source, box: (name: string) => `${name}[${quoted(path)}]` })),
    ...shown.flows.map(({ id, path, source }) => ({ id, source, box: (name: string) => `${name}([${quoted(path)}])` })),
  ];
  const names = new Map(nodes.map(({ id }, at) => [id, `n${at}`]));
  const frames = [...new Set(nodes.map(({ source }) => source))].flatMap((source, at) => [
    `  subgraph s${at}[${quoted(source)}]`,
    ...nodes.filter((node) => node.source === source).map(({ id, box }) => `    ${box(names.get(id) ?? '')}`),
    '  end',
  ]);
  const lines = drawnBetween(shown).flatMap(({ from, to, words, rows }) => {
    const [one, other] = [names.get(from), names.get(to)];
    if (!one || !other) return [];
    const label = words.size > 0 ? `|${quoted([...words].sort().join('; '))}|` : '';
    return [`  ${one} ${rows ? '-.->' : '-->'}${label} ${other}`];
  });
  return ['flowchart LR', ...frames, ...lines, ''].join('\n');
}

/** Heads of the rows of {@link toRows}. */
export const EDGE_HEADS = ['from', 'from source', 'to', 'to source', 'what happens', 'through', 'remark'] as const;

/** A picture as rows of a sheet, an edge each: what carries values, column by column; what decides rows, with the table whose rows it decides. */
export function toRows({ nodes, flows, links, influences }: ShownLineage): string[][] {
  const [tables, through] = [
    new Map(nodes.map((node) => [node.id, node])),
    new Map(flows.map((flow) => [flow.id, flow])),
  ];
  const columns = new Map(nodes.flatMap((node) => node.columns.map(({ id, name }) => [id, name] as const)));
  const end = (table: string, id: string): string[] => {
    const node = tables.get(table);
    const column = id === table ? undefined : columns.get(id);
    return [[node?.path, column].filter((part) => part !== undefined).join('.'), node?.source ?? ''];
  };
  return [
    ...links.map(({ from, to, fromTable, toTable, kind, wrong, flow, change }) => [
      ...end(fromTable, from),
      ...end(toTable, to),
      kind,
      (flow === null ? undefined : through.get(flow)?.path) ?? '',
      [wrong ? 'said to be wrong' : '', change ?? ''].filter(Boolean).join(', '),
    ]),
    ...influences.map(({ from, fromTable, toTable, kind, change }) => [
      ...end(fromTable, from),
      ...end(toTable, toTable),
      kind === 'unused' ? 'read, without effect' : `decides rows: ${kind}`,
      '',
      change ?? '',
    ]),
  ];
}
