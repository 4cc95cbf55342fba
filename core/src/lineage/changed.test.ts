import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser } from '../sql/index.ts';
import { changesBetween, madeByScripts, type ScriptFile } from './index.ts';

beforeAll(() => loadParser());

const TABLES = 'create table s.a (id int, email text, born date, amount numeric(9,2));';
const script = (path: string, text: string): ScriptFile => ({ path, text });
const changes = (before: readonly ScriptFile[], after: readonly ScriptFile[]) =>
  changesBetween(madeByScripts(before), madeByScripts(after)).map(
    ({ what, schema, relation, column, before: was, after: now }) =>
      `${what} ${schema}.${relation}${column ? `.${column}` : ''}${was || now ? `: ${was ?? ''} → ${now ?? ''}` : ''}`,
  );
const view = (query: string) => [script('1.sql', TABLES), script('2.sql', `create view s.v as ${query}`)];

describe('what is different between two states of scripts', () => {
  it.each([
    [
      'columns that a view no longer has',
      view('select id, email from s.a'),
      view('select id from s.a'),
      ['dropped s.v.email'],
    ],
    [
      'columns that go by another name',
      view('select id, email from s.a'),
      view('select id, email as mail from s.a'),
      ['renamed s.v.email: email → mail'],
    ],
    [
      'columns that are made of something else',
      view('select id, email from s.a'),
      view('select id, lower(email) as email from s.a'),
      ['made otherwise s.v.email: s.a.email → s.a.email (transformed)'],
    ],
    ['columns that came', view('select id from s.a'), view('select id, born from s.a'), ['added s.v.born']],
    [
      'what a new migration alters',
      [script('1.sql', TABLES)],
      [
        script('1.sql', TABLES),
        script(
          '2.sql',
          'alter table s.a drop column born; alter table s.a alter column amount type numeric(12,4); alter table s.a add column note text; alter table s.a rename column email to mail;',
        ),
      ],
      [
        'dropped s.a.born',
        'renamed s.a.email: email → mail',
        'retyped s.a.amount: numeric(9,2) → numeric(12,4)',
        'added s.a.note',
      ],
    ],
    [
      'tables that go, and come',
      [script('1.sql', TABLES)],
      [script('1.sql', 'create table s.b (x int)')],
      ['dropped s.a', 'added s.b'],
    ],
    [
      'what a load fills otherwise',
      [script('1.sql', TABLES), script('2.sql', 'create table s.b (m text); insert into s.b select email from s.a')],
      [
        script('1.sql', TABLES),
        script('2.sql', 'create table s.b (m text); insert into s.b select md5(email) from s.a'),
      ],
      ['made otherwise s.b.m: s.a.email → s.a.email (masked)'],
    ],
    [
      'nothing where only words or the order of statements differ',
      [script('1.sql', TABLES), script('2.sql', 'create view s.v as select id from s.a')],
      [script('1.sql', `-- the tables\n${TABLES}\ncreate view s.v as SELECT a.id FROM s.a AS a;`)],
      [],
    ],
  ])('tells %s', (_, before, after, expected) => expect(changes(before, after)).toEqual(expected));

  it('is nothing between a state and itself, and turns round with its states', () => {
    const columns = fc.uniqueArray(fc.constantFrom('id', 'email', 'born', 'amount'), { minLength: 1 });
    fc.assert(
      fc.property(columns, columns, (one, other) => {
        const [a, b] = [one, other].map((names) => view(`select ${names.join(', ')} from s.a`));
        expect(changes(a ?? [], a ?? [])).toEqual([]);
        const there = changesBetween(madeByScripts(a ?? []), madeByScripts(b ?? []));
        const back = changesBetween(madeByScripts(b ?? []), madeByScripts(a ?? []));
        const count = (list: typeof there, what: string) => list.filter((change) => change.what === what).length;
        expect(count(there, 'dropped')).toBe(count(back, 'added'));
        expect(count(there, 'renamed')).toBe(count(back, 'renamed'));
      }),
      { numRuns: 60 },
    );
  });

  it('names what could not be read, by its script', () => {
    expect(madeByScripts([script('bad.sql', 'select;\nselec 1;')]).unresolved).toMatchObject([
      { path: 'bad.sql', line: 2, lost: true },
    ]);
  });
});
