import { RunEvent } from '@idrel/contract/lineage';
import { type ShownLineage, toOpenLineage, VALUE_KINDS } from '@idrel/core/lineage';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { placeOf } from '../types.ts';
import { nameDataset, readDataset, readEvents } from './openLineage.ts';

const word = fc.stringMatching(/^[a-z][a-z0-9_]{0,8}$/);

describe('datasets by the naming rules of OpenLineage', () => {
  it('are read as what they were named for', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('postgresql' as const, 'mariadb' as const),
        word,
        fc.integer({ min: 1, max: 65_535 }),
        fc.array(word, { minLength: 3, maxLength: 3 }),
        (kind, host, port, [top = '', schema = '', table = '']) => {
          const names = kind === 'postgresql' ? [schema, table] : [table];
          const place = placeOf(kind, host, port, top);
          expect(readDataset(nameDataset({ place, top, source: 'x' }, names))).toEqual({ place, names });
        },
      ),
    );
    const stored = { place: 's3://lake', top: 'lake', source: 'Lake' };
    expect(readDataset(nameDataset(stored, ['2026', 'fares.csv']))).toEqual({
      place: 's3://lake',
      names: ['2026', 'fares.csv'],
    });
    // What the rules do not name is somewhere that nobody mistakes for a system that is read.
    expect(readDataset(nameDataset({ place: '/srv/files', top: 'files', source: 'Files ashore' }, ['a.csv']))).toBe(
      undefined,
    );
  });
});

/** Tables of two columns each, and edges between them. */
const lineage = fc.array(
  fc.record({
    from: fc.nat(3),
    to: fc.nat(3),
    fromColumn: fc.nat(1),
    toColumn: fc.nat(1),
    kind: fc.constantFrom(...VALUE_KINDS),
    flow: fc.boolean(),
    wrong: fc.boolean(),
  }),
  { maxLength: 8 },
);
const idOf = (table: number, column: number) => `${table}.${column}`;

describe('lineage that is told in the shape of OpenLineage', () => {
  it('fits the shape that is received, and comes back as it went', () => {
    fc.assert(
      fc.property(lineage, (drawn) => {
        const edges = [
          ...new Map(
            drawn.map((edge) => [`${idOf(edge.from, edge.fromColumn)} ${idOf(edge.to, edge.toColumn)}`, edge]),
          ).values(),
        ];
        const shown: ShownLineage = {
          nodes: [0, 1, 2, 3].map((table) => ({
            id: String(table),
            path: `s.t${table}`,
            source: 'Shop',
            columns: [0, 1].map((column) => ({ id: idOf(table, column), name: `c${column}`, type: 'text' })),
          })),
          flows: [{ id: 'f', path: 'nightly', source: 'Jobs', statement: 'select 1', from: [], to: [] }],
          links: edges.map(({ from, to, fromColumn, toColumn, kind, flow, wrong }) => ({
            from: idOf(from, fromColumn),
            to: idOf(to, toColumn),
            fromTable: String(from),
            toTable: String(to),
            kind,
            wrong,
            flow: flow ? 'f' : null,
            change: null,
          })),
          influences: [{ from: '0.0', fromTable: '0', toTable: '1', kind: 'filter', change: null }],
        };
        const place = placeOf('postgresql', 'db', 5432, 'shop');
        const events = toOpenLineage(
          shown,
          (id) => nameDataset({ place, top: 'shop', source: 'Shop' }, ['s', `t${id}`]),
          {
            at: '2026-11-28T12:00:00Z',
            producer: 'urn:idrel',
          },
        );
        for (const event of events) expect(RunEvent.validate(event).error).toBeUndefined();
        const jobs = readEvents(events);
        const back = jobs
          .flatMap((job) => job.edges)
          .map(({ from, to, kind }) => `${from.at?.names[1]}.${from.column} ${to.at?.names[1]}.${to.column} ${kind}`);
        expect(back.sort()).toEqual(
          edges
            .filter(({ wrong }) => !wrong)
            .map(({ from, to, fromColumn, toColumn, kind }) => `t${from}.c${fromColumn} t${to}.c${toColumn} ${kind}`)
            .sort(),
        );
        // What decides about rows comes back too.
        expect(
          jobs
            .flatMap((job) => job.influences)
            .map(({ from, to, kind }) => `${from.at?.names[1]}.${from.column} ${to.at?.names[1]} ${to.column} ${kind}`),
        ).toEqual(['t0.c0 t1 null filter']);
      }),
    );
  });
});
