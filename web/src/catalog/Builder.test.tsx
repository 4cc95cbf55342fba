// @vitest-environment jsdom
import type { Facet } from '@idrel/contract/catalog';
import { screen, within } from '@testing-library/react';
import { useState } from 'react';
import { beforeEach, describe, expect, it } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { Builder } from './Builder.tsx';

const { show } = pretended();
const FACETS: readonly Facet[] = [
  { key: 'domain', values: [{ value: 'Onboard sales', label: 'Onboard sales', count: 12 }] },
  { key: 'class', values: [{ value: 'email', label: 'E-mail address', count: 7 }] },
];
const searched: string[] = [];
beforeEach(() => {
  searched.length = 0;
});
function Shown({ begins = '' }: { begins?: string }) {
  const [filter, setFilter] = useState(begins);
  return (
    <>
      <Builder
        filter={filter}
        facets={FACETS}
        search={(text) => {
          searched.push(text);
          setFilter(text);
        }}
        close={() => undefined}
      />
      <button type="button" onClick={() => setFilter('fare kind:view')}>
        elsewhere
      </button>
    </>
  );
}
const field = (label: string) => screen.getByLabelText(label, { selector: 'input' }) as HTMLInputElement;
const values = (nth: number) =>
  within(field(`Values of condition ${nth}`).closest('.mantine-TagsInput-root') as HTMLElement)
    .queryAllByRole('button', { hidden: true })
    .map((button) => button.parentElement?.textContent);

describe('a filter that is put together', () => {
  it('shows what is asked for, line by line; what cannot be told so stands as it is written', () => {
    show(<Shown begins='pax kind:table,view -domain:"Onboard sales" created>=-7d (owner:none or term:any)' />);
    expect(field('Words').value).toBe('pax');
    expect(
      [2, 3, 4].map((nth) => [
        field(`What condition ${nth} is about`).value,
        field(`How condition ${nth} compares`).value,
      ]),
    ).toEqual([
      ['kind', 'is'],
      ['domain', 'is not'],
      ['created', 'is since'],
    ]);
    expect(values(2)).toEqual(['table', 'view']);
    expect(field('Condition 5, as it is written').value).toBe('owner:none or term:any');
  });

  it('is searched for as it is chosen; what says nothing yet, or cannot be read, is not', async () => {
    const user = show(<Shown begins="pax" />);
    await user.click(screen.getByText('Add a condition'));
    expect(searched).toEqual([]);
    await user.type(field('Values of condition 2'), 'table{Enter}');
    expect(searched.at(-1)).toBe('pax kind:table');
    await user.click(screen.getByText('Add a condition'));
    await user.click(field('What condition 3 is about'));
    await user.clear(field('What condition 3 is about'));
    await user.type(field('What condition 3 is about'), 'level');
    await user.keyboard('{ArrowDown}{Enter}');
    await user.type(field('Values of condition 3'), 'guarded{Enter}');
    expect(searched.at(-1)).toBe('pax kind:table level:guarded');
    await user.type(field('Words'), '"');
    expect(screen.getByText(/A quotation mark is opened and not closed/)).toBeTruthy();
    expect(searched.at(-1)).toBe('pax kind:table level:guarded');
    await user.click(screen.getByLabelText('Take away condition 2'));
    expect(field('Words').value).toBe('pax"');
    await user.type(field('Words'), '{Backspace}');
    expect(searched.at(-1)).toBe('pax level:guarded');
  });

  it('follows a filter that was written elsewhere', async () => {
    const user = show(<Shown begins="pax" />);
    await user.click(screen.getByText('elsewhere'));
    expect(field('Words').value).toBe('fare');
    expect(values(2)).toEqual(['view']);
  });
});
