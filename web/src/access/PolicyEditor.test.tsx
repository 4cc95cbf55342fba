// @vitest-environment jsdom
import type { PolicyAnswer, ReachAnswer } from '@idrel/contract/access';
import { screen, waitFor, within } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { afterDay, lastDay } from './Conditions.tsx';
import { PolicyEditor } from './PolicyEditor.tsx';
import { FRESH } from './policyFields.ts';

const { served, show, asked } = pretended();
const REACH: ReachAnswer = {
  people: 0,
  tables: 0,
  columns: 0,
  sensitive: 0,
  gains: 0,
  losses: 0,
  masked: 0,
  rows: [],
  limited: [],
  used: [],
  unseen: [],
  sight: { gains: 0, losses: 0, assets: 0, rows: [] },
  passedOn: [],
  otherwise: [],
};
const policy = (more: Partial<PolicyAnswer> = {}): PolicyAnswer => ({
  ...FRESH,
  id: 'one',
  name: 'Fares',
  effect: 'protect',
  everyone: true,
  assetIds: ['t'],
  assets: [{ id: 't', kind: 'table', path: 'core.fare' }],
  mask: { kind: 'partial', first: 1, last: 0 },
  rights: null,
  version: 3,
  createdBy: null,
  requestId: null,
  shareId: null,
  givenBy: null,
  mayEdit: true,
  ...more,
});

beforeEach(() => {
  localStorage.clear();
  Object.assign(served, {
    'GET /session': { person: { id: 'me', name: 'Me', job: '' }, csrf: '', grants: [], demo: true, demoPeople: [] },
    'GET /groups': [],
    'GET /people': [],
    'GET /classes': [],
    'GET /assets': { items: [], total: 0, next: null, readAs: null },
    'GET /assets/t/children': [
      { id: 'c', kind: 'column', name: 'price' },
      { id: 'd', kind: 'column', name: 'born' },
    ],
    'GET /attributes-of-people': [{ key: 'port', people: 3, values: ['Ulvey'] }],
    'POST /policies/mask-sample': [
      { what: 'An amount', type: 'numeric', value: '1284.50', shown: '1300', instead: null },
      { what: 'A name', type: 'text', value: 'Ingrid', shown: null, instead: 'a text is no number' },
    ],
    'POST /policies/reach': REACH,
  });
});
const edited = (more: Partial<PolicyAnswer> = {}) => {
  served['GET /policies'] = [policy(more)];
  served['PUT /policies/one'] = ({ body }: { body: object }) => ({ ...policy(more), ...body, version: 4 });
  return show(<PolicyEditor id="one" close={() => undefined} />);
};
const saved = () => asked.findLast(({ method }) => method === 'PUT')?.body as Record<string, unknown> | undefined;
type User = ReturnType<typeof show>;
/** Chooses from a list by its name. */
const choose = async (user: User, label: string, option: RegExp) => {
  await user.click(await screen.findByRole('combobox', { name: label }));
  await user.click(await screen.findByRole('option', { name: option }));
};
const save = async (user: User) => {
  await user.click(screen.getByRole('button', { name: 'Save policy' }));
  await waitFor(() => expect(saved()).toBeDefined());
  return saved();
};
const type = async (user: User, label: string, text: string) => {
  const field = screen.getByLabelText(label, { selector: 'input' });
  await user.clear(field);
  await user.type(field, text);
};

describe('a mask', () => {
  it('is chosen with what is said with it, and what it does stands beside', async () => {
    const user = edited();
    await choose(user, 'How', /^general/);
    await choose(user, 'To what it is generalised', /^a multiple of a step/);
    await type(user, 'Step', '2.5');
    const sample = await screen.findByRole('region', { name: 'What the mask does' }).catch(() => document.body);
    expect(await within(sample).findByText('1300')).toBeTruthy();
    expect(within(sample).getByText(/Left empty instead: a name, since a text is no number/)).toBeTruthy();
    await waitFor(() =>
      expect(asked.findLast(({ path }) => path === '/policies/mask-sample')?.body).toMatchObject({
        mask: { kind: 'general', to: 'rounded', step: 2.5 },
      }),
    );
    expect(await save(user)).toMatchObject({ mask: { kind: 'general', to: 'rounded', step: 2.5 }, rows: null });
  });

  it.each<[RegExp, readonly [string, string][], object]>([
    [/^blank/, [], { kind: 'blank' }],
    [/^fixed/, [['The text that stands there', 'gone']], { kind: 'fixed', text: 'gone' }],
    [
      /^partial/,
      [
        ['Characters shown from the end', '4'],
        ['Characters shown from the start', '2'],
      ],
      { kind: 'partial', first: 2, last: 4 },
    ],
    [/^substitute/, [], { kind: 'substitute', keyed: 'installation' }],
    [/^noise/, [['Spread', '12']], { kind: 'noise', spread: 12, of: 'percent' }],
  ])('%s says what it is', async (option, typed, mask) => {
    const user = edited({ mask: { kind: 'digest', keyed: 'organisation' } });
    await choose(user, 'How', option);
    for (const [label, text] of typed) await type(user, label, text);
    expect(await save(user)).toMatchObject({ mask });
  });

  it('of all columns but some', async () => {
    const user = edited({ columns: ['price'] });
    await choose(user, 'Which of its columns', /^all but$/);
    expect(await save(user)).toMatchObject({ columns: ['price'], columnsBut: true });
  });
});

describe('rows', () => {
  it('are told only together, so many as is said', async () => {
    const user = edited();
    await choose(user, 'How', /^groups/);
    await type(user, 'Column that limits rows', 'guest_id');
    const many = screen.getByLabelText('So many different values are told together');
    await user.clear(many);
    await user.type(many, '12');
    const rows = { column: 'guest_id', values: [], attribute: null, through: null };
    expect(await save(user)).toMatchObject({ mask: null, rows: { ...rows, least: 12 } });
    await choose(user, 'How', /^rows/);
    await type(user, 'Column that limits rows', 'port');
    await type(user, 'Values of permitted rows', 'Ulvey{Enter}');
    await user.click(screen.getByRole('button', { name: 'Save policy' }));
    await waitFor(() =>
      expect(saved()).toMatchObject({ rows: { column: 'port', values: ['Ulvey'], attribute: null, through: null } }),
    );
    expect((saved() as { rows: object }).rows).not.toHaveProperty('least');
  });

  it('are limited by what the reader has, or by a table that says it', async () => {
    served['GET /assets'] = {
      items: [{ id: 'r', kind: 'table', path: 'ops.rights', source: 'Warehouse' }],
      total: 1,
      next: null,
      readAs: null,
    };
    served['GET /assets/r'] = { id: 'r', kind: 'table', path: 'ops.rights', source: 'Warehouse' };
    const user = edited();
    await choose(user, 'How', /^rows/);
    await type(user, 'Column that limits rows', 'port');
    await choose(user, 'By what rows are limited', /^is what the reader has as$/);
    // Nothing is asked of the server before it is said by what.
    expect(await screen.findByText(/Say for whom the policy is and what it holds for/)).toBeTruthy();
    await type(user, 'What is known of the reader', 'port');
    expect(await save(user)).toMatchObject({
      mask: null,
      rows: { column: 'port', values: [], attribute: 'port', through: null },
    });
    await choose(user, 'By what rows are limited', /^is given to the reader by$/);
    await choose(user, 'Table of rights', /ops.rights/);
    await type(user, 'Column of the permitted values', 'port');
    await type(user, 'Column that names the reader', 'login');
    await user.click(screen.getByRole('button', { name: 'Save policy' }));
    await waitFor(() =>
      expect(saved()).toMatchObject({
        rows: { attribute: null, through: { tableId: 'r', column: 'port', reader: 'login', by: 'email' } },
      }),
    );
  });
});

describe('a filter', () => {
  it('is told what is wrong with it where it is written, and reaches nothing until it can be read', async () => {
    const user = edited({ assetIds: [], assets: [] });
    const field = await screen.findByLabelText('Filter', { selector: 'input' });
    await user.type(field, 'tag:personal guests');
    await user.tab();
    expect((await screen.findByRole('alert')).textContent).toMatch(/A policy does not hold by words: “guests”/);
    expect(await screen.findByText(/Say for whom the policy is and what it holds for/)).toBeTruthy();
    await user.clear(field);
    await user.type(field, 'tag:personal');
    await user.tab();
    expect(await screen.findByText(/Whatever comes to match tag:personal later will be reached as well/)).toBeTruthy();
    expect(await save(user)).toMatchObject({ filter: 'tag:personal' });
  });
});

describe('conditions', () => {
  it('end with a day, hold on days and hours, and ask for a purpose', async () => {
    const user = edited({ effect: 'allow', mask: null });
    const until = await screen.findByLabelText('Until the end of', { selector: 'input' });
    await user.type(until, '2099-12-31');
    await user.type(screen.getByLabelText('Only for who states as purpose', { selector: 'input' }), 'Audit{Enter}');
    await user.click(screen.getByLabelText('Only on days and hours'));
    await user.click(screen.getByLabelText('Friday'));
    const body = await save(user);
    expect(body).toMatchObject({
      purposes: ['Audit'],
      hours: { days: [1, 2, 3, 4], from: '08:00', to: '18:00', zone: expect.any(String) },
    });
    expect(lastDay(String(body?.until))).toBe('2099-12-31');
  });

  it('count days where one looks', () => {
    for (const day of ['2026-12-31', '2028-02-29', '2026-03-29', '0002-01-31'])
      expect(lastDay(afterDay(day) ?? '')).toBe(day);
    expect(afterDay('')).toBeNull();
  });
});

describe('the reach', () => {
  it('tells who would get other rows, and what is in use', async () => {
    served['POST /policies/reach'] = {
      ...REACH,
      limited: [
        {
          personId: 'b',
          person: 'Bettina',
          tableId: 't',
          table: 'core.fare',
          before: [],
          after: ['only rows where a is b'],
        },
      ],
      used: [
        {
          personId: 'b',
          person: 'Bettina',
          tableId: 't',
          table: 'core.fare',
          column: null,
          at: '2026-11-20T10:00:00Z',
          times: 4,
        },
      ],
    };
    edited();
    expect(await screen.findByText('1 person would read other rows of 1 table.')).toBeTruthy();
    expect(screen.getByRole('row', { name: /Bettina core.fare all rows only rows where a is b/ })).toBeTruthy();
    expect(screen.getByRole('row', { name: /Bettina rows of core.fare 4 times/ })).toBeTruthy();
  });
});

describe('what was given on', () => {
  it('says who gave it, can be removed, and is not changed', async () => {
    served['GET /policies'] = [policy({ effect: 'allow', mask: null, givenBy: 'Rafe' })];
    show(<PolicyEditor id="one" close={() => undefined} />);
    expect(await screen.findByText(/Rafe gave it on/)).toBeTruthy();
    expect((screen.getByRole('button', { name: 'Save policy' }) as HTMLButtonElement).disabled).toBe(true);
    expect((screen.getByRole('button', { name: 'Remove' }) as HTMLButtonElement).disabled).toBe(false);
  });
});

describe('a policy that lets be seen', () => {
  it('says whom and what alone; what was chosen beside that stays for who chooses anew', async () => {
    served['POST /policies/reach'] = {
      ...REACH,
      sight: {
        gains: 1,
        losses: 2,
        assets: 7,
        rows: [
          { personId: 'p', person: 'Maud', assetId: 't', kind: 'table', path: 'core.fare', comes: true },
          { personId: 'q', person: 'Olav', assetId: 't', kind: 'table', path: 'core.fare', comes: false },
        ],
      },
    };
    const user = edited({ effect: 'allow', mask: null, columns: ['price'], purposes: ['audit'], passesOn: true });
    expect(await screen.findByLabelText('Only for who states as purpose', { selector: 'input' })).toBeTruthy();
    await choose(user, 'How far it opens', /^to see the pages of$/);
    for (const gone of ['Which of its columns', 'How', 'Only for who states as purpose'])
      expect(screen.queryByRole('combobox', { name: gone })).toBeNull();
    expect(screen.queryByRole('switch', { name: /They may give it on/ })).toBeNull();
    expect(screen.queryByRole('switch', { name: /Only on days and hours/ })).toBeNull();
    expect(
      await screen.findByText(
        /1 person comes to see, 2 people see no more that 7 assets are there, and what they mean/,
      ),
    ).toBeTruthy();
    const who = within(screen.getByRole('region', { name: 'Who sees it' }));
    expect(who.getByRole('row', { name: /Maud.*core.fare is seen$/ })).toBeTruthy();
    expect(who.getByRole('row', { name: /Olav.*core.fare is seen no more$/ })).toBeTruthy();
    const sent = { opens: 'see', assetIds: ['t'], columns: null, columnsBut: false, purposes: [], passesOn: false };
    await waitFor(() =>
      expect(asked.findLast(({ path }) => path === '/policies/reach')?.body).toMatchObject({ draft: sent }),
    );
    await choose(user, 'How far it opens', /^to read$/);
    expect(await screen.findByRole('combobox', { name: 'Which of its columns' })).toHaveProperty('value', 'only');
    await choose(user, 'How far it opens', /^to see the pages of$/);
    expect(await save(user)).toMatchObject(sent);
  });

  it('says so where nobody comes to see anything', async () => {
    edited({ effect: 'allow', mask: null, opens: 'see' });
    expect(await screen.findByText(/Nobody sees more or less/)).toBeTruthy();
    expect(screen.getByText(/No values are read by it/)).toBeTruthy();
  });
});
