import fc from 'fast-check';
import { beforeEach, describe, expect, it } from 'vitest';
import { policyOf, readerOf, tableOf } from '../testing/policies.ts';
import {
  asShown,
  type ColumnDecision,
  checkPolicies,
  decideTable,
  Engine,
  heldByDatabase,
  type Person,
  type Policy,
  passableOf,
  type RowLimit,
  reachOf,
  toldAccess,
} from './index.ts';

const FARES = tableOf('fares', { price: 'numeric', rebate: 'numeric', contact: 'text' });
const [anna, bert, cleo] = ['anna', 'bert', 'cleo'].map((id) => readerOf({ id })) as [Person, Person, Person];
const rows = (column: string, ...values: string[]): RowLimit => ({ column, values, attribute: null, through: null });

let number = 0;
beforeEach(() => {
  number = 0;
});
const on = (more: Partial<Policy>): Policy => {
  number += 1;
  return policyOf({ id: `p${number}`, name: `P ${number}`, everyone: false, assets: ['fares'], ...more });
};
const own = (who: Person, more: Partial<Policy> = {}) => on({ people: [who.id], passesOn: true, ...more });
const gift = (giver: Person, to: Person, more: Partial<Policy> = {}) => on({ giver, people: [to.id], ...more });
const masked = (who: Person, more: Partial<Policy> = {}) =>
  on({ effect: 'protect', people: [who.id], mask: { kind: 'blank' }, ...more });
/** How each column is read, in a letter: r as it is, m masked, p previewed, - not. */
const read = (policies: readonly Policy[], who: Person, table = FARES): string =>
  decideTable(policies, who, table)
    .columns.map((column) => ({ plain: 'r', masked: 'm', preview: 'p', refused: '-' })[toldAccess(column)])
    .join('');

describe('a preview', () => {
  it('opens to be shown a few rows, and no statement', () => {
    const policies = [on({ people: ['anna'], opens: 'preview' })];
    expect(read(policies, anna)).toBe('---');
    expect(read(policies, asShown(anna))).toBe('ppp');
    expect(decideTable(policies, asShown(anna), FARES).access).toBe('partly');
  });

  it('takes nothing from what may be read', () => {
    const policies = [on({ people: ['anna'], opens: 'preview' }), on({ people: ['anna'], columns: ['price'] })];
    expect(read(policies, anna)).toBe('r--');
    expect(read(policies, asShown(anna))).toBe('rpp');
  });

  it('shows nothing of what is guarded or sealed, and masks what policies mask', () => {
    const table = {
      ...FARES,
      columns: FARES.columns.map((column) => ({ ...column, level: column.name === 'contact' ? 3 : 2 })),
    };
    const policies = [
      on({ people: ['anna'], opens: 'preview' }),
      on({ effect: 'protect', people: ['anna'], columns: ['price'], mask: { kind: 'fixed', text: 'x' } }),
    ];
    const [price, rebate, contact] = decideTable(policies, asShown(anna), table).columns;
    expect(price).toMatchObject({ preview: true, mask: { kind: 'fixed' }, instead: null });
    expect(rebate).toMatchObject({ preview: true, access: 'plain', mask: null });
    expect(contact).toMatchObject({ preview: true, access: 'masked', mask: { kind: 'blank' } });
    expect(contact?.instead).toMatch(/nothing guarded/);
    // Who may read it is shown it as they read it.
    expect(read([...policies, on({ people: ['anna'] })], asShown(anna), table)).toBe('mrr');
  });

  it('is denied with all else', () => {
    const policies = [
      on({ people: ['anna'], opens: 'preview' }),
      on({ effect: 'deny', people: ['anna'], columns: ['price'] }),
    ];
    expect(read(policies, asShown(anna))).toBe('-pp');
  });

  it('is nothing that a database can hold', () => {
    expect(heldByDatabase([on({ people: ['anna'], opens: 'preview' }), on({ people: ['anna'] })])).toHaveLength(1);
  });

  it('is told of where it is said who would gain and lose', () => {
    const [shown, opened] = [on({ people: ['anna'], opens: 'preview', columns: ['price'] }), on({ people: ['anna'] })];
    expect(reachOf([], [shown], [anna, bert], [FARES])).toMatchObject([
      { personId: 'anna', column: 'price', before: 'refused', after: 'preview' },
    ]);
    expect(reachOf([shown], [shown, opened], [anna], [FARES]).map(({ before, after }) => `${before} ${after}`)).toEqual(
      ['preview plain', 'refused plain', 'refused plain'],
    );
  });
});

describe('what is given on', () => {
  it('opens what its giver may pass on, and no more', () => {
    expect(read([own(anna, { columns: ['price'] }), gift(anna, bert)], bert)).toBe('r--');
    expect(read([own(anna, { passesOn: false }), gift(anna, bert)], bert)).toBe('---');
    expect(read([own(anna), gift(anna, bert, { columns: ['rebate'] })], bert)).toBe('-r-');
    expect(read([gift(anna, bert)], bert)).toBe('---');
  });

  it('goes when the right of its giver goes, and when it is denied to them', () => {
    const given = gift(anna, bert);
    expect(read([own(anna), given], bert)).toBe('rrr');
    expect(read([given], bert)).toBe('---');
    expect(read([own(anna), given, on({ effect: 'deny', people: ['anna'], columns: ['contact'] })], bert)).toBe('rr-');
  });

  it('is masked as its giver reads it, and as the reader would', () => {
    const policies = [
      own(anna),
      gift(anna, bert),
      masked(anna, { columns: ['contact'] }),
      masked(bert, { columns: ['price'] }),
    ];
    expect(read(policies, bert)).toBe('mrm');
    expect(read(policies, anna)).toBe('rrm');
    // Who may read it by themselves is not masked by what they are given besides.
    expect(read([...policies, on({ people: ['bert'], columns: ['contact'] })], bert)).toBe('mrr');
  });

  it('tells the rows that its giver is told', () => {
    const policies = [
      own(anna),
      gift(anna, bert),
      on({ effect: 'protect', people: ['anna'], rows: rows('price', '1') }),
    ];
    expect(decideTable(policies, bert, FARES)).toMatchObject({
      access: 'partly',
      rowLimits: [{ column: 'price', values: ['1'] }],
    });
  });

  it('takes no row from what somebody reads by themselves, nor widens it', () => {
    const limit = on({ effect: 'protect', people: ['anna'], rows: rows('price', '1') });
    const mine = on({ people: ['bert'], columns: ['price'] });
    const found = decideTable([own(anna), gift(anna, bert), limit, mine], bert, FARES);
    expect(found.rowLimits).toEqual([]);
    // By what the giver is limited is not told to others.
    expect(found.columns[1]?.reasons.map(({ policyId }) => policyId)).toEqual(['p4']);
    expect(found.columns.map(({ access }) => access)).toEqual(['plain', 'refused', 'refused']);
    // Under the same limit there is nothing to widen.
    const same = { ...limit, people: ['anna', 'bert'] };
    expect(read([own(anna), gift(anna, bert), same, mine], bert)).toBe('rrr');
  });

  it('limits rows by what its giver is, not by what the reader is', () => {
    const byPort = on({
      effect: 'protect',
      everyone: true,
      rows: { column: 'contact', values: [], attribute: 'port', through: null },
    });
    const at = (id: string, port: string) => readerOf({ id, attributes: { port: [port] } });
    const policies = [own(anna), gift(at('anna', 'Ulvey'), bert), byPort];
    const { rowLimits } = decideTable(policies, at('bert', 'Aldermouth'), FARES);
    expect(rowLimits.map(({ values }) => values)).toEqual([['Aldermouth'], ['Ulvey']]);
  });

  it('goes through hands that may give it on, each with its masks', () => {
    const policies = [
      own(anna),
      gift(anna, bert, { passesOn: true }),
      gift(bert, cleo),
      masked(anna, { columns: ['price'] }),
      masked(bert, { columns: ['rebate'] }),
    ];
    expect(read(policies, cleo)).toBe('mmr');
    expect(read([own(anna), gift(anna, bert), gift(bert, cleo)], cleo)).toBe('---');
  });

  it('holds nobody up who hold each other up', () => {
    const round = [
      gift(anna, bert, { passesOn: true }),
      gift(bert, cleo, { passesOn: true }),
      gift(cleo, anna, { passesOn: true }),
    ];
    for (const one of [anna, bert, cleo]) expect(read(round, one)).toBe('---');
    for (const one of [anna, bert, cleo]) expect(read([own(cleo, { columns: ['price'] }), ...round], one)).toBe('r--');
  });

  it('is decided soon, however many give it to each other', () => {
    const people = Array.from({ length: 30 }, (_, at) => readerOf({ id: `person ${at}` }));
    const all = people.flatMap((giver) => people.map((to) => gift(giver, to, { passesOn: true })));
    const [first, last] = [people[0] as Person, people[29] as Person];
    expect(read(all, last)).toBe('---');
    expect(read([own(first), ...all], last)).toBe('rrr');
  });

  it('is a preview where no more may be passed on', () => {
    const seen = own(anna, { opens: 'preview' });
    expect(read([seen, gift(anna, bert)], asShown(bert))).toBe('---');
    expect(read([seen, gift(anna, bert, { opens: 'preview' })], asShown(bert))).toBe('ppp');
    expect(read([own(anna), gift(anna, bert, { opens: 'preview' })], bert)).toBe('---');
    expect(read([own(anna), gift(anna, bert, { opens: 'preview' })], asShown(bert))).toBe('ppp');
  });

  it('asks for the purpose that its giver has to state', () => {
    const policies = [own(anna, { purposes: ['audit'] }), gift(anna, bert)];
    expect(read(policies, bert)).toBe('---');
    expect(read(policies, { ...bert, purpose: 'audit' })).toBe('rrr');
    expect(new Engine(policies).for(bert).key).not.toBe(new Engine(policies).for({ ...bert, purpose: 'audit' }).key);
  });

  it('is told of as doing nothing when its giver may not give it any more', () => {
    const given = gift(anna, bert);
    expect(checkPolicies([given], [anna, bert], [FARES]).idle.get(given.id)).toEqual({ because: 'not theirs' });
    expect(checkPolicies([own(anna), given], [anna, bert], [FARES]).idle.has(given.id)).toBe(false);
    const shown = on({ people: ['anna'], opens: 'preview' });
    expect(checkPolicies([shown], [anna], [FARES]).idle.has(shown.id)).toBe(false);
  });

  it('can be passed on as far as it is told', () => {
    const policies = [own(anna, { columns: ['price'] }), own(anna, { opens: 'preview', columns: ['rebate'] })];
    const open = (opens: 'read' | 'preview') =>
      passableOf(policies, anna, FARES, opens)
        .columns.filter(({ access }) => access !== 'refused')
        .map(({ name }) => name);
    expect(open('read')).toEqual(['price']);
    expect(open('preview')).toEqual(['price', 'rebate']);
  });
});

/** How much is told of a column by some policies: nothing, masked, or as it is. Its own idea of what giving on is: tried by hand, one chain after the other. */
function most(
  policies: readonly Policy[],
  who: string,
  column: string,
  hands = 5,
  seen: readonly string[] = [],
): number {
  const mean = (policy: Policy) =>
    policy.people.includes(who) && (policy.columns === null || policy.columns.includes(column));
  if (policies.some((policy) => policy.effect === 'deny' && mean(policy))) return 0;
  const mask = policies.some((policy) => policy.effect === 'protect' && mean(policy)) ? 1 : 2;
  const chains = policies.flatMap((policy): number[] => {
    if (policy.effect !== 'allow' || !mean(policy)) return [];
    if (policy.giver === null) return [2];
    if (hands === 0 || seen.includes(policy.id)) return [];
    const passing = policies.filter((one) => one.effect !== 'allow' || one.passesOn);
    return [most(passing, policy.giver.id, column, hands - 1, [...seen, policy.id])];
  });
  return Math.min(mask, Math.max(0, ...chains));
}

describe('whatever is given to whom', () => {
  it('nobody reads more than a chain of rights brings them, and what stands on its own is not taken', () => {
    const people = ['anna', 'bert', 'cleo', 'dora'].map((id) => readerOf({ id }));
    const who = fc.nat(3).map((at) => people[at] as Person);
    const columns = fc.option(fc.constantFrom(['price'], ['price', 'rebate']), { nil: null });
    const policy = fc.oneof(
      fc.record({ people: who, columns, passesOn: fc.boolean() }).map((one) => ({ ...one, people: [one.people.id] })),
      fc
        .record({ giver: who, people: who, columns, passesOn: fc.boolean() })
        .map((one) => ({ ...one, people: [one.people.id] })),
      fc.record({ people: who, columns }).map((one) => ({
        ...one,
        people: [one.people.id],
        effect: 'protect' as const,
        mask: { kind: 'blank' } as const,
      })),
      fc.record({ people: who, columns: fc.constant(['rebate']) }).map((one) => ({
        ...one,
        people: [one.people.id],
        effect: 'deny' as const,
      })),
    );
    let given = 0;
    fc.assert(
      fc.property(fc.array(policy, { maxLength: 12 }), (list) => {
        const policies = list.map((more, at) =>
          policyOf({ everyone: false, assets: ['fares'], ...more, id: `p${at}`, name: `P ${at}` }),
        );
        for (const person of people) {
          const decision = decideTable(policies, person, FARES);
          expect(new Engine(policies).for(person).decide(FARES)).toEqual(decision);
          for (const column of decision.columns) {
            const told = { refused: 0, masked: 1, plain: 2 }[column.access];
            const meant = most(policies, person.id, column.name);
            if (column.given) given += 1;
            expect({ person: person.id, column: column.name, told }).toEqual({
              person: person.id,
              column: column.name,
              told: meant,
            });
          }
        }
      }),
      { numRuns: 3000 },
    );
    expect(given).toBeGreaterThan(300);
  });

  it('tells by which gift alone something is open', () => {
    const policies = [own(anna), gift(anna, bert)];
    const [column] = decideTable(policies, bert, FARES).columns as [ColumnDecision];
    expect(column).toMatchObject({ given: 'p2', reasons: [{ policyId: 'p2' }] });
    expect(decideTable([...policies, on({ people: ['bert'] })], bert, FARES).columns[0]).not.toHaveProperty('given');
  });
});
