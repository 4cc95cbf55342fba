import { describe, expect, it } from 'vitest';
import { policyOf } from '../testing/policies.ts';
import { decideTable } from './decide.ts';
import { foundLater, MADE_UP, type MadeUpTable, meaningLater, readableOf } from './later.ts';
import { asShown, type Person, type Policy } from './types.ts';

const NOW = Date.parse('2026-11-29T12:00:00Z');
const table: MadeUpTable = {
  name: 'pax_new',
  source: 'Booking system',
  sourceId: 's',
  schema: 'booking',
  domains: ['Bookings', 'Travel'],
  above: [{ name: 'booking', path: 'booking' }],
  ancestors: ['schema', 'database'],
  tags: ['personal', 'retention', 'retention/5 years'],
  columns: [
    { name: 'id', classes: [], level: null },
    { name: 'email', classes: ['email'], level: 3 },
  ],
};
const policy = (more: Partial<Policy>): Policy => policyOf({ ...more });
const maud: Person = {
  id: 'maud',
  groups: [],
  email: 'maud@example.org',
  attributes: {},
  purpose: null,
  outside: false,
  share: null,
};
const reads = (...policies: [Policy, string | null][]) =>
  decideTable(
    policies.map(([one, filter]) =>
      meaningLater({ ...one, matched: filter === null ? null : new Set() }, filter, table, NOW),
    ),
    maud,
    readableOf(table),
  ).columns.map(({ access }) => access);

describe('a table that is made up', () => {
  it.each([
    ['tag:personal', [MADE_UP]],
    ['tag:"retention/5 years"', [MADE_UP]],
    ['tag:other', []],
    ['domain:Travel kind:table', [MADE_UP]],
    ['domain:Travel', [MADE_UP, `${MADE_UP} id`, `${MADE_UP} email`]],
    ['under:booking kind:column', [`${MADE_UP} id`, `${MADE_UP} email`]],
    ['name:pax_*', [MADE_UP]],
    ['path:booking.pax_new', [MADE_UP]],
    // By classes and levels a filter means columns.
    ['class:email', [`${MADE_UP} email`]],
    ['level>=guarded', [`${MADE_UP} email`]],
    ['kind:table class:email', [MADE_UP]],
    ['owner:none kind:table', [MADE_UP]],
    ['standing:trusted', []],
    ['created>=2026-11-29 kind:table', [MADE_UP]],
    ['tag:personal not class:email', []],
  ])('is found by %s as it says', (filter, expected) => {
    expect([...foundLater(filter, table, NOW)].sort()).toEqual([...expected].sort());
  });

  it('is read by what a filter finds, by what it lies in, and as classes of its columns are protected', () => {
    expect(reads()).toEqual(['refused', 'refused']);
    expect(reads([policy({}), 'tag:personal'])).toEqual(['plain', 'plain']);
    expect(reads([policy({ assets: ['schema'] }), null])).toEqual(['plain', 'plain']);
    const masked = policy({ id: 'm', effect: 'protect', classes: ['email'], mask: { kind: 'blank' } });
    expect(reads([policy({}), 'tag:personal'], [masked, null])).toEqual(['plain', 'masked']);
    const denied = policy({ id: 'd', effect: 'deny' });
    expect(reads([policy({ assets: ['database'] }), null], [denied, 'level>=guarded'])).toEqual(['plain', 'refused']);
    // Said together they narrow each other: only what is tagged in the schema.
    expect(reads([policy({ assets: ['schema'] }), 'tag:other'])).toEqual(['refused', 'refused']);
    expect(reads([policy({ columns: ['id'] }), 'tag:personal'])).toEqual(['plain', 'refused']);
  });
});

it('what is guarded of a made-up table is blank in a preview, as it will be', () => {
  const shown = policy({ assets: ['schema'], opens: 'preview' });
  expect(decideTable([shown], asShown(maud), readableOf(table)).columns).toMatchObject([
    { access: 'plain', preview: true, mask: null },
    { access: 'masked', preview: true, mask: { kind: 'blank' } },
  ]);
});
