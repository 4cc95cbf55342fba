// @vitest-environment jsdom
import type { AssetAnswer } from '@idrel/contract/catalog';
import type { Ticket } from '@idrel/contract/curation';
import { fireEvent, screen, waitFor } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { Tickets } from './Tickets.tsx';

const { show, served, asked } = pretended();
const asset = { id: 'a1' } as AssetAnswer;
const ticket = (id: string, more: Partial<Ticket>): Ticket => ({
  id,
  title: `Ticket ${id}`,
  state: 'open',
  key: `QUAY-${id}`,
  url: `https://tracker.example.org/${id}`,
  by: 'Ada',
  routine: null,
  openedAt: '2026-11-01T00:00:00Z',
  closedAt: null,
  problem: null,
  ...more,
});

describe('the tickets of an asset', () => {
  it('lead to the tracker, say how they stand, and why one was not taken', async () => {
    served['GET /assets/a1/tickets'] = {
      tracker: true,
      items: [
        ticket('1', {}),
        ticket('2', { state: 'closed', closedAt: '2026-11-02T00:00:00Z', by: null }),
        ticket('3', {
          state: 'not opened',
          key: null,
          url: null,
          problem: 'The tracker did not take it. It answers 500.',
        }),
      ],
    };
    show(<Tickets asset={asset} />);
    expect((await screen.findByText('QUAY-1: Ticket 1')).getAttribute('href')).toBe('https://tracker.example.org/1');
    expect(screen.getByText(/somebody who left/).textContent).toContain('closed');
    expect(screen.getByText(/It answers 500/).className).toContain('attention');
    expect(screen.getByText('Ticket 3').closest('a')).toBeNull();
    served['POST /tickets/3/again'] = ticket('3', { state: 'being opened', key: null, url: null });
    fireEvent.click(screen.getByText('Try again'));
    await waitFor(() => expect(asked.map(({ path }) => path)).toContain('/tickets/3/again'));
  });

  it('are not there where there is no tracker, and can only be read where there was one', async () => {
    served['GET /assets/a2/tickets'] = { tracker: false, items: [] };
    show(<Tickets asset={{ ...asset, id: 'a2' }} />);
    await waitFor(() => expect(asked.map(({ path }) => path)).toContain('/assets/a2/tickets'));
    expect(document.querySelector('.field')).toBeNull();
    served['GET /assets/a3/tickets'] = { tracker: false, items: [ticket('1', {})] };
    show(<Tickets asset={{ ...asset, id: 'a3' }} />);
    await screen.findByText('QUAY-1: Ticket 1');
    expect(screen.queryByText('Open a ticket')).toBeNull();
  });
});
