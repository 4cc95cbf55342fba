// @vitest-environment jsdom
import type { JournalEntry } from '@idrel/contract/journal';
import { MantineProvider } from '@mantine/core';
import { cleanup, render, screen } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import { History } from './History.tsx';

const entry = (more: Partial<JournalEntry>): JournalEntry => ({
  id: '1',
  at: '2026-11-26T10:00:00Z',
  person: 'Sunniva Dahlmark',
  byKey: null,
  action: 'edited',
  subjectKind: 'term',
  subjectId: 'abc',
  subject: 'Fare',
  before: { definition: '' },
  after: { definition: 'What it costs.' },
  ...more,
});
const show = (...entries: JournalEntry[]) =>
  render(
    <MantineProvider>
      <MemoryRouter>
        <History entries={entries} subject />
      </MemoryRouter>
    </MantineProvider>,
  );
// jsdom has no media to ask.
beforeAll(() =>
  vi.stubGlobal('matchMedia', () => ({ matches: false, addEventListener() {}, removeEventListener() {} })),
);
afterEach(cleanup);

describe('the journal', () => {
  it('tells from what to what, and leads to what it is about', () => {
    show(
      entry({
        before: { definition: '', otherNames: [] },
        after: { definition: 'What it costs.', otherNames: ['Price'] },
      }),
    );
    expect(screen.getByRole('row', { name: /edited/ }).textContent).toContain('other names: nothing → Price');
    expect(screen.getByRole('row', { name: /edited/ }).textContent).toContain('definition: nothing → What it costs.');
    expect(screen.getByRole('link', { name: 'Fare' }).getAttribute('href')).toBe('/glossary?term=abc');
  });

  it('leads to assets by whatever kind, and nowhere for what was removed or is not known', () => {
    show(
      entry({ id: '1', subjectKind: 'materialised view', subject: 'mart.daily' }),
      entry({ id: '2', subject: 'Gone', after: null }),
      entry({ id: '3', subjectKind: 'of a later version', subject: 'Odd' }),
    );
    expect(screen.getAllByRole('link').map((link) => link.getAttribute('href'))).toEqual(['/assets/abc']);
    expect(screen.getByText('Odd')).toBeTruthy();
  });

  it('leads from a scan to its run, told by who acted', () => {
    show(
      entry({
        person: 'plan Nightly',
        action: 'scanned',
        subjectKind: 'source',
        before: null,
        after: { run: 'r1', new: 2, terms: [] },
      }),
    );
    expect(screen.getByText('plan Nightly')).toBeTruthy();
    expect(screen.getByRole('link', { name: 'what it found' }).getAttribute('href')).toBe('/runs/r1');
    // Of something new only what it holds is told.
    expect(screen.queryByText(/terms/)).toBeNull();
  });
});
