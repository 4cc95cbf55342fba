import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { SchemaCatalog } from '../lineage/index.ts';
import { loadParser } from '../sql/index.ts';
import { besideColumns, pairRows } from './index.ts';

beforeAll(() => loadParser());

const catalog = () => {
  const made = new SchemaCatalog(['pg_catalog', 's']);
  made.addRelation({ schema: 's', name: 'guest', columns: ['id', 'mail', 'port', 'age'] });
  made.addRelation({ schema: 's', name: 'fare', columns: ['id', 'guest_id', 'amount'] });
  return made;
};
/** All but the mail is read as it is by both. */
const columns = (sql: string, yours: readonly string[], theirs: readonly string[] = yours) =>
  besideColumns(sql, catalog(), yours, theirs, (_schema, _relation, column) => column !== 'mail').map(
    ({ name, yours: left, theirs: right, same, ofMany }) =>
      `${left ?? '–'} ${right ?? '–'} ${name}${same ? '' : ' differs'}${ofMany ? ' of many' : ''}`,
  );

describe('columns of two results', () => {
  it('are the same where all that they come from is read as it is by both', () => {
    expect(columns('select id, mail, lower(port) as harbour from guest', ['id', 'mail', 'harbour'])).toEqual([
      '0 0 id',
      '1 1 mail differs',
      '2 2 harbour',
    ]);
    expect(columns('select port || mail as x, 1 as one from s.guest g', ['x', 'one'])).toEqual([
      '0 0 x differs',
      '1 1 one differs',
    ]);
    expect(
      columns(
        'select g.port, count(*) as n, max(f.amount) as most from guest g join fare f on f.guest_id = g.id group by 1',
        ['port', 'n', 'most'],
      ),
    ).toEqual(['0 0 port', '1 1 n differs', '2 2 most differs of many']);
    // A column of a subquery under another name.
    expect(columns('with x as (select mail as word, id from guest) select word, id from x', ['word', 'id'])).toEqual([
      '0 0 word differs',
      '1 1 id',
    ]);
  });

  it('stand at other places where one of them does not get all', () => {
    expect(columns('select * from guest', ['id', 'mail', 'port', 'age'], ['id', 'port', 'age'])).toEqual([
      '0 0 id',
      '1 – mail differs',
      '2 1 port',
      '3 2 age',
    ]);
    // Two of one name, of which one is missing: nobody can say which, so they are not the same.
    expect(columns('select f.id, g.id from fare f join guest g on true', ['id', 'id'])).toEqual(['0 0 id', '1 1 id']);
  });

  it('are none that rows are found by where the statement is not understood', () => {
    expect(columns('select from where', ['a'])).toEqual(['0 0 a differs']);
  });
});

describe('rows of two results', () => {
  const rows = (...texts: string[]) => texts.map((text) => text.split(' '));
  it('are found again by what is the same for both, and else by their places', () => {
    expect(pairRows(rows('1 a', '2 b', '3 c'), rows('3 *', '1 *'), [[0, 0]])).toEqual([
      [0, 1],
      [1, null],
      [2, 0],
    ]);
    expect(pairRows(rows('a 1', 'b 2'), rows('2', '9'), [[1, 0]])).toEqual([
      [0, null],
      [1, 0],
      [null, 1],
    ]);
    expect(pairRows(rows('a', 'b'), rows('*'), [])).toEqual([
      [0, 0],
      [1, null],
    ]);
  });

  it('each stand in one pair, and those paired are alike; as many as can be are', () => {
    const cell = fc.constantFrom('a', 'b', null);
    const result = fc.array(fc.tuple(cell, cell), { maxLength: 12 });
    fc.assert(
      fc.property(result, result, (yours, theirs) => {
        const pairs = pairRows(yours, theirs, [[0, 0]]);
        const all = (side: 0 | 1) => pairs.flatMap((pair) => pair[side] ?? []).sort((one, other) => one - other);
        expect(all(0)).toEqual(yours.map((_, at) => at));
        expect(all(1)).toEqual(theirs.map((_, at) => at));
        for (const [left, right] of pairs)
          if (left !== null && right !== null) expect(yours[left]?.[0]).toBe(theirs[right]?.[0]);
        // Of each value no row is left over on both sides.
        for (const value of ['a', 'b', null]) {
          const left = pairs.some(([one, other]) => one !== null && other === null && yours[one]?.[0] === value);
          const right = pairs.some(([one, other]) => one === null && other !== null && theirs[other]?.[0] === value);
          expect(left && right).toBe(false);
        }
      }),
    );
  });
});
