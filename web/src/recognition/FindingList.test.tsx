// @vitest-environment jsdom
import type { FindingAnswer } from '@idrel/contract/recognition';
import { screen, waitFor } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { pretended, refusal } from '../testing/view.tsx';
import { FindingList } from './FindingList.tsx';

const { served, show, changes, asked } = pretended();
const ID = '11111111-1111-7111-8111-111111111111';
const finding = (more: Partial<FindingAnswer> = {}): FindingAnswer => ({
  classKey: 'email',
  label: 'E-mail address',
  detector: 'email.address',
  version: '3',
  share: 0.9,
  matched: 90,
  sampled: 100,
  distinct: 80,
  confidence: 0.97,
  name: { verdict: 'agrees', words: ['email'] },
  terms: [],
  examples: [],
  inside: null,
  texts: null,
  assetId: ID,
  column: 'email',
  table: 'passenger',
  tableId: ID,
  path: 'booking.passenger.email',
  source: 'Booking system',
  domain: 'Bookings',
  state: 'confirmed',
  decidedBy: 'Tobias Marrow',
  decidedAt: '2026-11-20T08:00:00.000Z',
  reason: 'Seen in the form',
  maySettle: true,
  rule: null,
  remembered: null,
  dismissedAt: null,
  ...more,
});
const page = (...items: FindingAnswer[]) => ({ items, total: items.length });
const BEFORE = { assetId: ID, classKey: 'email', decision: 'confirmed', reason: 'Seen in the form', remembered: false };

describe('a list of findings', () => {
  it('sends which decision was seen, and puts that one back when it is undone', async () => {
    served['GET /findings'] = page(finding());
    served['POST /findings/decisions'] = { decided: 1, at: '2026-11-26T10:00:00.000Z', before: [BEFORE] };
    const user = show(<FindingList state="confirmed" />);
    await user.click(await screen.findByRole('button', { name: 'Dismiss' }));
    expect(await screen.findByText(/E-mail address dismissed for email/)).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(changes()).toHaveLength(2));
    expect(changes().map(({ body }) => body)).toEqual([
      { decisions: [{ assetId: ID, classKey: 'email', decision: 'dismissed', seen: '2026-11-20T08:00:00.000Z' }] },
      {
        decisions: [
          {
            assetId: ID,
            classKey: 'email',
            decision: 'confirmed',
            reason: 'Seen in the form',
            seen: '2026-11-26T10:00:00.000Z',
          },
        ],
      },
    ]);
  });

  it('says who was quicker, and shows what stands there now', async () => {
    served['GET /findings'] = page(finding({ state: 'to-settle', decidedBy: null, decidedAt: null, reason: '' }));
    served['POST /findings/decisions'] = refusal(
      409,
      'decided-meanwhile',
      'Tobias Marrow has confirmed it since you saw it.',
    );
    const user = show(<FindingList state="to-settle" />);
    await user.click(await screen.findByRole('button', { name: 'Confirm' }));
    expect(await screen.findByText(/Tobias Marrow has confirmed it since you saw it/)).toBeTruthy();
    expect(changes()[0]?.body).toMatchObject({ decisions: [{ seen: null }] });
    await waitFor(() => expect(asked.filter(({ method }) => method === 'GET')).toHaveLength(2));
  });

  it('offers nothing to whoever may not settle, and says where there is nothing', async () => {
    served['GET /findings'] = page(finding({ maySettle: false }));
    show(<FindingList state="confirmed" />);
    expect(await screen.findByText('booking.passenger.email')).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Dismiss' })).toBeNull();
  });

  it('of an asset without findings says that no detector claims anything', async () => {
    served['GET /findings'] = page();
    show(<FindingList asset={ID} />);
    expect(await screen.findByText('No detector claims anything here.')).toBeTruthy();
  });
});
