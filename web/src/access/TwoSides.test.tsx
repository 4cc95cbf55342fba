// @vitest-environment jsdom
import type { TryAnswer } from '@idrel/contract/access';
import { screen, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { since, TwoSides } from './TwoSides.tsx';

const { show } = pretended();

const column = (name: string, at: number, same: boolean, because: string[] = []) => ({
  name,
  yours: at,
  theirs: at,
  same,
  ofMany: false,
  because,
});
/** Addresses are masked, and of three rows one is kept from them. */
const answer = (more: Partial<TryAnswer> = {}): TryAnswer => ({
  columns: ['id', 'mail'],
  rows: [
    ['1', '•••'],
    ['3', '•••'],
  ],
  capped: false,
  milliseconds: 4,
  rewritten: '',
  tables: [
    {
      tableId: 't',
      path: 's.guest',
      access: 'partly',
      columns: [
        { name: 'id', access: 'plain', mask: null, instead: null, reasons: [] },
        { name: 'mail', access: 'masked', mask: { kind: 'blank' }, instead: null, reasons: [] },
      ],
      purposes: [],
      rowLimits: [{ column: 'port', values: ['Ulvey'], byRights: false, least: null, policy: 'Own port' }],
    },
  ],
  notes: [],
  yours: {
    columns: ['id', 'mail'],
    rows: [
      ['1', 'a@x'],
      ['2', 'b@x'],
      ['3', 'c@x'],
    ],
    capped: false,
    milliseconds: 3,
    whole: true,
  },
  yoursNot: null,
  beside: [column('id', 0, true), column('mail', 1, false, ['Mails are blank'])],
  pairs: [
    [0, 0],
    [1, null],
    [2, 1],
  ],
  ...more,
});
const shown = (one: TryAnswer, changes: ReturnType<typeof since> | null = null) => {
  show(<TwoSides answer={one} person="Bettina Sark" changes={changes} />);
  return (name: string) =>
    within(screen.getByRole('table', { name }))
      .getAllByRole('row')
      .slice(1)
      .map((row) => row.textContent);
};

describe('one query for two people', () => {
  it('stands row by row beside each other, with what is missing and what differs', () => {
    const rows = shown(answer());
    expect(rows('Result: What the source holds')).toEqual(['1a@x', '2b@x', '3c@x']);
    expect(rows('Result: Bettina Sark')).toEqual(['1•••', 'not for them', '3•••']);
    expect(screen.getByText(/1 of your rows is missing: only rows where port is Ulvey \(Own port\)/)).toBeTruthy();
    const [masked] = screen.getAllByText('•••');
    expect(masked?.className).toContain('differs');
    expect(masked?.title).toBe('Mails are blank');
    expect(rows('Columns that differ')).toEqual([expect.stringMatching(/^mailmasked.*Mails are blank$/)]);
  });

  it('says that it is refused to who tries, and shows theirs alone', () => {
    const rows = shown(
      answer({ yours: null, yoursNot: 'guest may not be read: no policy allows it.', beside: [], pairs: [] }),
    );
    expect(screen.getByText('It is refused to you: guest may not be read: no policy allows it.')).toBeTruthy();
    expect(rows('Result: Bettina Sark')).toEqual(['1•••', '3•••']);
    expect(screen.queryByRole('table', { name: 'Result: You' })).toBeNull();
  });

  it('says what became of it since the run before', () => {
    const before = answer({
      columns: ['mail', 'id'],
      rows: [
        ['a@x', '1'],
        ['b@x', '2'],
      ],
    });
    const changes = since(before, answer());
    expect([...changes.changed]).toEqual([['0 1', 'a@x']]);
    expect([...changes.came]).toEqual([1]);
    expect(changes.went).toEqual([['2', 'b@x']]);
    const rows = shown(answer(), changes);
    expect(screen.getByText('Since the run before: 1 value is otherwise, 1 row came, 1 row went.')).toBeTruthy();
    expect(rows('Rows that went')).toEqual(['2b@x']);
    expect(since(answer(), answer())).toEqual({ changed: new Map(), came: new Set(), went: [] });
  });
});
