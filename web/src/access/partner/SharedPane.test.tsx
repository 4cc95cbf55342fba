// @vitest-environment jsdom
import type { SharedAnswer } from '@idrel/contract/access';
import { screen } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { pretended, refusal } from '../../testing/view.tsx';
import { readLines } from '../sharesApi.ts';
import { SharedPane } from './SharedPane.tsx';

const { served, show, changes } = pretended();
const share = (more: Partial<SharedAnswer> = {}): SharedAnswer => ({
  id: 'one',
  number: 3,
  name: 'Départs, 2026: of the harbour',
  note: 'For berths alone.',
  state: 'offered',
  localName: null,
  offeredAt: '2026-11-26T10:00:00Z',
  until: null,
  answeredBy: null,
  answeredAt: null,
  endedAt: null,
  tables: 1,
  version: 2,
  ...more,
});
const TABLES = [
  {
    schema: 'ref',
    name: 'Port',
    kind: 'table',
    meaning: 'Where we call.',
    limited: true,
    columns: [
      { name: 'id', type: 'integer', meaning: '', masked: null },
      { name: 'email', type: 'text', meaning: 'Of the office.', masked: 'its first character' },
    ],
  },
];

describe('a share as its readers see it', () => {
  it('is accepted under a name that is proposed and can be emptied, and keeps what was typed when it is taken', async () => {
    Object.assign(served, {
      'GET /shared/one': TABLES,
      'POST /shared/one/answer': refusal(409, 'name-taken', 'You read another share as “departs”.'),
    });
    const user = show(<SharedPane share={share()} leads />);
    const name = (await screen.findByLabelText('Read it as')) as HTMLInputElement;
    expect(name.value).toBe('departs_2026_of');
    await user.clear(name);
    expect(name.value).toBe('');
    expect((screen.getByRole('button', { name: 'Accept it' }) as HTMLButtonElement).disabled).toBe(true);
    await user.type(name, 'departs');
    await user.click(screen.getByRole('button', { name: 'Accept it' }));
    expect(await screen.findByText(/You read another share as “departs”/)).toBeTruthy();
    expect(name.value).toBe('departs');
    expect(changes().at(-1)).toMatchObject({
      path: '/shared/one/answer',
      body: { decision: 'accepted', localName: 'departs', text: '' },
    });
    expect(await screen.findByText('1 table that you would read')).toBeTruthy();
    expect(screen.getByText('shown as its first character')).toBeTruthy();
  });

  it('is not answered by who only reads', async () => {
    served['GET /shared/one'] = TABLES;
    show(<SharedPane share={share()} leads={false} />);
    expect(await screen.findByText(/before somebody who speaks for your organisation accepts it/)).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Accept it' })).toBeNull();
  });

  it('is asked by a query that names its table rightly, and says what is wrong with one', async () => {
    Object.assign(served, {
      'GET /shared/one': TABLES,
      'POST /shared/one/query': refusal(422, 'refused-unknown-table', 'The statement reads a table that is not there.'),
    });
    const user = show(<SharedPane share={share({ state: 'accepted', localName: 'departs' })} leads={false} />);
    const sql = (await screen.findByLabelText('Query')) as HTMLTextAreaElement;
    expect(sql.value).toBe('select * from ref."Port" limit 50');
    await user.click(screen.getByRole('button', { name: 'Run it' }));
    expect(await screen.findByText(/reads a table that is not there/)).toBeTruthy();
    expect(changes().at(-1)).toMatchObject({ body: { sql: 'select * from ref."Port" limit 50', limit: 200 } });
  });

  it('says that it has ended, and shows nothing of it', async () => {
    show(<SharedPane share={share({ state: 'ended', endedAt: '2026-11-27T10:00:00Z' })} leads />);
    expect(await screen.findByText(/nothing of it is read any more/)).toBeTruthy();
    expect(screen.queryByLabelText('Query')).toBeNull();
  });
});

describe('an answer as lines', () => {
  it('is read with its columns, rows and end, or with the problem that ended it', () => {
    expect(readLines('["a","b"]\n["1",null]\n["2","x"]\n{"rows":2,"capped":true,"because":"rows"}\n')).toEqual({
      columns: ['a', 'b'],
      rows: [
        ['1', null],
        ['2', 'x'],
      ],
      capped: true,
    });
    expect(readLines('["a"]\n["1"]\n{"problem":{"detail":"It was stopped."}}\n')).toEqual({
      problem: { detail: 'It was stopped.' },
    });
    expect(readLines('["a"]\n{"rows":0,"capped":false}\n')).toMatchObject({ rows: [], capped: false });
  });
});
