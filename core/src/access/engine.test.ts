import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { policyOf, readerOf } from '../testing/policies.ts';
import { holdsFor } from './decide.ts';
import { decideTable, Engine, type Person, type Policy, type ReadableTable } from './index.ts';

const ids = (begins: string, most: number) => fc.nat(most).map((n) => `${begins}${n}`);
const few = (one: fc.Arbitrary<string>, maxLength = 2) => fc.uniqueArray(one, { maxLength });
const asset = fc.oneof(ids('source', 1), ids('schema', 2), ids('table', 4), ids('column', 8));
const mask = fc.constantFrom(
  { kind: 'blank' } as const,
  { kind: 'partial', first: 1, last: 0 } as const,
  { kind: 'digest', keyed: 'installation' } as const,
);
/** Those who give on what they have: policies are for them as well. */
const GIVERS = [
  readerOf({ id: 'person0', groups: ['group0'], attributes: { port: ['Aldermouth'] } }),
  readerOf({ id: 'person1', groups: ['group1', 'group2'] }),
  readerOf({ id: 'person2' }),
];
const policy: fc.Arbitrary<Omit<Policy, 'id' | 'name'>> = fc
  .record({
    effect: fc.constantFrom(...(['allow', 'allow', 'allow', 'protect', 'deny'] as const)),
    everyone: fc.boolean(),
    groups: few(ids('group', 2)),
    people: few(ids('person', 2)),
    exceptGroups: few(ids('group', 2), 1),
    assets: few(asset),
    classes: few(ids('class', 2), 1),
    matched: fc.option(
      few(asset).map((found) => new Set(found)),
      { nil: null },
    ),
    carried: fc.boolean(),
    columns: fc.option(few(fc.constantFrom('a', 'b', 'c')), { nil: null, freq: 3 }),
    columnsBut: fc.boolean(),
    mask: fc.option(mask, { nil: null }),
    rows: fc.option(
      fc.record({
        column: fc.constantFrom('a', 'b'),
        values: fc.constant(['1']),
        attribute: fc.option(fc.constant('port'), { nil: null }),
        through: fc.constant(null),
        least: fc.option(fc.constant(5), { nil: undefined, freq: 1 }),
      }),
      { nil: null },
    ),
    until: fc.constant(null),
    hours: fc.constant(null),
    purposes: few(fc.constantFrom('audit', 'complaint'), 1),
    share: fc.constantFrom(null, null, null, null, 'one share'),
    opens: fc.constantFrom('read' as const, 'read' as const, 'read' as const, 'preview' as const),
    passesOn: fc.boolean(),
    giver: fc.constantFrom(null, null, null, ...GIVERS),
  })
  .map((one) => (one.effect === 'allow' ? one : { ...one, purposes: [], opens: 'read', passesOn: false, giver: null }));
const person: fc.Arbitrary<Person> = fc.record({
  id: ids('person', 3),
  groups: few(ids('group', 3)),
  email: fc.constant('x@example.org'),
  attributes: fc.constantFrom<Person['attributes'][]>({}, { port: ['Ulvey'] }),
  purpose: fc.constantFrom(null, 'audit', 'other'),
  outside: fc.constantFrom(false, false, false, true),
  share: fc.constantFrom(null, 'one share', 'another'),
  preview: fc.boolean(),
});
const table: fc.Arbitrary<ReadableTable> = fc
  .record({
    id: ids('table', 4),
    schema: ids('schema', 2),
    sourceId: ids('source', 1),
    columns: fc.uniqueArray(
      fc.record({
        id: ids('column', 8),
        name: fc.constantFrom('a', 'b', 'c', 'd'),
        type: fc.constant('text'),
        classes: few(ids('class', 2)),
        held: few(ids('class', 2), 1),
        fewValues: fc.boolean(),
        level: fc.constantFrom(null, 1, 3),
        origins: fc.array(
          fc.record({
            id: ids('column', 8),
            name: fc.constantFrom('a', 'b'),
            ancestors: few(asset),
            classes: few(ids('class', 2), 1),
          }),
          { maxLength: 2 },
        ),
      }),
      { selector: ({ name }) => name, maxLength: 4 },
    ),
  })
  .map((one) => ({
    ...one,
    columns: one.columns.filter(({ id }, at) => one.columns.findIndex((other) => other.id === id) === at),
    name: one.id,
    ancestors: [one.id, one.schema, one.sourceId],
  }));

describe('the engine', () => {
  it('decides as the definition says, for whole tables and for single columns', () => {
    let read = 0;
    fc.assert(
      fc.property(
        fc.array(policy, { maxLength: 12 }),
        fc.array(person, { minLength: 1, maxLength: 4 }),
        fc.array(table, { minLength: 1, maxLength: 4 }),
        (list, people, tables) => {
          const policies = list.map((one, at): Policy => ({ ...one, id: `p${at}`, name: `P ${at}` }));
          const engine = new Engine(policies);
          for (const at of tables)
            expect(policies.filter((one) => at.columns.some((column) => holdsFor(one, at, column)))).toEqual(
              engine.meaning(at).filter((one) => at.columns.some((column) => holdsFor(one, at, column))),
            );
          for (const one of people) {
            const reader = engine.for(one);
            for (const at of tables) {
              const meant = decideTable(policies, one, at);
              expect(reader.decide(at)).toEqual(meant);
              expect(at.columns.map((column) => reader.column(at, column))).toEqual(meant.columns);
              if (meant.access !== 'no') read += 1;
            }
          }
        },
      ),
      { numRuns: 2000 },
    );
    // What nobody reads would prove little.
    expect(read).toBeGreaterThan(250);
  });

  it('has one key for people for whom the same policies are', () => {
    const engine = new Engine([policyOf({ everyone: false, groups: ['g'], people: ['a'], assets: ['table0'] })]);
    const one = (id: string, ...groups: string[]): Person => readerOf({ id, groups });
    expect(engine.for(one('a')).key).toBe(engine.for(one('b', 'g')).key);
    expect(engine.for(one('a')).key).not.toBe(engine.for(one('c')).key);
  });
});
