// @vitest-environment jsdom
import type { SwitchEffect } from '@idrel/contract/recognition';
import { screen } from '@testing-library/react';
import { describe, expect, it, vi } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { SwitchOff } from './SwitchOff.tsx';

const { served, show } = pretended();
const column = (index: number) => ({
  assetId: `column${index}`,
  path: `booking.passenger.field_${index}`,
  source: 'Booking system',
  classKey: 'email',
  state: index === 0 ? 'to-settle' : 'certain',
});
const told = async (effect: Partial<SwitchEffect>, ids: readonly string[] = ['email.address']) => {
  Object.assign(served, {
    'GET /detectors-off/effect': { columns: 0, confirmed: 0, alone: [], shown: [], ...effect },
    'GET /classes': [],
  });
  const [act, leave] = [vi.fn(), vi.fn()];
  const user = show(<SwitchOff ids={ids} act={act} leave={leave} />);
  return { user, act, leave, words: (await screen.findByRole('status')).textContent };
};

describe('before a detector is switched off', () => {
  it('is said what loses its class, what keeps it, and what nothing else looks for', async () => {
    const { words } = await told({
      columns: 3,
      confirmed: 1,
      alone: ['E-mail address'],
      shown: [column(0), column(1)],
    });
    expect(words).toBe(
      '3 columns carry a class by email.address. 2 columns lose it with the next scan of the source. 1 column that people confirmed keeps it. Nothing else looks for: E-mail address.',
    );
    expect(screen.getByRole('row', { name: /field_0/ }).textContent).toContain('to settle');
  });

  it('is said so where nothing carries anything by it', async () => {
    expect((await told({})).words).toBe('Nothing carries a class by email.address.');
    expect(screen.queryByRole('table')).toBeNull();
  });

  it('of several a few are shown, and the number of the rest', async () => {
    const { words } = await told({ columns: 40, shown: Array.from({ length: 40 }, (_, index) => column(index)) }, [
      'a',
      'b',
    ]);
    expect(words).toContain('40 columns carry a class by these 2 detectors.');
    expect(screen.getAllByRole('row')).toHaveLength(12);
    expect(screen.getByText('and 28 more')).toBeTruthy();
  });

  it('nothing is done until it is said', async () => {
    const { user, act, leave } = await told({});
    await user.click(screen.getByRole('button', { name: 'Leave on' }));
    expect([act.mock.calls.length, leave.mock.calls.length]).toEqual([0, 1]);
    await user.click(screen.getByRole('button', { name: 'Switch off' }));
    expect(act).toHaveBeenCalledOnce();
  });
});
