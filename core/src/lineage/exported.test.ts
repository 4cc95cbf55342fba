import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  type CatalogExport,
  ExportError,
  type ExportedAsset,
  ExportedLineage,
  exportRule,
  INFLUENCE_KINDS,
  reachable,
  readExport,
  VALUE_KINDS,
  writeExport,
} from './index.ts';

const asset = (id: string, names: string[], more: Partial<ExportedAsset> = {}): ExportedAsset => ({
  id,
  names,
  kind: 'table',
  path: names.slice(1).join('.'),
  source: 'Booking',
  domains: ['Bookings'],
  standing: 'unreviewed',
  level: null,
  priority: 0,
  within: null,
  owners: [],
  tags: [],
  classes: [],
  ...more,
});
const column = (id: string, names: string[], within: string, more: Partial<ExportedAsset> = {}) =>
  asset(id, names, { kind: 'column', within, ...more });
const EXPORT: CatalogExport = {
  source: 'Booking',
  at: '2026-11-29T00:00:00.000Z',
  assets: [
    asset('p', ['db', 'booking', 'passenger']),
    column('p.mail', ['db', 'booking', 'passenger', 'e-mail “private”\n'], 'p', { classes: ['email'] }),
    asset('v', ['db', 'booking', 'contact'], { kind: 'view', owners: ['Ida'] }),
    column('v.mail', ['db', 'booking', 'contact', 'mail'], 'v'),
    asset('r', ['board', 'newest'], { kind: 'report', source: 'Reports', standing: 'trusted', priority: 2 }),
    column('r.who', ['board', 'newest', 'who'], 'r', { source: 'Reports' }),
  ],
  edges: [
    { from: 'p.mail', to: 'v.mail', kind: 'copied' },
    { from: 'v.mail', to: 'hidden', kind: 'copied' },
    { from: 'hidden', to: 'r.who', kind: 'masked' },
    { from: 'p.mail', to: 'v', kind: 'filter' },
    { from: 'p.mail', to: 'r', kind: 'unused' },
  ],
};

describe('an export of the catalog', () => {
  it('is read as it was written', () => {
    expect(readExport(writeExport(EXPORT))).toEqual(EXPORT);
    expect(writeExport(EXPORT).split('\n')).toHaveLength(13);
  });

  it('says in which line it is broken', () => {
    const text = writeExport(EXPORT).split('\n');
    const broken = (line: number, words: string): [number, string] => {
      try {
        readExport(text.with(line - 1, words).join('\n'));
        return [0, ''];
      } catch (error) {
        return [(error as ExportError).line, (error as Error).message];
      }
    };
    expect(broken(1, '{"export": 2}')).toEqual([1, 'does not say that an export of version 1 follows']);
    expect(broken(3, '{"asset": {"id": "p"}}')).toEqual([3, 'is neither an asset nor an edge']);
    expect(broken(3, 'null')).toEqual([3, 'is neither an asset nor an edge']);
    expect(broken(8, '{"edge": ')[0]).toBe(8);
    expect(() => readExport('')).toThrow(ExportError);
  });

  it('tells what is made of a column and of a table, through what is not told', () => {
    const lineage = new ExportedLineage(EXPORT);
    const mail = lineage.find(['booking', 'passenger', 'e-mail “private”\n']);
    const told = (of: ExportedAsset | undefined, rule: string | null = null) =>
      lineage
        .madeOf(of as ExportedAsset, rule === null ? null : exportRule(rule))
        .map(({ asset: { id }, distance, how, matches }) => [id, distance, how, matches]);
    expect(told(mail, 'kind:report standing:trusted').sort()).toEqual([
      // Its report is trusted, it is none itself.
      ['r.who', 3, 'masked', true],
      ['v', 1, 'filter', false],
      ['v.mail', 1, 'copied', false],
    ]);
    expect(told(lineage.find(['booking', 'passenger']), 'owner:Ida')).toEqual([
      ['v', 1, 'feeds', true],
      ['r', 3, 'feeds', false],
    ]);
    expect(lineage.find(['newest'])).toBeUndefined();
    expect(lineage.find(['passenger', 'phone'])).toBeUndefined();
  });

  it('refuses rules that ask for what it does not tell', () => {
    expect(() => exportRule('kind:report or fresh<-3d')).toThrow('An export does not tell what “fresh” asks for.');
    expect(() => exportRule('passenger')).toThrow('“words”');
    expect(() => exportRule('colour:red')).toThrow();
    expect(() =>
      exportRule('kind:report priority>=important -tag:"kept for/10" (level:secret or class:email)'),
    ).not.toThrow();
  });

  it('reaches what the edges reach, whatever they are', () => {
    const ids = ['a', 'b', 'c', 'd', 'e', 'f'];
    const edge = fc.record({
      from: fc.constantFrom(...ids),
      to: fc.constantFrom(...ids),
      kind: fc.constantFrom(...VALUE_KINDS, ...INFLUENCE_KINDS),
    });
    fc.assert(
      fc.property(fc.array(edge, { maxLength: 12 }), fc.constantFrom(...ids), (edges, start) => {
        const lineage = new ExportedLineage({
          ...EXPORT,
          assets: [asset('t', ['t']), ...ids.map((id) => column(id, ['t', id], 't'))],
          edges,
        });
        const expected = reachable(
          edges.filter(({ kind }) => kind !== 'unused').map(({ from, to }) => ({ from, to, edge: null })),
          start,
          'downstream',
        );
        expect(
          lineage
            .madeOf(lineage.find(['t', start]) as ExportedAsset, null)
            .map(({ asset: { id }, distance }) => [id, distance])
            .sort(),
        ).toEqual(expected.map(({ id, distance }) => [id, distance]).sort());
        expect(lineage.madeOf(lineage.find(['t']) as ExportedAsset, null)).toEqual([]);
      }),
    );
  });
});
