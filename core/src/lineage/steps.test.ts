import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser } from '../sql/index.ts';
import { readRoutineText, readScript, SchemaCatalog } from './index.ts';

const DDL = `
  create table s.person (id int, name text, born date, mail text);
  create table s.sale (id int, person_id int, amount numeric, at timestamp);
  create table s.total (person_id int, name text, amount numeric);
`;
beforeAll(loadParser);

/** The edges of a script, each with what happens to the value. */
function edges(sql: string, dialect: 'postgresql' | 'mariadb' = 'postgresql'): string[] {
  const catalog = new SchemaCatalog(['s'], dialect);
  readScript(DDL, catalog);
  return readScript(sql, catalog).statements.flatMap((one) =>
    one.edges.map(
      ({ from, to, expressions = [] }) => `${from.column} > ${to}: ${expressions.join(' → ') || 'as it is'}`,
    ),
  );
}

describe('what happens to a value', () => {
  it('is told in SQL for what is transformed, aggregated and masked; what comes as it is needs no words', () => {
    expect(
      edges(`create view s.v as
        select p.id, upper(p.name)   as name, extract(year from p.born) as year,
          left(p.mail, 1) || '***' as mail, p.born as birthday
        from s.person p`),
    ).toEqual([
      'id > id: as it is',
      'name > name: upper(p.name)',
      'born > year: EXTRACT(YEAR FROM p.born)',
      `mail > mail: "left"(p.mail, 1) || '***'`,
      'born > birthday: as it is',
    ]);
    expect(edges('create view s.v as select person_id, sum(amount) from s.sale group by 1')).toEqual([
      'person_id > person_id: as it is',
      'amount > sum: sum(amount)',
    ]);
  });

  it('is told step by step where it goes through queries within queries', () => {
    expect(
      edges(`create view s.v as
        with clean as (select id, trim(name) as name from s.person)
        select upper(c.name) as loud, c.name as quiet from (select * from clean) c`),
    ).toEqual(['name > loud: TRIM(BOTH FROM name) → upper(c.name)', 'name > quiet: TRIM(BOTH FROM name)']);
  });

  it('is told of statements that write; of branches that do the same to a value, of the first', () => {
    expect(
      edges(`
        insert into s.total (person_id, name, amount)
        select p.id, coalesce(p.name, '?'), sum(s.amount) from s.person p join s.sale s on s.person_id = p.id group by 1, 2
        on conflict (person_id) do update set amount = s.total.amount + excluded.amount;
        update s.total t set name = initcap(p.name), amount = amount * 2 from s.person p where p.id = t.person_id;
        merge into s.total t using s.sale s on s.person_id = t.person_id
          when matched then update set amount = t.amount + s.amount
          when not matched then insert (person_id, amount) values (s.person_id, round(s.amount));`),
    ).toEqual([
      'id > person_id: as it is',
      "name > name: COALESCE(p.name, '?')",
      'amount > amount: sum(s.amount)',
      'amount > amount: s.total.amount + excluded.amount',
      'name > name: initcap(p.name)',
      'amount > amount: amount * 2',
      'amount > amount: t.amount + s.amount',
      'amount > amount: t.amount + s.amount',
      'person_id > person_id: as it is',
    ]);
  });

  it('counts of several ways as the edge does: of the one that passes most on', () => {
    expect(
      edges(`create view s.v as select md5(mail) as x from s.person union all select lower(mail) from s.person`),
    ).toEqual(['mail > x: lower(mail)']);
    expect(edges('create view s.v as select name from s.person union all select lower(name) from s.person')).toEqual([
      'name > name: lower(name)',
    ]);
  });

  it('ends where a query reads itself, and is cut where it is long', () => {
    expect(
      edges(`create view s.v as
        with recursive r as (select id, 1 as depth from s.person union all select id + depth, depth + 1 from r where depth < 9)
        select id from r`),
    ).toEqual(['id > id: id + depth']);
    const [long] = edges(
      `create view s.v as select ${Array.from({ length: 90 }, () => 'upper(name)').join(' || ')} as x from s.person`,
    );
    expect(long).toMatch(/^name > x: \(+upper\(name\) \|\| .{190,}…$/);
    expect(long?.length).toBeLessThan(330);
  });

  it('is told of bodies of functions and of statements of MariaDB, as far as their trees tell it', () => {
    const catalog = new SchemaCatalog(['s']);
    readScript(DDL, catalog);
    const { statements } = readRoutineText(
      'create function s.f() returns void language plpgsql as $$ begin insert into s.total (name) select upper(name) from s.person; end $$',
      catalog,
    );
    expect(statements.flatMap((one) => one.edges.map(({ expressions }) => expressions))).toEqual([['upper(name)']]);
    expect(edges('insert into total (name) select concat(name, `mail`) from person', 'mariadb')).toEqual([
      'name > name: concat(name, mail)',
      'mail > name: concat(name, mail)',
    ]);
  });
});
