import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser } from '../sql/index.ts';
import { readAsked } from './asked.ts';
import { SchemaCatalog } from './schema.ts';

beforeAll(() => loadParser());

const asked = (sql: string) => {
  const catalog = new SchemaCatalog(['pg_catalog', 'public', 'shop']);
  catalog.addRelation({ schema: 'shop', name: 'sold', columns: ['id', 'port_id', 'amount', 'note'] });
  catalog.addRelation({ schema: 'shop', name: 'port', columns: ['id', 'name'] });
  catalog.addRelation({ schema: 'hr', name: 'pay', columns: ['id', 'amount'] });
  return readAsked(sql, catalog);
};
const reads = (sql: string) =>
  Object.fromEntries(
    (asked(sql)?.reads ?? []).map(({ schema, relation, column, how }) => [
      [schema, relation, column].filter(Boolean).join('.'),
      how.join(' '),
    ]),
  );

describe('what a statement asks for', () => {
  it('is its tables and columns, with what it does with each', () => {
    expect(
      reads(
        "select p.name, sum(s.amount) from sold s join port p on p.id = s.port_id where s.note = 'x' group by p.name order by p.name",
      ),
    ).toEqual({
      'shop.sold': '',
      'shop.port': '',
      'shop.port.name': 'shown group sort',
      'shop.sold.amount': 'shown',
      'shop.port.id': 'join',
      'shop.sold.port_id': 'join',
      'shop.sold.note': 'filter',
    });
    expect(reads('select count(*) from shop.sold')).toEqual({ 'shop.sold': '' });
    expect(reads('insert into port (id) select port_id from sold')).toEqual({
      'shop.port': 'written',
      'shop.sold': '',
      'shop.sold.port_id': 'shown',
    });
    expect(reads('with w as (select amount from sold) select * from w')).toEqual({
      'shop.sold': '',
      'shop.sold.amount': 'shown',
    });
  });

  it.each([
    ["select note from sold where note = 'Holm' and id in (1, 2, 3)", /^select note from sold where note = \$1/],
    ['select note /* of Ms Holm */ from sold -- Holm\n where id = 7', /^select note from sold where id = \$1$/],
    ["select note from sold where note = U&'H\\006Flm' or note = $$Holm$$ or note = E'Holm'", /\$3$/],
    [
      "select note, 'Ærø' as place from sold /* Ærø */ where note like 'Holm%'",
      /as place from sold where note like \$2$/,
    ],
  ])('is told without values and comments: %s', (sql, text) => {
    const found = asked(sql);
    expect(found?.text).toMatch(text);
    expect(found?.text).not.toMatch(/Holm|006F|Ærø|7/);
  });

  it('gives names to what it shows and to its own queries; columns that it writes are named by others', () => {
    const gives = (sql: string) => [...(asked(sql)?.gives ?? [])].sort();
    expect(gives('select s.id, sum(s.amount) as takings from sold s group by 1')).toEqual(['takings']);
    expect(
      gives(
        'with by_port as (select port_id as at from sold) select p.at as "Harbour Fee" from by_port p, (select 1 as one) as single',
      ),
    ).toEqual(['Harbour Fee', 'at', 'by_port', 'one', 'single']);
    expect(gives('insert into port (id, name) select port_id as fresh, note from sold')).toEqual(['fresh']);
  });

  it('is the same when values, comments and spacing alone differ', () => {
    const print = (sql: string) => asked(sql)?.print;
    const same = print('select id from sold where amount > 5');
    expect(print('select  id\nfrom sold where amount > 700 -- dear')).toBe(same);
    expect(print('select id from sold where id > 5')).not.toBe(same);
  });

  it.each([
    ['select id from sold', true],
    ['select id from sold, unknown.place', false],
    ['select id from sold, hr.pay', true],
    ['with pay as (select 1 as n) select id from sold, pay', true],
    // Nothing says whether the inner one is the table: only its schema on the path would.
    ['with port as (select * from port) select count(*) from port', false],
    ['select hr.grade_of(id) from sold', false],
    ['select id::hr.grade from sold', false],
    ['select id::int, lower(note) from sold', true],
    ['select shop.grade_of(id) from sold', true],
  ])('says whether all that it names is told: %s', (sql, whole) => {
    expect(asked(sql)?.whole).toBe(whole);
  });

  it('is nothing where it cannot be read, or names nothing that is known', () => {
    expect([
      asked('selec 1'),
      asked('select 1'),
      asked('select a from elsewhere'),
      asked('select 1; select 2'),
    ]).toEqual([null, null, null, null]);
  });
});
