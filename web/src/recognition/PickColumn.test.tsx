// @vitest-environment jsdom
import { screen, waitFor } from '@testing-library/react';
import type { UserEvent } from '@testing-library/user-event';
import { describe, expect, it, vi } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { PickColumn } from './PickColumn.tsx';

const { served, show, asked } = pretended();
const asset = (id: string, kind: string, name: string) => ({
  id,
  kind,
  name,
  path: `ref.${name}`,
  source: 'Booking system',
});
const serve = () =>
  Object.assign(served, {
    'GET /assets': {
      items: [asset('port', 'table', 'port'), asset('vessel', 'table', 'vessel')],
      total: 2,
      next: null,
    },
    'GET /assets/port/children': [asset('name', 'column', 'name'), asset('index', 'index', 'port_pkey')],
  });
const field = (name: string) => screen.getByRole<HTMLInputElement>('combobox', { name });
const choose = async (user: UserEvent, name: string, option: string) => {
  await user.click(field(name));
  await user.click(await screen.findByRole('option', { name: option }));
};

describe('a column of the catalog', () => {
  it('is chosen after what holds it: only its columns are offered', async () => {
    serve();
    const take = vi.fn();
    const user = show(<PickColumn take={take} busy={false} />);
    expect(field('Column').disabled).toBe(true);
    await choose(user, 'Table or file', 'ref.port · Booking system');
    await waitFor(() => expect(field('Column').disabled).toBe(false));
    await user.click(field('Column'));
    await screen.findByRole('option', { name: 'name' });
    expect(screen.queryByRole('option', { name: 'port_pkey' })).toBeNull();
    await user.click(screen.getByRole('option', { name: 'name' }));
    expect(take.mock.calls).toEqual([['name']]);
  });

  it('can still be chosen when its table is chosen once more', async () => {
    serve();
    const user = show(<PickColumn take={vi.fn()} busy={false} />);
    await choose(user, 'Table or file', 'ref.port · Booking system');
    await waitFor(() => expect(field('Column').disabled).toBe(false));
    await choose(user, 'Table or file', 'ref.port · Booking system');
    expect(field('Column').disabled).toBe(false);
    expect(field('Table or file').value).toBe('ref.port · Booking system');
  });

  it('waits while values are being read', async () => {
    serve();
    show(<PickColumn take={vi.fn()} busy={true} />);
    await waitFor(() => expect(asked).toHaveLength(1));
    expect([field('Table or file').disabled, field('Column').disabled]).toEqual([true, true]);
  });
});
