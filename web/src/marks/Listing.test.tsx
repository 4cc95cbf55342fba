// @vitest-environment jsdom
import { screen, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { heard, Listing, num } from './Listing.tsx';

const { show } = pretended();

describe('a listing', () => {
  it('has the columns that are there, figures at the right, and words for what is only heard', () => {
    const levels = false;
    show(
      <Listing label="Runs" heads={['Asked', levels && 'Level', num('Findings', 'All states'), heard('What to do')]}>
        <tr>
          <td>today</td>
          <td className="num">4</td>
          <td>Run</td>
        </tr>
      </Listing>,
    );
    const table = within(screen.getByRole('table', { name: 'Runs' }));
    const heads = table.getAllByRole('columnheader');
    expect(heads.map((head) => head.textContent)).toEqual(['Asked', 'Findings', 'What to do']);
    expect(heads.map((head) => head.className)).toEqual(['', 'num', '']);
    expect(heads[1]?.title).toBe('All states');
    expect(heads[2]?.firstElementChild?.className).toBe('hidden-visually');
    expect(table.getAllByRole('row')).toHaveLength(2);
  });

  it('without words has rows alone, in columns as wide as is said', () => {
    show(
      <Listing widths={[30, null]}>
        <tr>
          <td>tb</td>
          <td>passenger</td>
        </tr>
      </Listing>,
    );
    const table = screen.getByRole('table');
    expect(table.querySelector('thead')).toBeNull();
    expect([...table.querySelectorAll('col')].map((column) => column.style.width)).toEqual(['30px', '']);
  });
});
