import type { LineageAnswer, LineageFlow, LineageNode } from '@idrel/contract/lineage';
import type { Edge } from '@xyflow/react';
import { COLUMN, HEAD, NODE_WIDTH, type Placed } from './placing.ts';

/** What a drawing is made of: the picture as it is laid out, with its edges and which tables are unfolded. */
export interface Drawing {
  readonly answer: LineageAnswer;
  readonly placed: Placed;
  readonly heights: ReadonlyMap<string, number>;
  readonly unfolded: ReadonlySet<string>;
  readonly edges: readonly Edge[];
}

const MARGIN = 30;
const escaped = (text: string): string =>
  text.replace(/[&<>"]/g, (mark) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[mark] ?? mark);
/** Long names are cut where their box ends. */
const fitting = (text: string, most: number): string => (text.length > most ? `${text.slice(0, most - 1)}…` : text);

/**
 * A picture of lineage as SVG 1.1, as it stands on the canvas: lanes, tables with the columns of unfolded ones, flows, edges.
 * @param color the colour behind `var(--name)`, since a file knows no theme
 */
export function toSvg({ answer, placed, heights, unfolded, edges }: Drawing, color: (name: string) => string): string {
  const paint = (value: unknown): string =>
    String(value ?? '').replace(/var\((--[a-z-]+)\)/g, (_, name: string) => color(name));
  const at = (id: string) => placed.at.get(id) ?? { x: 0, y: 0 };
  const tables = new Map(answer.nodes.map((node) => [node.id, node]));
  /** Where an edge begins or ends: at the head of its node, or at the column that its handle names. */
  const end = (id: string, handle: string | null | undefined): number => {
    const column = (handle ?? '').replace(/^(out|in)-?/, '');
    const row = unfolded.has(id) ? (tables.get(id)?.columns.findIndex((entry) => entry.id === column) ?? -1) : -1;
    return at(id).y + (row < 0 ? HEAD / 2 : HEAD + row * COLUMN + COLUMN / 2);
  };
  const text = (x: number, y: number, words: string, more = ''): string =>
    `<text x="${x}" y="${y}" ${more}>${escaped(words)}</text>`;
  const lane = ({ source, x, y, width, height }: Placed['lanes'][number]): string =>
    [
      `<path d="M${x} ${y}h${width}M${x} ${y + height}h${width}" stroke="${paint('var(--hairline)')}" fill="none"/>`,
      text(x + 8, y + 18, source, `fill="${paint('var(--quiet)')}" font-size="12"`),
    ].join('');
  const table = (node: LineageNode): string => {
    const { x, y } = at(node.id);
    const columns = unfolded.has(node.id) ? node.columns : [];
    return [
      `<rect x="${x}" y="${y}" width="${NODE_WIDTH}" height="${heights.get(node.id) ?? HEAD}" rx="3" fill="${paint('var(--panel)')}" stroke="${paint(node.id === answer.focus ? 'var(--kelp)' : 'var(--line-strong)')}"/>`,
      text(
        x + 10,
        y + HEAD / 2 + 4,
        fitting(node.path, 30),
        `fill="${paint('var(--ink)')}"${node.goneAt ? ' text-decoration="line-through"' : ''}`,
      ),
      ...columns.map((column, row) =>
        text(
          x + 10,
          y + HEAD + row * COLUMN + COLUMN / 2 + 4,
          fitting(column.name, 30),
          `fill="${paint('var(--ink)')}" font-size="11.5"`,
        ),
      ),
    ].join('');
  };
  const flow = (node: LineageFlow): string => {
    const { x, y } = at(node.id);
    return [
      `<rect x="${x}" y="${y}" width="${NODE_WIDTH}" height="${HEAD}" rx="20" fill="${paint('var(--panel)')}" stroke="${paint('var(--line-strong)')}" stroke-dasharray="4 3"/>`,
      text(x + 16, y + HEAD / 2 + 4, fitting(node.name, 28), `fill="${paint('var(--ink)')}"`),
    ].join('');
  };
  const line = ({ source, target, sourceHandle, targetHandle, style, label }: Edge): string => {
    const [fromX, fromY] = [at(source).x + NODE_WIDTH, end(source, sourceHandle)];
    const [toX, toY] = [at(target).x, end(target, targetHandle)];
    const bend = Math.max(40, Math.abs(toX - fromX) / 2);
    const stroke = paint(style?.stroke);
    return [
      `<path d="M${fromX} ${fromY}C${fromX + bend} ${fromY} ${toX - bend} ${toY} ${toX} ${toY}" fill="none" stroke="${stroke}" stroke-width="${style?.strokeWidth ?? 1}" stroke-dasharray="${style?.strokeDasharray ?? ''}" opacity="${style?.opacity ?? 1}" marker-end="url(#end)"/>`,
      typeof label === 'string'
        ? text((fromX + toX) / 2, (fromY + toY) / 2 - 4, label, `fill="${stroke}" font-size="11" text-anchor="middle"`)
        : '',
    ].join('');
  };
  const spots = [...answer.nodes, ...answer.flows].map(({ id }) => ({ ...at(id), height: heights.get(id) ?? HEAD }));
  const left = Math.min(0, ...spots.map(({ x }) => x), ...placed.lanes.map(({ x }) => x)) - MARGIN;
  const top = Math.min(0, ...spots.map(({ y }) => y), ...placed.lanes.map(({ y }) => y)) - MARGIN;
  const right = Math.max(...spots.map(({ x }) => x + NODE_WIDTH), ...placed.lanes.map(({ x, width }) => x + width), 0);
  const bottom = Math.max(
    ...spots.map(({ y, height }) => y + height),
    ...placed.lanes.map(({ y, height }) => y + height),
    0,
  );
  const [width, height] = [right - left + MARGIN, bottom - top + MARGIN];
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="${left} ${top} ${width} ${height}" font-family="ui-monospace, monospace" font-size="12.5">`,
    `<defs><marker id="end" viewBox="0 0 10 10" refX="9" refY="5" markerWidth="8" markerHeight="8" orient="auto"><path d="M0 0L10 5L0 10z" fill="${paint('var(--slate)')}"/></marker></defs>`,
    `<rect x="${left}" y="${top}" width="${width}" height="${height}" fill="${paint('var(--ground)')}"/>`,
    ...placed.lanes.map(lane),
    ...edges.map(line),
    ...answer.nodes.map(table),
    ...answer.flows.map(flow),
    '</svg>',
  ].join('\n');
}

/** More pixels on a side no browser draws for certain. */
const MOST_PIXELS = 8192;

/**
 * An SVG as PNG, at twice its size, or as large as can be drawn.
 * @returns the picture in base64
 * @throws where the browser cannot draw it
 */
export async function toPng(svg: string): Promise<string> {
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
  await image.decode();
  const scale = Math.min(2, MOST_PIXELS / Math.max(image.width, image.height));
  const canvas = document.createElement('canvas');
  canvas.width = Math.round(image.width * scale);
  canvas.height = Math.round(image.height * scale);
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height);
  const [, content = ''] = canvas.toDataURL('image/png').split(',');
  if (content === '') throw new Error('The browser cannot draw a picture of this size.');
  return content;
}
