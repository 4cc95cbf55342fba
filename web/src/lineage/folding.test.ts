import type { LineageAnswer, LineageFlow, LineageNode } from '@idrel/contract/lineage';
import { describe, expect, it } from 'vitest';
import { folded, groupAt } from './folding.ts';
import { withColumns } from './usePicture.ts';

const node = (id: string, more: Partial<LineageNode> = {}): LineageNode => ({
  id,
  kind: 'table',
  name: id.split('.').at(-1) ?? id,
  path: id,
  sourceId: 's',
  source: 'Booking system',
  domain: 'Bookings',
  standing: 'unreviewed',
  notices: [],
  level: null,
  columns: [],
  columnCount: 0,
  statement: null,
  problems: [],
  goneAt: null,
  more: { upstream: 0, downstream: 0 },
  ...more,
});
const flow = (id: string, from: string[], to: string[]): LineageFlow => ({
  id,
  kind: 'flow',
  name: id,
  path: id,
  sourceId: 's',
  source: 'Booking system',
  statement: null,
  problems: [],
  lastRun: null,
  from,
  to,
});
const link = (fromTable: string, toTable: string, through: string | null = null): LineageAnswer['links'][number] => ({
  from: `${fromTable}.x`,
  to: `${toTable}.x`,
  fromTable,
  toTable,
  kind: 'copied',
  wrong: false,
  said: false,
  change: null,
  flow: through,
});
const NODES = [
  node('booking.passenger', { level: 3, more: { upstream: 1, downstream: 0 } }),
  node('booking.booking', { level: 1 }),
  node('mart.totals', { kind: 'view', source: 'Warehouse', domain: 'Figures' }),
  node('mart.by_day', { kind: 'view', source: 'Warehouse', domain: 'Figures' }),
  node('ref.day', { source: 'Warehouse', domain: 'Figures' }),
];
const ANSWER: LineageAnswer = {
  focus: 'mart.totals',
  nodes: NODES,
  flows: [
    flow('load', ['booking.passenger', 'booking.booking'], ['mart.by_day']),
    flow('tidy', ['booking.passenger'], ['booking.booking']),
  ],
  links: [
    link('booking.passenger', 'booking.booking', 'tidy'),
    link('booking.passenger', 'mart.by_day', 'load'),
    link('booking.booking', 'mart.by_day', 'load'),
    link('mart.by_day', 'mart.totals'),
    link('ref.day', 'mart.totals'),
  ],
  influences: [{ from: 'ref.day.x', fromTable: 'ref.day', toTable: 'mart.by_day', kind: 'join', change: null }],
  sources: [],
  coarse: false,
  nearest: false,
};
const NONE = new Set<string>();
const ids = (answer: LineageAnswer) => answer.nodes.map(({ path }) => path).sort();
const ways = (answer: LineageAnswer) =>
  [
    ...new Set(
      answer.links.map(({ fromTable, toTable, flow: by }) => [fromTable, by, toTable].filter(Boolean).join(' > ')),
    ),
  ].map((text) => text.replaceAll('\n', '|'));

describe('a folded picture', () => {
  it('shows tables of a schema as one, with their highest level and what leads further; what is alone stands as it is', () => {
    const { answer, groups } = folded(ANSWER, 'schema', NONE, new Set(['mart.totals']));
    expect(ids(answer)).toEqual(['booking', 'mart.by_day', 'mart.totals', 'ref.day']);
    const [booking] = groups.values();
    expect(booking?.members.map(({ id }) => id)).toEqual(['booking.passenger', 'booking.booking']);
    expect(answer.nodes.find(({ path }) => path === 'booking')).toMatchObject({
      level: 3,
      columns: [],
      more: { upstream: 1, downstream: 0 },
    });
  });

  it('leads edges to the whole, and leaves out what happens inside of it', () => {
    const { answer } = folded(ANSWER, 'schema', NONE, NONE);
    expect(ways(answer)).toEqual([
      'schema|booking|Booking system > load > schema|mart|Warehouse',
      'ref.day > schema|mart|Warehouse',
    ]);
    expect(answer.flows.map(({ id, from, to }) => [id, from.length, to.length])).toEqual([['load', 1, 1]]);
    expect(answer.influences.map(({ toTable }) => toTable.replaceAll('\n', '|'))).toEqual(['schema|mart|Warehouse']);
    expect(
      answer.links.every(({ from, fromTable }) => (fromTable.startsWith('schema') ? from === fromTable : true)),
    ).toBe(true);
  });

  it('is folded by source and by domain as well, and unfolds group by group', () => {
    expect(ids(folded(ANSWER, 'source', NONE, NONE).answer)).toEqual(['Booking system', 'Warehouse']);
    expect(ids(folded(ANSWER, 'domain', NONE, NONE).answer)).toEqual(['Bookings', 'Figures']);
    const open = new Set([groupAt('domain', NODES[0] as LineageNode).id]);
    expect(ids(folded(ANSWER, 'domain', open, NONE).answer)).toEqual([
      'Figures',
      'booking.booking',
      'booking.passenger',
    ]);
    expect(folded(ANSWER, null, NONE, NONE).answer).toBe(ANSWER);
  });
});

describe('a picture that is told between tables', () => {
  const coarse = { ...ANSWER, coarse: true };
  const column = (id: string) => ({ id, name: id, type: null, classes: [], level: null });
  const told = {
    tables: [{ id: 'mart.by_day', columns: [column('mart.by_day.x'), column('mart.by_day.y')] }],
    links: [
      link('booking.passenger', 'mart.by_day', 'load'),
      link('booking.booking', 'mart.by_day', 'not shown'),
      { ...link('mart.by_day', 'mart.totals'), kind: 'masked' as const },
      link('mart.by_day', 'somewhere.else'),
    ],
  };

  it('has the columns of those that are looked at, with their edges in place of those of their tables', () => {
    const answer = withColumns(coarse, told, NONE);
    expect(answer.nodes.map(({ columns }) => columns.length)).toEqual([0, 0, 0, 2, 0]);
    expect(ways(answer).sort()).toEqual([
      'booking.booking > mart.by_day',
      'booking.passenger > load > mart.by_day',
      'booking.passenger > tidy > booking.booking',
      'mart.by_day > mart.totals',
      'ref.day > mart.totals',
    ]);
    expect(ways(withColumns(coarse, told, new Set(['masked'])))).not.toContain('mart.by_day > mart.totals');
  });

  it('stands as it is until they are there, and where columns are told of all', () => {
    expect(withColumns(coarse, undefined, NONE)).toBe(coarse);
    expect(withColumns(ANSWER, told, NONE)).toBe(ANSWER);
  });
});
