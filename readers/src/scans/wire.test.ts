import { ASKED_HOW, FLOW_ORIGINS } from '@idrel/core/lineage';
import { guardProfile, profileOf } from '@idrel/core/scanning';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { RunReading } from './readSource.ts';
import { fromLines, toLines, WireProblem } from './wire.ts';

const name = fc.string({ minLength: 1, maxLength: 30, unit: 'grapheme' });
const keyed = <T>(value: fc.Arbitrary<T>) =>
  fc.array(fc.tuple(name, value), { maxLength: 4 }).map((entries) => new Map(entries));
const figures = fc.array(fc.option(fc.double({ noNaN: true, min: -1e300, max: 1e300 }).map(String), { nil: null }), {
  maxLength: 12,
});
const profile = fc.oneof(
  figures.map((values) => profileOf(values, 'number', true)),
  fc.array(fc.option(name, { nil: null }), { maxLength: 12 }).map((values) => profileOf(values, 'text', false)),
  figures.map((values) => guardProfile(profileOf(values, 'number', false))),
);
const asset = fc.record({
  key: name,
  parentKey: fc.option(name, { nil: null }),
  kind: fc.constantFrom('table', 'column', 'file set'),
  name: fc.string(),
  depth: fc.nat(20),
  position: fc.nat(2000),
  comment: fc.option(fc.string(), { nil: null }),
  native: fc.dictionary(fc.constantFrom('type', 'owner', 'definition'), fc.string()),
  stats: fc.dictionary(fc.constantFrom('rows', 'bytes'), fc.nat()),
});
const flow = fc.record({
  key: name,
  kind: fc.constant('query of a view'),
  origin: fc.constantFrom(...FLOW_ORIGINS),
  statement: fc.string(),
  problems: fc.array(
    fc.record({
      reason: fc.string(),
      line: fc.option(fc.nat(), { nil: null }),
      statement: fc.option(fc.string(), { nil: null }),
      lost: fc.boolean(),
    }),
    { maxLength: 2 },
  ),
  statements: fc.nat(),
  edges: fc.array(
    fc.record(
      { from: name, to: name, kind: fc.constant('copied'), line: fc.nat(), expression: fc.string({ maxLength: 40 }) },
      { requiredKeys: ['from', 'to', 'kind'] },
    ),
    { maxLength: 3 },
  ),
  influences: fc.array(fc.record({ from: name, kind: fc.constant('filter'), to: name }), { maxLength: 3 }),
});
const reading: fc.Arbitrary<RunReading> = fc.record({
  structure: fc.record({ assets: fc.array(asset, { maxLength: 5 }), sampleable: fc.constant([]) }),
  findings: keyed(fc.constant([])),
  sampled: keyed(fc.string()),
  profiles: keyed(profile),
  flows: fc.array(flow, { maxLength: 3 }),
  queries: fc.array(
    fc.record({
      print: fc.string(),
      text: fc.string(),
      calls: fc.array(fc.tuple(fc.string(), fc.nat()), { maxLength: 3 }),
      reads: fc.array(fc.tuple(name, fc.subarray([...ASKED_HOW])), { maxLength: 3 }),
      gives: fc.array(fc.string(), { maxLength: 3 }),
      whole: fc.boolean(),
    }),
    { maxLength: 3 },
  ),
  rights: fc.option(
    fc.record({
      roles: fc.array(
        fc.record({
          name,
          login: fc.boolean(),
          superuser: fc.boolean(),
          bypassesRows: fc.boolean(),
          scans: fc.boolean(),
          memberOf: fc.array(name, { maxLength: 2 }),
        }),
        { maxLength: 3 },
      ),
      grants: fc.array(
        fc.record({
          holder: fc.oneof(fc.constant(''), name),
          how: fc.constantFrom('grant' as const, 'owner' as const),
          passesOn: fc.boolean(),
          by: fc.oneof(fc.constant(''), name),
          keys: fc.array(name, { minLength: 1, maxLength: 4 }),
        }),
        { maxLength: 3 },
      ),
      later: fc.array(fc.record({ maker: name, key: fc.option(name, { nil: null }), holder: name }), { maxLength: 2 }),
      ownRows: fc.array(fc.record({ key: name, forced: fc.boolean() }), { maxLength: 2 }),
    }),
    { nil: null },
  ),
  notCovered: fc.option(fc.record({ count: fc.nat(), paths: fc.array(fc.string(), { maxLength: 3 }) }), { nil: null }),
  details: fc.record({
    slowest: fc.array(fc.record({ path: fc.string(), seconds: fc.nat(), rows: fc.nat() }), { maxLength: 3 }),
    problems: fc.array(fc.record({ path: fc.string(), what: fc.string() }), { maxLength: 3 }),
  }),
});

/** As JSON has it: minus zero is zero, what is undefined is not there. */
const plain = (value: RunReading) =>
  JSON.parse(
    JSON.stringify({
      ...value,
      findings: [...value.findings],
      sampled: [...value.sampled],
      profiles: [...value.profiles],
    }),
  );

describe('what was read, as lines', () => {
  it('comes back as it went, in whatever pieces it was sent', () => {
    fc.assert(
      fc.property(reading, (sent) => {
        const text = [...toLines(sent)].join('');
        expect(text === '' || text.endsWith('\n')).toBe(true);
        expect(plain(fromLines(text.split('\n')))).toEqual(plain(sent));
      }),
    );
  });

  it.each([
    ['not json', 'Line 1 is not JSON.'],
    ['{}', 'Line 1 is none that a run is made of.'],
    ['{"asset":{},"flow":{}}', 'Line 1 is none that a run is made of.'],
    [
      '{"grant":{"holder":"r","how":"grant","passesOn":false,"by":"o","keys":["k"]}}',
      'Line 1 (grant): it comes before the roles.',
    ],
    ['{"roles":[{"name":"r"}]}', 'Line 1 (roles): '],
    ['{"secret":"x"}', 'Line 1 is none that a run is made of.'],
    ['\n{"unchanged":""}', 'Line 2 (unchanged): '],
    ['{"query":{"print":"p","text":"t","calls":[["r",-1]],"reads":[],"gives":[],"whole":true}}', 'Line 1 (query): '],
    [
      '{"query":{"print":"p","text":"t","calls":[],"reads":[["k",["stolen"]]],"gives":[],"whole":true}}',
      'Line 1 (query): ',
    ],
    ['{"profile":["k",{"measure":"number"}]}', 'Line 1 (profile): '],
    ['{"sampled":["k"]}', 'Line 1 (sampled): '],
    [
      '{"asset":{"key":"k","parentKey":null,"kind":"table","name":"k","depth":0,"position":0,"comment":null,"native":{},"stats":{},"level":4}}',
      'Line 1 (asset): ',
    ],
  ])('is refused when it is %s', (text, told) => {
    expect(() => fromLines(text.split('\n'))).toThrow(WireProblem);
    expect(() => fromLines(text.split('\n'))).toThrow(told);
  });

  it('keeps a profile from holding more than profiles hold', () => {
    const long = {
      ...profileOf(['a', 'a'], 'text', true),
      frequent: Array.from({ length: 11 }, (_, index) => [`v${index}`, 2]),
    };
    expect(() => fromLines([JSON.stringify({ profile: ['k', long] })])).toThrow('Line 1 (profile)');
    const steps = { ...profileOf(['1', '2'], 'number', true), histogram: [1, 2, 3] };
    expect(() => fromLines([JSON.stringify({ profile: ['k', steps] })])).toThrow('Line 1 (profile)');
  });
});
