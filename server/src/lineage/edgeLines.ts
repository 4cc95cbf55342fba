import type { EdgeOfLine } from '@idrel/contract/exchange';
import type { SaidAnswer } from '@idrel/contract/lineage';
import { idsAt } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Tx } from '../platform/database.ts';
import { type GivenLine, type LineSaid, lineByLine } from '../platform/lines.ts';
import { sayEdge } from './said.ts';

const OUTCOMES = {
  said: 'made',
  changed: 'changed',
  'as it was': 'same',
  'found already': 'same',
} as const satisfies Partial<Record<SaidAnswer['state'], LineSaid['outcome']>>;
const isAddress = (of: string) => of.startsWith('/');

/** Takes edges of lineage line by line, as a person says them. */
export async function takeEdgeLines(tx: Tx, who: Who, lines: readonly GivenLine<EdgeOfLine>[]): Promise<LineSaid[]> {
  const ends = lines.flatMap(({ value }) => [value.from, value.to]);
  const ids = await idsAt(tx, ends.filter(isAddress));
  const endOf = (of: string) => {
    const id = isAddress(of) ? ids.get(of) : of;
    return id === undefined ? { address: of } : { id };
  };
  return lineByLine(tx, lines, async ({ from, to, kind, note }) => {
    const { state, id } = await sayEdge(tx, who, { from: endOf(from), to: endOf(to), kind, note, flow: null });
    return { outcome: OUTCOMES[state as keyof typeof OUTCOMES], ...(id === undefined ? {} : { id }) };
  });
}
