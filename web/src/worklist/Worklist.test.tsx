// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { pretended, refusal } from '../testing/view.tsx';
import { Component as Worklist } from './Worklist.tsx';

const { served, show, changes } = pretended();
const unowned = (name: string) => ({
  kind: 'unowned',
  key: `unowned:${name}`,
  asset: {
    id: name,
    kind: 'table',
    name,
    path: `booking.${name}`,
    domain: 'Bookings',
    source: 'Booking system',
    version: 4,
    columns: 3,
    classes: ['email', 'phone'],
    level: 3,
    priority: 0,
  },
});
const scan = {
  kind: 'scan',
  key: 'scan:1',
  scan: {
    runId: 'run',
    planId: 'plan',
    plan: 'Nightly',
    sourceId: 'source',
    source: 'Booking system',
    domain: 'Bookings',
    at: '2026-11-26T10:00:00.000Z',
    renames: [],
    uncovered: ['ref.new_one', 'ref.other'],
  },
};
const list = (...items: object[]) => ({
  items,
  counts: {
    finding: 0,
    unowned: 2,
    lapsed: 0,
    scan: 1,
    breaking: 0,
    failed: 0,
    broken: 0,
    request: 0,
    review: 0,
    routine: 0,
  },
});
const ME = { person: { id: 'me', name: 'Sunniva Dahlmark', job: '', grants: [] }, csrf: 'x', demoPeople: [] };
const items = async () => within(await screen.findByRole('list', { name: 'Items' }));
const open = async () =>
  (await items()).getAllByRole('button').find((button) => button.getAttribute('aria-current') === 'true')?.textContent;

describe('the worklist', () => {
  it('goes from item to item by keys, and stays at its ends', async () => {
    Object.assign(served, {
      'GET /worklist': list(unowned('payment'), unowned('refund')),
      'GET /session': ME,
      'GET /people': [],
      'GET /groups': [],
      'GET /classes': [],
    });
    const user = show(<Worklist />);
    await items();
    expect(await open()).toContain('payment');
    await user.keyboard('k');
    expect(await open()).toContain('payment');
    await user.keyboard('j');
    expect(await open()).toContain('refund');
    await user.keyboard('jj');
    expect(await open()).toContain('refund');
    expect(screen.getByText('E-mail address')).toBeTruthy();
  });

  it('makes whoever looks the owner, with the version they saw, and takes that back', async () => {
    const [row] = [unowned('payment')];
    const after = { ...row?.asset, owners: [{ id: 'me', name: 'Sunniva Dahlmark' }], version: 5 };
    Object.assign(served, {
      'GET /worklist': list(row as object),
      'GET /session': ME,
      'GET /people': [],
      'GET /groups': [],
      'GET /classes': [],
      'PATCH /assets/payment': after,
    });
    const user = show(<Worklist />);
    await items();
    await user.keyboard('m');
    await screen.findByText('payment is answered for by Sunniva Dahlmark.');
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(changes()).toHaveLength(2));
    expect(changes().map(({ body, version }) => [version, body])).toEqual([
      ['"v4"', { ownerIds: ['me'] }],
      ['"v5"', { ownerIds: [] }],
    ]);
  });

  it('leaves new objects out of their plan, and says what went wrong where it cannot', async () => {
    Object.assign(served, {
      'GET /worklist': list(scan),
      'GET /session': ME,
      'GET /people': [],
      'GET /groups': [],
      'GET /classes': [],
      'PUT /plans/plan/left-out': refusal(403, 'forbidden', 'It takes the role source administrator.'),
    });
    const user = show(<Worklist />);
    await items();
    await user.keyboard('l');
    expect(await screen.findByText('They were not left out')).toBeTruthy();
    expect(changes()[0]?.body).toEqual({ paths: ['ref.new_one', 'ref.other'], out: true });
  });

  it('tells of a flow that failed why, and what lies behind it; noted, it is off, and can come back', async () => {
    const flow = {
      kind: 'failed',
      key: 'failed:f:r1',
      flow: {
        id: 'f',
        path: 'freight/invoices to the bank',
        sourceId: 's',
        source: 'Freight pipelines',
        runId: 'r1',
        at: '2026-11-26T10:00:00.000Z',
        message: 'The bank refuses the connection.',
        reached: [
          { id: 'a', kind: 'table', path: '/out/invoices.csv', source: 'Freight pipelines', distance: 1, mine: true },
        ],
      },
    };
    Object.assign(served, {
      'GET /worklist': list(flow),
      'GET /session': ME,
      'GET /people': [],
      'GET /groups': [],
      'GET /classes': [],
      'PUT /assets/f/failed-run-seen': null,
    });
    const user = show(<Worklist />);
    expect(await screen.findByText('failed; 1 asset of yours behind it')).toBeTruthy();
    expect(screen.getByText('The bank refuses the connection.')).toBeTruthy();
    expect(screen.getByText('yours')).toBeTruthy();
    await user.keyboard('n');
    await user.click(await screen.findByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(changes()).toHaveLength(2));
    expect(changes().map(({ body }) => body)).toEqual([
      { runId: 'r1', seen: true },
      { runId: 'r1', seen: false },
    ]);
  });

  it('tells what is broken, by what, and what to do; noted, it is off, and can come back', async () => {
    const sign = ['01a222f1-74c4-7000-8000-b2e4a315aa42', '01a222f1-74c4-7000-8000-b2e4a315aa43'];
    const thing = {
      kind: 'broken',
      key: 'broken:r',
      thing: {
        id: 'r',
        kind: 'report',
        path: 'Fares and routes/Revenue by route',
        source: 'Wheelhouse reports',
        what: 'is made from what retires',
        since: '2026-11-26T10:00:00.000Z',
        sign,
        priority: 2,
        causes: [{ id: sign[0], kind: 'table', path: 'mart.fare_sales' }],
        reached: [],
      },
    };
    Object.assign(served, {
      'GET /worklist': list(thing),
      'GET /session': ME,
      'GET /people': [],
      'GET /groups': [],
      'GET /classes': [],
      'PUT /assets/r/broken-seen': null,
    });
    const user = show(<Worklist />);
    expect(await screen.findByText('mart.fare_sales')).toBeTruthy();
    expect(screen.getByText('and what you may not see')).toBeTruthy();
    expect(screen.getByText('critical')).toBeTruthy();
    await user.keyboard('n');
    await user.click(await screen.findByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(changes()).toHaveLength(2));
    expect(changes().map(({ body }) => body)).toEqual([
      { what: 'is made from what retires', sign, seen: true },
      { what: 'is made from what retires', sign, seen: false },
    ]);
  });

  it('says what comes here when nothing waits', async () => {
    Object.assign(served, {
      'GET /worklist': list(),
      'GET /session': ME,
      'GET /people': [],
      'GET /groups': [],
      'GET /classes': [],
    });
    show(<Worklist />);
    expect(await screen.findByText('Nothing waits for you')).toBeTruthy();
  });
});
