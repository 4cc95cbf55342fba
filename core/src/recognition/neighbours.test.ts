import { describe, expect, it } from 'vitest';
import { DETECTORS } from './detectors/index.ts';
import { recogniseTable } from './neighbours.ts';
import { recognise } from './recognise.ts';
import { compileSpec, type DetectorSpec } from './spec.ts';
import type { ColumnSample } from './types.ts';

const setting = { today: new Date('2026-05-31'), countries: ['GB', 'NO'] };
const many = (make: (index: number) => string) => Array.from({ length: 60 }, (_, index) => make(index));
const text = (name: string, values: string[], type: ColumnSample['type'] = 'text'): ColumnSample => ({
  name,
  type,
  values,
});
const day = (index: number) =>
  new Date(Date.UTC(1940 + index, index % 12, 1 + (index % 27))).toISOString().slice(0, 10);
const email = text(
  'c1',
  many((index) => `p${index}@example.org`),
);
const phone = text(
  'c2',
  many((index) => `+4722${123_400 + index}`),
);
const born = text('c3', many(day), 'date');
const price = text(
  'c4',
  many((index) => String(10 + index)),
  'integer',
);

describe('columns of one table', () => {
  it('raise weak claims of each other where the table is about persons, and say what stands beside', () => {
    const [alone] = recognise(born, setting);
    const [, , beside] = recogniseTable([email, phone, born, price], setting);
    expect(alone).toMatchObject({ classKey: 'date-of-birth', state: 'to-settle' });
    expect(beside?.[0]).toMatchObject({ classKey: 'date-of-birth' });
    expect(beside?.[0]?.confidence).toBeGreaterThan(alone?.confidence ?? 1);
    expect(beside?.[0]?.terms.at(-1)?.reason).toBe('beside it stand: E-mail address, Phone number');
  });

  it('leave what is certain, and what has nothing to do with persons, as it is', () => {
    const together = recogniseTable([email, phone, born, price], setting);
    expect(together[0]).toEqual(recognise(email, setting));
    expect(together[3]).toEqual([]);
    // One class alone beside it is not enough.
    expect(recogniseTable([email, born], setting)[1]).toEqual(recognise(born, setting));
    expect(recogniseTable([], setting)).toEqual([]);
  });
});

describe('a combination that an organisation names', () => {
  const spec = (classKeys: string[], least: number, namePattern = ''): DetectorSpec => ({
    value: { kind: 'combination', classKeys, least },
    checksum: 'none',
    namePattern,
    nameNeeded: false,
    minShare: 0.5,
    minDistinct: 1,
    accepts: [],
    rejects: [],
  });
  const combination = (classKey: string, rule: DetectorSpec) =>
    compileSpec({ id: 'own.beside', version: 1, classKey, label: 'Crew number', level: 3, spec: rule });
  const route = text(
    'c5',
    many((index) => `${54 + index / 100}`),
    'decimal',
  );
  const of = (lists: ReturnType<typeof recogniseTable>, column: number, classKey: string) =>
    lists[column]?.find((finding) => finding.classKey === classKey);

  it('raises every one of its classes where enough of them stand beside each other', () => {
    const [email2, phone2] = [
      text(
        'a',
        many((index) => (index % 3 === 0 ? 'gone' : `p${index}@example.org`)),
      ),
      text(
        'b',
        many((index) => (index % 3 === 0 ? 'none of it' : `+4722${123_400 + index}`)),
      ),
    ];
    const weak = [
      ...DETECTORS.filter((detector) => detector.classKey === 'email' || detector.classKey === 'phone').map(
        (detector) => ({ ...detector, minShare: 0.5 }),
      ),
    ];
    const alone = recogniseTable([email2, phone2], setting, weak);
    const together = recogniseTable([email2, phone2], setting, [...weak, combination('email', spec(['phone'], 1))]);
    for (const [column, key] of [
      [0, 'email'],
      [1, 'phone'],
    ] as const) {
      expect(of(together, column, key)?.confidence).toBeGreaterThan(of(alone, column, key)?.confidence ?? 0);
      expect(of(together, column, key)?.terms.at(-1)).toEqual({
        reason: expect.stringMatching(/^beside it stand: .+ \(own\.beside\)$/),
        logOdds: 2,
      });
    }
    // Two of its classes are asked for, one stands there.
    expect(
      recogniseTable([email2, phone2], setting, [...weak, combination('email', spec(['phone', 'iban'], 2))]),
    ).toEqual(alone);
  });

  it('claims a column by its name only where they stand beside it', () => {
    const crew = text(
      'crew_no',
      many((index) => `T${1000 + index * 7}`),
    );
    const detectors = [...DETECTORS, combination('own-crew', spec(['email', 'phone'], 2, '^crew_no$'))];
    expect(of(recogniseTable([crew, email, phone], setting, detectors), 0, 'own-crew')).toMatchObject({
      label: 'Crew number',
      state: 'certain',
      level: 3,
    });
    expect(of(recogniseTable([crew, email, price], setting, detectors), 0, 'own-crew')).toBeUndefined();
    expect(
      of(recogniseTable([{ ...crew, name: 'c9' }, email, phone], setting, detectors), 0, 'own-crew'),
    ).toBeUndefined();
    expect(recogniseTable([route, email, phone], setting, detectors)).toEqual(
      recogniseTable([route, email, phone], setting),
    );
    // By itself a column has nothing beside it.
    expect(recognise(crew, setting, detectors).map((finding) => finding.classKey)).not.toContain('own-crew');
  });
});

describe('a column called long', () => {
  const long = text(
    'long',
    many((index) => String(90 + index)),
    'integer',
  );
  const lat = text(
    'lat',
    many((index) => (40 + index / 7).toFixed(3)),
    'decimal',
  );

  it('holds longitudes beside latitudes, and lengths where none stand', () => {
    expect(recogniseTable([lat, long], setting)[1]?.[0]).toMatchObject({ classKey: 'coordinates', state: 'certain' });
    const [, alone] = recogniseTable([price, long], setting);
    expect(alone?.filter((finding) => finding.state === 'certain')).toEqual([]);
    expect(alone?.[0]?.terms.at(-1)?.reason).toBe('no latitude stands beside it: it may say how long something is');
  });

  it('is a latitude by no letters that happen to stand in its name', () => {
    expect(recogniseTable([{ ...lat, name: 'la.T1' }], setting)[0]).toEqual([]);
    expect(recogniseTable([{ ...lat, name: 'LAT_1' }], setting)[0]?.[0]).toMatchObject({ classKey: 'coordinates' });
  });
});
