// @vitest-environment jsdom
import type { GivenAnswer } from '@idrel/contract/access';
import { screen, waitFor } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { Give } from './Give.tsx';

const { served, show, asked } = pretended();
const column = (name: string, more: Partial<GivenAnswer['columns'][number]> = {}) => ({
  name,
  masked: false,
  preview: false,
  ...more,
});
const gift = (more: Partial<GivenAnswer['given'][number]> = {}): GivenAnswer['given'][number] => ({
  policyId: 'one',
  version: 1,
  to: [{ kind: 'person', id: 'maud', name: 'Maud Ilkley' }],
  columns: null,
  opens: 'read',
  passesOn: false,
  until: null,
  at: '2026-11-01T00:00:00Z',
  holds: true,
  ...more,
});
const answer = (more: Partial<GivenAnswer> = {}): GivenAnswer => ({
  columns: [column('code'), column('mail', { masked: true })],
  limited: false,
  given: [],
  ...more,
});

beforeEach(() => {
  localStorage.clear();
  Object.assign(served, {
    'GET /session': { person: { id: 'me', name: 'Me', job: '' }, csrf: '', grants: [], demo: true, demoPeople: [] },
    'GET /groups': [
      { id: 'desk', name: 'Freight desk', partner: null },
      { id: 'board', name: 'Harbour board', partner: 'b' },
    ],
    'GET /people': [{ id: 'maud', name: 'Maud Ilkley' }],
    'GET /assets/t/given': answer(),
    'POST /assets/t/given': gift(),
    'DELETE /given/one': {},
  });
});

describe('giving on, on the page of a table', () => {
  it('is not there for who may give nothing on and gave nothing', async () => {
    served['GET /assets/t/given'] = answer({ columns: [] });
    show(<Give id="t" />);
    await waitFor(() => expect(asked.some(({ path }) => path === '/assets/t/given')).toBe(true));
    expect(screen.queryByText('Give on')).toBeNull();
  });

  it('says how it will be read, offers no partner, and sends what was chosen', async () => {
    const user = show(<Give id="t" />);
    await user.click(await screen.findByRole('button', { name: 'Give on' }));
    expect(screen.getByRole('status').textContent).toContain('masked where you read it masked (mail)');
    expect((screen.getByRole('button', { name: 'Give it on' }) as HTMLButtonElement).disabled).toBe(true);
    await user.click(screen.getByLabelText(/^To/, { selector: 'input' }));
    expect(screen.queryByRole('option', { name: 'Harbour board' })).toBeNull();
    await user.click(await screen.findByRole('option', { name: 'Freight desk' }));
    await user.click(screen.getByLabelText(/^Columns/, { selector: 'input' }));
    await user.click(await screen.findByRole('option', { name: 'code' }));
    expect(screen.getByRole('status').textContent).toContain('They read it as you do: as it is.');
    await user.click(screen.getByRole('button', { name: 'Give it on' }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === 'POST')?.body).toMatchObject({
        groupIds: ['desk'],
        personIds: [],
        columns: ['code'],
        opens: 'read',
        passesOn: false,
        until: null,
      }),
    );
  });

  it('offers no more than a preview where no more may be given on', async () => {
    served['GET /assets/t/given'] = answer({ columns: [column('code', { preview: true })] });
    const user = show(<Give id="t" />);
    await user.click(await screen.findByRole('button', { name: 'Give on' }));
    expect((screen.getByLabelText(/^How far/, { selector: 'input' }) as HTMLInputElement).value).toBe(
      'To be shown a few rows',
    );
  });

  it('lists what was given, says when it opens nothing, and takes it back', async () => {
    served['GET /assets/t/given'] = answer({ columns: [], given: [gift({ holds: false, columns: ['code'] })] });
    const user = show(<Give id="t" />);
    expect(await screen.findByText(/opens nothing/)).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Take back from Maud Ilkley' }));
    await waitFor(() => expect(asked.some(({ method }) => method === 'DELETE')).toBe(true));
  });
});
