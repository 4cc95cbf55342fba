import { describe, expect, it } from 'vitest';
import { readEdgeSheet } from './index.ts';

describe('edges of a sheet', () => {
  it('are read by the names of the columns, in any order, or by their places where there are none', () => {
    const line = {
      from: '/at/Desk/form/price',
      to: '/at/Shop/sale/price',
      kind: 'transformed',
      through: null,
      note: 'typed over',
    };
    expect(
      readEdgeSheet([
        ['Remark', 'into', 'Owner', 'FROM', 'what happens'],
        ['typed over', '/at/Shop/sale/price', 'Ida', 'Desk/form/price', 'Transformed'],
        ['', '', '', '', ''],
      ]),
    ).toEqual({
      lines: [{ at: 'line 2', ...line }],
      flaws: [],
      notKept: [{ what: 'the column “Owner”', times: 1 }],
    });
    // A readable link as an asset's page copies it.
    const link = 'https://idrel.example.org:4780/at/Shop/sale/price';
    expect(readEdgeSheet([['Desk/form/price', link, 'transformed', '', 'typed over']]).lines).toEqual([
      { at: 'line 1', ...line },
    ]);
  });

  it('that cannot be read are told with their line and the mend, and keep none of the others', () => {
    const { lines, flaws } = readEdgeSheet([
      ['from', 'to', 'kind', 'through', 'note'],
      ['a/b', ''],
      ['', 'a/b'],
      ['a/b', 'a/c', 'guessed'],
      ['a/b', 'a/c', '', 'Jobs/nightly'],
      ['/at/a/b', 'a/c', 'masked'],
      ['a/b', 'a/d', '', '', 'x'.repeat(2001)],
    ]);
    expect(lines).toEqual([
      { at: 'line 5', from: '/at/a/b', to: '/at/a/c', kind: 'copied', through: '/at/Jobs/nightly', note: '' },
    ]);
    expect(flaws.map(({ at, what }) => `${at}: ${what}`)).toEqual([
      'line 2: It does not say where the edge leads.',
      'line 3: It does not say where the edge comes from.',
      'line 4: “guessed” is nothing that can happen to a value.',
      'line 6: The same edge stands in line 5.',
      'line 7: The note is longer than 2000 characters.',
    ]);
  });
});
