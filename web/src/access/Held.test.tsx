// @vitest-environment jsdom
import type { HeldClass, LetGoEffect } from '@idrel/contract/access';
import { screen } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { pretended, refusal } from '../testing/view.tsx';
import { Held } from './Held.tsx';

const { served, show, changes } = pretended();
const held = (more: Partial<HeldClass> = {}): HeldClass => ({
  assetId: 'mail',
  path: 'booking.passenger.email',
  source: 'Booking system',
  classKey: 'email',
  filter: null,
  since: '2026-11-26T10:00:00Z',
  policies: [
    { id: 'one', name: 'E-mail addresses are masked' },
    { id: 'two', name: 'Contacts stay here' },
  ],
  mayLetGo: true,
  ...more,
});
const effect = (...rows: LetGoEffect['rows']): LetGoEffect => ({ people: rows.length, rows });
const ROW = {
  personId: 'bettina',
  person: 'Bettina Sark',
  table: 'booking.passenger',
  column: 'email',
  before: 'masked',
  after: 'plain',
  beforeMask: { kind: 'partial', first: 1, last: 0 },
  afterMask: null,
} as const;

describe('held classes', () => {
  it('are let go after it was seen who would read what', async () => {
    Object.assign(served, {
      'GET /access/held': [held()],
      'GET /access/held/effect': effect(ROW),
      'GET /classes': [],
      'POST /access/held/let-go': null,
    });
    const user = show(<Held />);
    expect(await screen.findByText('E-mail addresses are masked, Contacts stay here')).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Let the class go' })).toBeNull();
    await user.click(screen.getByRole('button', { name: 'What letting go would open' }));
    expect(await screen.findByText('1 person would read otherwise than now.')).toBeTruthy();
    expect(screen.getAllByRole('row', { name: /Bettina Sark/ }).at(-1)?.textContent).toContain(
      'reads masked (its first character)',
    );
    await user.click(screen.getByRole('button', { name: 'Let the class go' }));
    expect(await screen.findByText('E-mail address no longer protects booking.passenger.email.')).toBeTruthy();
    expect(changes()).toMatchObject([{ path: '/access/held/let-go', body: { asset: 'mail', class: 'email' } }]);
  });

  it('cannot be let go without the right over the policies, which are named', async () => {
    Object.assign(served, {
      'GET /access/held': [held({ mayLetGo: false })],
      'GET /access/held/effect': effect(),
      'GET /classes': [],
    });
    const user = show(<Held />);
    await user.click(await screen.findByRole('button', { name: 'What letting go would open' }));
    expect(await screen.findByText('Nobody would read more than now.')).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Let the class go' }).disabled).toBe(true);
    expect(
      screen.getByText('It takes the right to change “E-mail addresses are masked” and “Contacts stay here”.'),
    ).toBeTruthy();
  });

  it('stay open with what went wrong when somebody else was quicker', async () => {
    Object.assign(served, {
      'GET /access/held': [held()],
      'GET /access/held/effect': effect(ROW),
      'GET /classes': [],
      'POST /access/held/let-go': refusal(404, 'not-found', 'The held class is not there, or you may not see it.'),
    });
    const user = show(<Held />);
    await user.click(await screen.findByRole('button', { name: 'What letting go would open' }));
    await user.click(await screen.findByRole('button', { name: 'Let the class go' }));
    expect(await screen.findByText('It was not let go')).toBeTruthy();
    expect(screen.getByRole('button', { name: 'Let the class go' })).toBeTruthy();
  });

  it('are explained where there are none, and can be asked for again where they could not be shown', async () => {
    Object.assign(served, {
      'GET /access/held': refusal(503, 'no-database', 'The database is not there.'),
      'GET /classes': [],
    });
    const user = show(<Held />);
    expect((await screen.findByRole('alert')).textContent).toContain('What is held cannot be shown');
    served['GET /access/held'] = [];
    await user.click(screen.getByRole('button', { name: 'Try again' }));
    expect(await screen.findByText('Nothing is held')).toBeTruthy();
  });
});
