import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser } from '../sql/index.ts';
import { readRoutineText, readScript, SchemaCatalog } from './index.ts';

beforeAll(() => loadParser());

const DDL = `
create table s.passenger (id int, email text, name text, born date, notes text);
create table s.booking (id int, passenger_id int, fare numeric, state text, search text);
create table s.mail (booking_id int, address text, subject text);
create table s.log (what text, of_row int, at timestamptz, old_value text);
create table s.total (state text, fares numeric, bookings int);
create table s.setting (key text, value text);`;

function schema(): SchemaCatalog {
  const catalog = new SchemaCatalog(['pg_catalog', 's', 'public']);
  readScript(DDL, catalog);
  return catalog;
}

/** What a body does, in short form: `passenger.email>mail.address:copied` for values, `booking.state?mail:filter` for rows. */
function told(read: ReturnType<typeof readRoutineText>) {
  const written = read.statements.filter(({ kind }) => kind !== 'function');
  return {
    values: [
      ...new Set(
        written.flatMap(({ edges, target }) =>
          edges.map(({ from, to, kind }) => `${from.relation}.${from.column}>${target.relation}.${to}:${kind}`),
        ),
      ),
    ].sort(),
    rows: [
      ...new Set(
        written.flatMap(({ influences, target }) =>
          influences
            .filter(({ kind }) => kind !== 'unused')
            .map(({ from, kind }) => `${from.relation}.${from.column}?${target.relation}:${kind}`),
        ),
      ),
    ].sort(),
    reasons: read.unresolved.map(({ reason }) => reason),
  };
}

const body = (statements: string, declare = '', head = 'f() returns void') =>
  `create function s.${head} language plpgsql as $f$\n${declare ? `declare ${declare}` : ''}\nbegin\n${statements}\nend $f$`;
const of = (statements: string, declare?: string, head?: string) =>
  told(readRoutineText(body(statements, declare, head), schema()));

describe('the body of a function in PL/pgSQL', () => {
  it.each([
    [
      'writes what its statements write',
      'insert into mail (booking_id, address) select b.id, p.email from booking b join passenger p on p.id = b.passenger_id;',
      '',
      ['booking.id>mail.booking_id:copied', 'passenger.email>mail.address:copied'],
    ],
    [
      'carries what was selected into a variable',
      'select email into v from passenger where id = 1; insert into mail (address) values (v);',
      'v text;',
      ['passenger.email>mail.address:copied'],
    ],
    [
      'carries what is assigned on, through several variables',
      "select email, name into strict v, w from passenger; v := lower(v); u := w || '!'; insert into mail (address, subject) values (v, u);",
      'v text; w text; u text;',
      ['passenger.email>mail.address:transformed', 'passenger.name>mail.subject:transformed'],
    ],
    [
      'carries what a declaration gives',
      'insert into mail (address) values (v);',
      "v text := (select value from setting where key = 'sender');",
      ['setting.value>mail.address:copied'],
    ],
    [
      'knows the columns of a record that a loop goes over',
      'for r in select email, born from passenger loop insert into mail (address, subject) values (r.email, r.born::text); end loop;',
      'r record;',
      ['passenger.born>mail.subject:transformed', 'passenger.email>mail.address:copied'],
    ],
    [
      'knows the row of a table',
      'select * into p from passenger; insert into mail (address) values (p.email);',
      'p passenger%rowtype;',
      ['passenger.email>mail.address:copied'],
    ],
    [
      'puts into a field of a row',
      'p.name := (select state from booking limit 1); insert into mail (subject) values (p.name);',
      'p s.passenger%rowtype;',
      ['booking.state>mail.subject:copied'],
    ],
    [
      'passes a row on to another variable',
      'select * into p from passenger; q := p; insert into mail (address) values (q.email);',
      'p passenger; q record;',
      ['passenger.email>mail.address:copied'],
    ],
    [
      'goes through a cursor',
      'open c; loop fetch c into v, w; exit when not found; insert into mail (address, subject) values (v, w); end loop; close c;',
      'c cursor for select email, name from passenger; v text; w text;',
      ['passenger.email>mail.address:copied', 'passenger.name>mail.subject:copied'],
    ],
    [
      'goes through a cursor that is opened for a query',
      'open c for select email from passenger; fetch c into v; insert into mail (address) values (v);',
      'c refcursor; v text;',
      ['passenger.email>mail.address:copied'],
    ],
    [
      'goes over a cursor in a loop',
      'for r in c loop insert into mail (address) values (r.email); end loop;',
      'c cursor for select * from passenger;',
      ['passenger.email>mail.address:copied'],
    ],
    [
      'takes what a statement returns',
      'update booking set state = upper(state) returning id, fare into v, w; insert into total (bookings, fares) values (v, w);',
      'v int; w numeric;',
      [
        'booking.fare>total.fares:copied',
        'booking.id>total.bookings:copied',
        'booking.state>booking.state:transformed',
      ],
    ],
    [
      'aggregates on the way',
      'select sum(fare), count(id) into v, w from booking; insert into total (fares, bookings) values (round(v), w);',
      'v numeric; w int;',
      ['booking.fare>total.fares:aggregated', 'booking.id>total.bookings:aggregated'],
    ],
    [
      'collects in a loop over itself',
      "for r in select name from passenger loop v := v || ', ' || r.name; end loop; insert into mail (subject) values (v);",
      'r record; v text;',
      ['passenger.name>mail.subject:transformed'],
    ],
    [
      'hides what a digest hides',
      'select md5(email) into v from passenger; insert into mail (address) values (v);',
      'v text;',
      ['passenger.email>mail.address:masked'],
    ],
    [
      'passes a value on as it is where one way does, whatever another hides',
      'if found then select email into v from passenger; else select md5(email) into v from passenger; end if; insert into mail (address) values (v);',
      'v text;',
      ['passenger.email>mail.address:copied'],
    ],
    [
      'leaves temporary tables out that stand between',
      'create temporary table t on commit drop as select id, lower(email) as mail from passenger where born is not null; create temp table u (m text, b int); insert into u select t.mail, b.id from t join booking b on b.passenger_id = t.id; insert into mail (address, booking_id) select m, b from u;',
      '',
      ['booking.id>mail.booking_id:copied', 'passenger.email>mail.address:transformed'],
    ],
    [
      'reads a merge',
      'merge into total t using (select state, sum(fare) as f from booking group by state) b on b.state = t.state when matched then update set fares = b.f when not matched then insert (state, fares) values (b.state, b.f);',
      '',
      ['booking.fare>total.fares:aggregated', 'booking.state>total.state:copied'],
    ],
    [
      'goes over a list',
      'select array_agg(email) into l from passenger; foreach v in array l loop insert into mail (address) values (v); end loop;',
      'l text[]; v text;',
      ['passenger.email>mail.address:aggregated'],
    ],
    [
      'reads what stands where something went wrong',
      'begin perform 1; exception when others then insert into log (what) select state from booking; end;',
      '',
      ['booking.state>log.what:copied'],
    ],
    [
      'knows names with the label of their block, or of the function',
      'select email into v from passenger; insert into mail (address, subject) values (outer_block.v, f.given);',
      '',
      [],
    ],
  ])('%s', (_, statements, declare, values) => {
    const read =
      values.length === 0
        ? told(
            readRoutineText(
              `create function s.f(given text) returns void language plpgsql as $f$ <<outer_block>> declare v text; begin ${statements} end $f$`,
              schema(),
            ),
          )
        : of(statements, declare);
    expect(read.values).toEqual(values.length > 0 ? values : ['passenger.email>mail.address:copied']);
    expect(read.reasons).toEqual([]);
  });

  it.each([
    [
      'a condition decides the rows of what stands under it',
      "if exists (select 1 from setting where key = 'send') then insert into mail (address) select email from passenger; end if;",
      ['setting.key?mail:filter'],
    ],
    [
      'so does each one before, for a later branch',
      "select value into v from setting; if v = 'a' then null; elsif (select count(*) from booking where fare > 9) > 1 then null; else insert into mail (subject) values ('x'); end if;",
      ['booking.fare?mail:filter', 'setting.value?mail:filter'],
    ],
    [
      'and what a loop goes over',
      "for r in select email from passenger where born > '2000-01-01' loop insert into mail (address) values (r.email); end loop;",
      ['passenger.born?mail:filter'],
    ],
    [
      'and a case',
      "select state into v from booking; case v when 'open' then delete from mail where subject = 'old'; else null; end case;",
      ['booking.state?mail:filter', 'mail.subject?mail:filter'],
    ],
    [
      'and a variable in a condition of SQL',
      'select id into i from passenger order by born limit 1; delete from booking where passenger_id = i;',
      ['booking.passenger_id?booking:filter', 'passenger.born?booking:sort', 'passenger.id?booking:filter'],
    ],
    [
      'and the rows of a temporary table',
      'create temp table t as select id from passenger where notes is null; insert into mail (booking_id) select id from t;',
      ['passenger.notes?mail:filter'],
    ],
  ])('%s', (_, statements, rows) => {
    const read = of(statements, 'v text; r record; i int;');
    expect(read.rows).toEqual(expect.arrayContaining(rows));
    expect(read.reasons).toEqual([]);
  });

  it('says on which line what stands', () => {
    const { statements } = readRoutineText(
      body(
        "perform 1;\ninsert into mail (subject) values ('x');\n\ninsert into log (what)\nselect name from passenger;",
      ),
      schema(),
    );
    expect(statements.map(({ line, statement }) => [line, statement.split('\n')[0]])).toEqual([
      [5, "insert into mail (subject) values ('x')"],
      [7, 'insert into log (what)'],
    ]);
  });

  it('gives what it returns', () => {
    const gives = (head: string, statements: string, declare = '') =>
      readRoutineText(body(statements, declare, head), withColumns())
        .statements.filter(({ kind }) => kind === 'function')
        .flatMap(({ edges }) => edges.map(({ from, to, kind }) => `${from.relation}.${from.column}>${to}:${kind}`));
    const withColumns = () => {
      const catalog = schema();
      catalog.addFunction({ schema: 's', name: 'rows_of', aggregate: false, columns: ['who', 'owes'] });
      catalog.addFunction({ schema: 's', name: 'outs', aggregate: false, columns: ['a', 'b'] });
      return catalog;
    };
    expect(gives('one() returns text', 'select email into v from passenger; return upper(v);', 'v text;')).toEqual([
      'passenger.email>one:transformed',
    ]);
    expect(
      gives(
        'rows_of() returns table (who text, owes numeric)',
        'return query select p.name, sum(b.fare) from passenger p join booking b on b.passenger_id = p.id group by 1;',
      ),
    ).toEqual(['passenger.name>who:copied', 'booking.fare>owes:aggregated']);
    expect(gives('outs(out a text, out b int)', 'select state, id into a, b from booking;').sort()).toEqual([
      'booking.id>b:copied',
      'booking.state>a:copied',
    ]);
    expect(
      gives(
        'rows_of() returns table (who text, owes numeric)',
        'for who, owes in select name, 1 from passenger loop return next; end loop;',
      ),
    ).toEqual(['passenger.name>who:copied']);
  });

  it('looks for names where the function says', () => {
    const catalog = schema();
    readScript('create table other.passenger (id int, email text);', catalog);
    const { statements } = readRoutineText(
      "create function s.f() returns void language plpgsql set search_path to 'other', 's' as $f$ begin insert into mail (address) select email from passenger; end $f$",
      catalog,
    );
    expect(statements[0]?.edges.map(({ from }) => from.schema)).toEqual(['other']);
  });
});

describe('a statement that is put together when it runs', () => {
  it.each([
    [
      'is read where its text is known',
      "execute 'insert into mail (address) select email from passenger';",
      ['passenger.email>mail.address:copied'],
      [],
    ],
    [
      'also by way of a variable, and filled in',
      "v := format('insert into %I (%s) select email from %I.%I', 'mail', 'address', 's', 'passenger'); execute v;",
      ['passenger.email>mail.address:copied'],
      [],
    ],
    [
      'with what it is given',
      "select email into v from passenger; execute 'insert into mail (subject, address) values ($2, $1)' using v, 'x';",
      ['passenger.email>mail.address:copied'],
      [],
    ],
    [
      'as far as it is known, and what is not is said',
      "execute 'insert into mail (address, subject) select email, ' || quote_ident(w) || ' from passenger';",
      ['passenger.email>mail.address:copied'],
      [
        'dynamic SQL: what stands as … is known only when it runs: of its text is known: insert into mail (address, subject) select email, "…" from passenger',
      ],
    ],
    [
      'with no end in a table that is not known',
      "execute format('insert into %I select email from passenger', w);",
      [],
      [
        'dynamic SQL: what stands as … is known only when it runs: of its text is known: insert into "…" select email from passenger',
      ],
    ],
    ['is said where nothing is known', 'execute w;', [], ['dynamic SQL: the statement is put together when it runs']],
    [
      'moves nothing where it only defines',
      "execute format('drop table %I', w); execute format('grant select on mail to %I', w);",
      [],
      [],
    ],
    [
      'gives what a loop goes over',
      "for r in execute 'select email from passenger' loop insert into mail (address) values (r.email); end loop;",
      ['passenger.email>mail.address:copied'],
      [],
    ],
  ])('%s', (_, statements, values, reasons) => {
    const read = of(statements, 'v text; r record;', 'f(w text) returns void');
    expect(read.values).toEqual(values);
    expect(read.reasons).toEqual(reasons);
  });
});

describe('a trigger', () => {
  const trigger = (statements: string, tables = ['booking'], declare = '') =>
    told(
      readRoutineText(
        body(statements, declare, 'f() returns trigger'),
        schema(),
        tables.map((relation) => ({ schema: 's', relation })),
      ),
    );

  it('carries the row of its table on, and changes it', () => {
    const read = trigger(
      'new.search := lower(new.state); insert into log (what, of_row, old_value) values (tg_op, new.id, old.state); return new;',
    );
    expect(read).toEqual({
      values: [
        'booking.id>log.of_row:copied',
        'booking.state>booking.search:transformed',
        'booking.state>log.old_value:copied',
      ],
      rows: [],
      reasons: [],
    });
  });

  it('fills its row from another table', () => {
    expect(
      trigger('select name into new.search from passenger where id = new.passenger_id; return new;'),
    ).toMatchObject({
      values: ['passenger.name>booking.search:copied'],
      rows: expect.arrayContaining(['passenger.id?booking:filter', 'booking.passenger_id?booking:filter']),
    });
  });

  it('is read for each table it stands on, and knows which it is', () => {
    expect(
      trigger(
        "execute format('insert into log (what, of_row) select %L, ($1).id', tg_table_name) using new; return null;",
        ['booking', 'passenger'],
      ).reasons,
    ).toEqual([]);
    expect(trigger('insert into log (of_row) values (new.id); return null;', ['booking', 'passenger']).values).toEqual([
      'booking.id>log.of_row:copied',
      'passenger.id>log.of_row:copied',
    ]);
  });

  it('is read in a script once it is put on a table', () => {
    const catalog = schema();
    const { statements, unresolved } = readScript(
      `create function s.keep() returns trigger language plpgsql as $$ begin insert into s.log (of_row) values (new.id); return new; end $$;
       create trigger kept after insert on s.booking for each row execute function s.keep();
       do $$ begin insert into s.mail (address) select email from s.passenger; end $$;
       create temp table t as select email from s.passenger;
       insert into s.mail (address) select lower(email) from t;`,
      catalog,
    );
    expect(
      statements.flatMap(({ edges, target, line }) =>
        edges.map(({ from, to }) => [line, `${from.relation}.${from.column}>${target.relation}.${to}`]),
      ),
    ).toEqual([
      [1, 'booking.id>log.of_row'],
      [3, 'passenger.email>mail.address'],
      [5, 'passenger.email>mail.address'],
    ]);
    expect(unresolved).toEqual([]);
  });
});

describe('what cannot be read', () => {
  it.each([
    [
      'a language that is not read',
      'create function s.f() returns int language plpython3u as $$ return 1 $$',
      'the body of a function in this language (plpython3u) is not read',
    ],
    [
      'a body that is not PL/pgSQL',
      'create function s.f() returns int language plpgsql as $$ begin bad bad bad; end $$',
      'the body cannot be read: syntax error at or near "bad"',
    ],
  ])('%s is said', (_, sql, reason) => {
    const { statements, unresolved } = readRoutineText(sql, schema());
    expect(statements).toEqual([]);
    expect(unresolved).toMatchObject([{ reason, lost: true }]);
  });

  it('a statement inside a body is said with its line, and the others are read', () => {
    const { statements, unresolved } = readRoutineText(
      body(
        'insert into mail (address) select email from passenger;\ninsert into mail (address) select email from nowhere join nowhere2 using (x);',
      ),
      schema(),
    );
    expect(statements).toHaveLength(2);
    expect(unresolved.map(({ line }) => line)).toEqual([5]);
  });
});
