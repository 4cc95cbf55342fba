import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareDirectory, directoryRows, type Known, readDirectory } from './directory.ts';

const person = (changes: Partial<Known> = {}): Known => ({
  id: 'id',
  left: false,
  email: 'maud@example.org',
  name: 'Maud',
  job: 'analyst',
  groups: ['Onboard'],
  ...changes,
});
const GROUPS = ['Onboard', 'Fares | summer', '=cmd()', "'quoted", 'back\\slash'];
const compared = (rows: string[][], people: Known[] = [person()]) => {
  const read = readDirectory(rows);
  return { ...compareDirectory(read, people, GROUPS), notKept: read.notKept };
};

describe('people from a file', () => {
  it('are known by their addresses, however they are written; what has no column stays, an empty cell empties', () => {
    const change = compared([
      ['E-Mail', 'Job', 'shoe size'],
      ['MAUD@example.org', '', '38'],
    ]);
    expect(change.changed).toMatchObject([
      {
        id: 'id',
        fields: [{ field: 'job', before: 'analyst', after: '' }],
        after: { name: 'Maud', groups: ['Onboard'] },
      },
    ]);
    expect(change.notKept).toEqual([{ what: 'the column “shoe size”', times: 1 }]);
    expect(
      compared([
        ['mail', 'name'],
        ['maud@example.org', 'Maud'],
      ]),
    ).toMatchObject({ changed: [], same: 1, absent: [] });
  });

  it('are new where nobody has the address, and told where they are not in the file; whoever has left stays so', () => {
    const change = compared(
      [
        ['e-mail', 'name', 'groups'],
        ['new@example.org', 'Nova', 'onboard; Onboard'],
        ['gone@example.org', 'Gone', ''],
      ],
      [person(), person({ id: 'gone', email: 'gone@example.org', name: 'Gone', left: true })],
    );
    expect(change.fresh).toEqual([
      { at: 'line 2', email: 'new@example.org', name: 'Nova', job: '', groups: ['Onboard'] },
    ]);
    expect(change.absent.map(({ name }) => name)).toEqual(['Maud']);
    expect(change.flaws).toMatchObject([{ at: 'line 3', what: 'Gone has left.' }]);
  });

  it('are told where they cannot be taken as they stand, with the line and the mend', () => {
    const change = compared([
      ['e-mail', 'name', 'groups'],
      ['maud at example', 'Maud', ''],
      ['', 'Nobody', ''],
      ['', '', ''],
      ['new@example.org', '', ''],
      ['maud@example.org', 'Maud', 'Onbord'],
      ['Maud@example.org', 'Maude', ''],
      ['long@example.org', 'x'.repeat(121), ''],
    ]);
    expect(change.flaws.map(({ at, what }) => `${at}: ${what}`)).toEqual([
      'line 2: “maud at example” is no e-mail address.',
      'line 3: There is no e-mail address.',
      'line 5: new@example.org has no name.',
      'line 6: There is no group “Onbord”.',
      'line 7: Maud@example.org stands in line 6 as well.',
      'line 8: The name is longer than 120 characters.',
    ]);
    expect(change.flaws.at(-3)?.mend).toContain('“Onboard”');
    expect(compared([['name'], ['Maud']])).toMatchObject({
      fresh: [],
      flaws: [{ at: 'line 1', what: 'No column is called “e-mail”.' }],
    });
  });

  it('are the same after they were taken out and in again, whatever their names and groups hold', () => {
    const cell = fc
      .string({ unit: 'grapheme', minLength: 1, maxLength: 30 })
      .map((text) => text.trim())
      .filter(Boolean);
    const people = fc.uniqueArray(
      fc.record({ name: cell, job: fc.oneof(cell, fc.constant('')), groups: fc.subarray(GROUPS) }),
      { maxLength: 8, selector: ({ name }) => name },
    );
    fc.assert(
      fc.property(people, (listed) => {
        const known = listed.map((entry, at) => person({ ...entry, id: String(at), email: `p${at}@example.org` }));
        const change = compared(directoryRows(known), known);
        expect(change).toMatchObject({ fresh: [], changed: [], flaws: [], absent: [], same: known.length });
      }),
    );
  });
});
