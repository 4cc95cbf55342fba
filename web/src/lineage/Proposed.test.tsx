// @vitest-environment jsdom
import type { ProposedImpact, ProposedRow } from '@idrel/contract/lineage';
import { screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { pretended, refusal } from '../testing/view.tsx';
import { Component as Proposed } from './Proposed.tsx';

const { served, show, changes, asked } = pretended();
const row = (path: string, consequence: ProposedRow['consequence'], more: Partial<ProposedRow> = {}): ProposedRow => ({
  id: path,
  kind: 'table',
  name: path,
  path,
  source: 'Warehouse',
  domain: 'Reporting',
  within: null,
  consequence,
  why: `why of ${path}`,
  distance: 1,
  way: ['booking.payment.amount', path],
  standing: 'unreviewed',
  level: null,
  owners: ['Bettina Sark'],
  asked: 0,
  ...more,
});
const ANSWER: ProposedImpact = {
  asset: { id: 'c', kind: 'column', path: 'booking.payment.amount', source: 'Booking system', type: 'numeric(9,2)' },
  facts: ['It is part of the primary key.'],
  rows: [
    row('mart.sales', 'refused'),
    row('mart.sums', 'fails', {
      distance: 2,
      way: ['booking.payment.amount', 'mart.sales', 'mart.sums'],
      asked: 30,
      owners: [],
    }),
    row('mart.copy', 'differs'),
  ],
  flows: [
    {
      id: 'f',
      path: 'night/load',
      source: 'Night crew',
      consequence: 'fails',
      why: 'It names amount.',
      owners: ['Hedda Brandt'],
    },
  ],
  people: [
    {
      id: '01a222f1-74c4-7000-8000-b2e4a315aa42',
      name: 'Bettina Sark',
      group: false,
      roles: ['owner'],
      assets: 2,
      asked: 0,
    },
    {
      id: '01a222f1-74c4-7000-8000-b2e4a315aa43',
      name: 'Rune Dale',
      group: false,
      roles: ['asks'],
      assets: 0,
      asked: 30,
    },
  ],
  policies: [],
  checks: [],
  hidden: 2,
  more: 0,
};
const ASSET = { id: 'c', kind: 'column', path: 'booking.payment.amount', name: 'amount' };
const ME = { person: { id: 'me', name: 'Sunniva Dahlmark', job: '', grants: [] }, csrf: 'x', demoPeople: [] };
const serve = (more: Record<string, unknown> = {}) =>
  Object.assign(served, { 'GET /session': ME, 'GET /assets/c': ASSET, 'GET /lineage/proposed': ANSWER, ...more });
const listed = async () => {
  const table = await screen.findByRole('table', { name: 'What would become of what is made of it' });
  return within(table)
    .getAllByRole('link')
    .map((link) => link.textContent);
};

describe('a change that is planned', () => {
  it('is told with what it would do, each with the reason and the way, and what may not be seen', async () => {
    serve();
    const user = show(<Proposed />, '/lineage/change?asset=c');
    expect(await listed()).toEqual(['mart.sales', 'mart.sums', 'mart.copy']);
    expect(screen.getByText('why of mart.sums')).toBeTruthy();
    expect(screen.getByText(/by way of mart.sales/)).toBeTruthy();
    expect(screen.getByText('It is part of the primary key.')).toBeTruthy();
    expect(screen.getByText(/2 assets more would be concerned that you may not see/)).toBeTruthy();
    expect(screen.getByText('asked 30 times')).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'differs 1' }));
    expect(await listed()).toEqual(['mart.copy']);
    await user.click(screen.getByRole('button', { name: 'differs 1' }));
    await user.click(screen.getByRole('button', { name: 'nobody 1' }));
    expect(await listed()).toEqual(['mart.sums']);
  });

  it('asks for a type before it tells anything of another one', async () => {
    serve();
    const user = show(<Proposed />, '/lineage/change?asset=c&what=retype');
    expect(await screen.findByText(/Write the type that the column is to have/)).toBeTruthy();
    expect(asked.some(({ path }) => path === '/lineage/proposed')).toBe(false);
    await user.type(screen.getByLabelText('New type'), 'varchar(40)');
    await listed();
    expect(asked.filter(({ path }) => path === '/lineage/proposed').map(({ query }) => query)).toEqual([
      { asset: 'c', what: 'retype', to: 'varchar(40)' },
    ]);
  });

  it('attaches notices to what was chosen, or to all that is listed', async () => {
    serve({ 'POST /bulk-edits': refusal(403, 'forbidden', 'It takes the role editor.') });
    const user = show(<Proposed />, '/lineage/change?asset=c');
    await listed();
    expect(screen.getByRole('button', { name: 'Attach a notice to all 3' })).toBeTruthy();
    await user.click(screen.getByLabelText('Choose mart.copy'));
    await user.click(screen.getByRole('button', { name: 'Attach a notice to the chosen 1' }));
    await waitFor(() => expect(changes()).toHaveLength(1));
    expect(changes()[0]?.body).toEqual({
      choice: { ids: ['mart.copy'] },
      action: {
        kind: 'notice',
        notice: 'caution',
        text: 'booking.payment.amount in Booking system is to be dropped; this is made of it.',
      },
    });
  });

  it('leaves out whom somebody takes from the list of those to tell', async () => {
    serve();
    const user = show(<Proposed />, '/lineage/change?asset=c');
    await user.click(await screen.findByLabelText(/Rune Dale/));
    expect(screen.getByRole('button', { name: 'Write to 1 person' })).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Choose all' }));
    expect(screen.getByRole('button', { name: 'Write to 2 people' })).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Choose none' }));
    expect((screen.getByRole('button', { name: 'Write to 0 people' }) as HTMLButtonElement).disabled).toBe(true);
  });

  it('says so where nothing is made of it, where it fails, and where no asset is named', async () => {
    serve({ 'GET /lineage/proposed': { ...ANSWER, rows: [], flows: [], people: [], hidden: 0, facts: [] } });
    show(<Proposed />, '/lineage/change?asset=c');
    expect(await screen.findByText('Nothing is known to be made of it')).toBeTruthy();
    expect(screen.getByText(/Nobody answers for what is concerned/)).toBeTruthy();
    serve({ 'GET /lineage/proposed': refusal(500, 'internal', 'Something went wrong in Idrel itself.') });
    show(<Proposed />, '/lineage/change?asset=c&what=mask');
    expect(await screen.findByText('It cannot be told what this would do')).toBeTruthy();
    show(<Proposed />, '/lineage/change');
    expect(await screen.findByText('Which asset is to be changed?')).toBeTruthy();
  });
});
