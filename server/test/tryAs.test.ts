import type { TableExplained } from '@idrel/contract/access';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { beside } from '../src/access/tryAs.ts';
import { salesPlace } from './sales.ts';

let place: Awaited<ReturnType<typeof salesPlace>>;
beforeAll(async () => {
  place = await salesPlace();
});
afterAll(() => place.drop());

const plain = (name: string): TableExplained['columns'][number] => ({
  name,
  access: 'plain',
  mask: null,
  instead: null,
  reasons: [{ policyId: 'a', policy: 'Sales reads', effect: 'allow' }],
});
const guests = (more: Partial<TableExplained> = {}): TableExplained => ({
  tableId: place.id('guest'),
  path: 'sales.guest',
  access: 'yes',
  columns: ['guest_id', 'email', 'port'].map(plain),
  purposes: [],
  rowLimits: [],
  ...more,
});
/** The e-mail addresses are masked for them, the port is kept from them, and so are rows. */
const theirs = (): TableExplained =>
  guests({
    access: 'partly',
    columns: [
      plain('guest_id'),
      {
        ...plain('email'),
        access: 'masked',
        mask: { kind: 'blank' },
        reasons: [
          { policyId: 'm', policy: 'Mails are blank', effect: 'protect' },
          { policyId: 'a', policy: 'Sales reads', effect: 'allow' },
        ],
      },
      { ...plain('port'), access: 'refused', reasons: [] },
    ],
    rowLimits: [{ column: 'port', values: ['Ulvey'], byRights: false, least: null, policy: 'Own port' }],
  });
const told = async (sql: string, mine: [string[], string[][]], other: [string[], string[][]]) => {
  const answer = await beside(
    place.db,
    sql,
    { columns: mine[0], rows: mine[1], tables: [guests()] },
    { columns: other[0], rows: other[1], tables: [theirs()] },
  );
  return {
    columns: answer.beside.map(
      ({ name, same, because }) => `${name}${same ? '' : `: ${because.join(', ') || 'otherwise'}`}`,
    ),
    pairs: answer.pairs.map(([left, right]) => `${left ?? '–'} ${right ?? '–'}`),
  };
};

it('finds rows again by what both get as it is, and says why the rest differs', async () => {
  expect(
    await told(
      'select * from sales.guest',
      [
        ['guest_id', 'email', 'port'],
        [
          ['1', 'a@x', 'Ulvey'],
          ['2', 'b@x', 'Sund'],
          ['3', 'c@x', 'Ulvey'],
        ],
      ],
      [
        ['guest_id', 'email'],
        [
          ['3', '•••'],
          ['1', '•••'],
        ],
      ],
    ),
  ).toEqual({
    columns: ['guest_id', 'email: Mails are blank', 'port: no policy allows it'],
    pairs: ['0 1', '1 –', '2 0'],
  });
});

it('says of what is counted that rows are missing in it, and puts rows beside each other by their places', async () => {
  expect(
    await told(
      'select count(*), max(guest_id) from sales.guest',
      [['count', 'max'], [['3', '3']]],
      [['count', 'max'], [['2', '3']]],
    ),
  ).toEqual({
    columns: ['count: Own port', 'max: Own port'],
    pairs: ['0 0'],
  });
  // A statement that cannot be traced: nothing is said to be the same.
  expect((await told('select from', [['a'], [['1']]], [['a'], [['1']]])).pairs).toEqual(['0 0']);
});
