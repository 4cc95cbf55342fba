import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  compareSheet,
  NOTICE_KINDS,
  noticeIn,
  noticeInCell,
  readSheetRows,
  type SheetAsset,
  type SheetNames,
  sheetRows,
} from './index.ts';

const id = (number: number) => `00000000-0000-4000-8000-${number.toString(16).padStart(12, '0')}`;
const people = ['Ida Holm', 'Bjørn Åse', '=1+1', 'a | b'];
const tags = ['retention', 'retention/short', 'Pilot/-x', "'=y"];
const map = (names: string[]) => new Map<string, string | null>(names.map((name) => [name.toLowerCase(), name]));
const NAMES: SheetNames = {
  owners: new Map([...map([...people, 'Crewing office']), ['ida@example.org', 'Ida Holm'], ['ole', null]]),
  people: new Map([...map(people), ['ida@example.org', 'Ida Holm'], ['ole', null]]),
  terms: map(['Traveller', 'Fare band']),
  tags: map(tags),
};
const asset = (number: number, more: Partial<SheetAsset> = {}): SheetAsset => ({
  id: id(number),
  version: 3,
  path: `booking.t${number}`,
  kind: 'table',
  source: 'Booking system',
  description: [],
  owners: [],
  stewards: [],
  custodians: [],
  terms: [],
  tags: [],
  standing: ['unreviewed'],
  notices: [],
  remark: [],
  ...more,
});
const known = (...assets: SheetAsset[]) => new Map(assets.map((one) => [one.id, one]));
const text = fc
  .oneof(
    fc.constantFrom('=SUM(A1)', '-', "'+", 'two\nlines', '"x", y', 'a | b'),
    fc.string({ maxLength: 12, unit: 'grapheme' }),
  )
  .map((value) => value.replace(/[\0\r]/g, '').trim());

const day = fc
  .date({ min: new Date('2026-01-01'), max: new Date('2027-12-31'), noInvalidDate: true })
  .map((at) => at.toISOString().slice(0, 10));
const notice = fc
  .record({
    kind: fc.constantFrom(...NOTICE_KINDS),
    text: text.filter((said) => said !== ''),
    starts: day,
    ends: fc.option(day),
  })
  .map(({ starts, ends, ...said }) => noticeInCell({ ...said, starts, ends: ends && ends < starts ? null : ends }));

describe('a sheet of assets', () => {
  it('that comes back as it went out changes nothing, whatever stands in its cells', () => {
    const assets = fc.array(
      fc.record({
        description: text.map((value) => (value ? [value] : [])),
        owners: fc.subarray(people, { maxLength: 1 }),
        stewards: fc.subarray(people),
        custodians: fc.subarray(people),
        terms: fc.subarray(['Traveller', 'Fare band']),
        tags: fc.subarray(tags),
        standing: fc.constantFrom(['unreviewed'], ['trusted']),
        notices: fc.uniqueArray(notice, { maxLength: 3 }),
        remark: fc.array(text, { maxLength: 2 }),
        version: fc.integer({ min: 1, max: 900 }),
        path: text,
      }),
      { maxLength: 8 },
    );
    fc.assert(
      fc.property(assets, (list) => {
        const now = list.map((more, at) => asset(at, more));
        const { cells, same, flaws } = compareSheet(readSheetRows(sheetRows(now)), known(...now), NAMES);
        expect({ cells, flaws, same }).toEqual({ cells: [], flaws: [], same: now.length });
      }),
      { numRuns: 300 },
    );
  });

  it('tells each cell that differs, and which may be a newer edit of somebody else', () => {
    const now = known(asset(1, { owners: ['Ida Holm'] }), asset(2, { version: 5, description: ['New.'] }));
    const rows = [
      ['id', 'version', 'owners', 'description', 'tags'],
      [id(1), '3', 'BJØRN ÅSE', '', 'RETENTION/short'],
      [id(2), '4', '', 'Old.', ''],
    ];
    expect(compareSheet(readSheetRows(rows), now, NAMES)).toEqual({
      same: 0,
      flaws: [],
      cells: [
        {
          at: 'line 2',
          id: id(1),
          path: 'booking.t1',
          field: 'owners',
          before: ['Ida Holm'],
          after: ['Bjørn Åse'],
          newer: false,
        },
        {
          at: 'line 2',
          id: id(1),
          path: 'booking.t1',
          field: 'tags',
          before: [],
          after: ['retention/short'],
          newer: false,
        },
        {
          at: 'line 3',
          id: id(2),
          path: 'booking.t2',
          field: 'description',
          before: ['New.'],
          after: ['Old.'],
          newer: true,
        },
      ],
    });
  });

  it('leaves a cell whose names are not known, and says which one is near', () => {
    const rows = [
      ['id', 'version', 'owners', 'terms', 'standing', 'colour'],
      [id(1), '3', 'Ida Hlm', 'Travelller', 'trustd', 'red'],
      [id(1), '3', '', '', 'trusted', ''],
      [id(7), '3', '', '', 'trusted', ''],
      ['x', '3', 'ole', '', 'trusted', ''],
      ['', '', '', '', '', ''],
    ];
    const read = readSheetRows(rows);
    const { cells, flaws } = compareSheet(read, known(asset(1)), NAMES);
    expect(cells).toEqual([]);
    expect(flaws.map(({ at, what, mend }) => `${at}: ${what} ${mend}`)).toEqual([
      'line 5: “x” is no id. Copy it from the sheet that was exported; the line is left out.',
      'line 2, owners: Nothing here is called “Ida Hlm”. Is “Ida Holm” meant? The cell is left.',
      'line 2, terms: Nothing here is called “Travelller”. Is “Traveller” meant? The cell is left.',
      'line 2, standing: “trustd” is no standing. Use one of unreviewed, reviewed, trusted, retiring; the cell is left.',
      'line 3: booking.t1 stands in the sheet twice. Keep one line of it; this one is left out.',
      'line 4: No asset has this id, or you may not see it. Export the sheet anew; the line is left out.',
    ]);
    expect(read.notKept).toEqual([{ what: 'the column “colour”', times: 1 }]);
    expect(readSheetRows([['name'], ['x']]).flaws).toMatchObject([{ at: 'line 1' }]);
    const several = compareSheet(
      readSheetRows([
        ['id', 'owners'],
        [id(1), 'Ole'],
      ]),
      known(asset(1)),
      NAMES,
    );
    expect(several.flaws).toMatchObject([{ what: 'Several are called “Ole”.' }]);
  });

  it('names one owner, who can be a group; a group looks after nothing else', () => {
    const read = readSheetRows([
      ['id', 'owners', 'stewards'],
      [id(1), 'crewing OFFICE', 'Crewing office'],
      [id(2), 'Ida Holm | Bjørn Åse', 'Ida Holm | Bjørn Åse'],
      [id(3), 'Ida Holm | ida@example.org', ''],
    ]);
    const { cells, flaws } = compareSheet(read, known(asset(1), asset(2), asset(3)), NAMES);
    expect(cells.map(({ at, field, after }) => [at, field, ...after])).toEqual([
      ['line 2', 'owners', 'Crewing office'],
      ['line 3', 'stewards', 'Ida Holm', 'Bjørn Åse'],
      ['line 4', 'owners', 'Ida Holm'],
    ]);
    expect(flaws.map(({ at, what }) => `${at}: ${what}`)).toEqual([
      'line 2, stewards: Nothing here is called “Crewing office”.',
      'line 3, owners: One owner answers for an asset, a person or a group.',
    ]);
  });

  it('adds notices and remarks, and takes none away', () => {
    const stands = 'caution 2026-12-01 to 2026-12-31: Goes | with the year';
    const now = known(asset(1, { notices: [stands], remark: ['Seen.'] }), asset(2, { notices: [stands] }), asset(3));
    const { cells, flaws, same } = compareSheet(
      readSheetRows([
        ['id', 'notices', 'remark'],
        [id(1), 'Caution until 2026-12-31: Goes \\| with the year | STOP: no more rows', 'Seen.'],
        [id(2), '', 'Ours: we read it from the copy.'],
        [id(3), 'beware: x | note 2026-02-30: y | caution 2026-12-31 to 2026-12-01: z', ''],
      ]),
      now,
      NAMES,
    );
    expect(cells.map(({ at, field, before, after, newer }) => [at, field, before, after, newer])).toEqual([
      ['line 2', 'notices', [], ['stop: no more rows'], false],
      ['line 3', 'remark', [], ['Ours: we read it from the copy.'], false],
    ]);
    expect(flaws.map(({ at, what }) => `${at}: ${what}`)).toEqual([
      `line 3, notices: The sheet has no longer the notice “${stands}”.`,
      'line 4, notices: “beware: x” is no notice.',
      'line 4, notices: “note 2026-02-30: y” is no notice.',
      'line 4, notices: “caution 2026-12-31 to 2026-12-01: z” is no notice.',
    ]);
    expect(same).toBe(1);
    const long = compareSheet(
      readSheetRows([
        ['id', 'notices', 'remark'],
        [id(3), `note: ${'x'.repeat(2001)}`, 'y'.repeat(4001)],
      ]),
      now,
      NAMES,
    );
    expect(long.cells).toEqual([]);
    expect(long.flaws.map(({ what }) => what)).toEqual([
      'It is longer than 2,000 letters.',
      'It is longer than 4,000 letters.',
    ]);
  });

  it('reads a notice as it is written', () => {
    fc.assert(
      fc.property(notice, (said) => {
        expect(noticeInCell(noticeIn(said) as never)).toBe(said);
      }),
    );
    expect(noticeIn('note: a: b')).toEqual({ kind: 'note', text: 'a: b', starts: null, ends: null });
    expect(noticeIn('caution')).toBeUndefined();
  });

  it('of an impact list tells how each is reached, and takes back what is filled in', () => {
    const one = asset(1, { owners: ['Ida Holm'] });
    const told = {
      steps: '2',
      consequence: 'fails',
      why: '=it reads it',
      how: '',
      way: 'a > b',
      level: '',
      asked: '7',
      answers: 'Ida Holm',
    };
    const rows = sheetRows([one], new Map([[one.id, told]]));
    const [heads = [], cells = []] = rows;
    expect(Object.fromEntries(heads.map((head, at) => [head, cells[at]]))).toMatchObject({
      steps: '2',
      why: "'=it reads it",
      way: 'a > b',
      owners: 'Ida Holm',
      notices: '',
      remark: '',
    });
    expect(heads).not.toContain('description');
    const filled = [heads, cells.map((cell, at) => (heads[at] === 'remark' ? 'Will be adapted.' : cell))];
    expect(compareSheet(readSheetRows(filled), known(one), NAMES)).toMatchObject({
      flaws: [],
      cells: [{ field: 'remark', after: ['Will be adapted.'] }],
    });
    expect(readSheetRows(filled).notKept).toEqual([]);
  });
});
