import { describe, expect, it } from 'vitest';
import { loadParser, parseScript } from '../../sql/index.ts';
import { policyOf } from '../../testing/policies.ts';
import type { Person, Policy } from '../types.ts';
import {
  backText,
  bypassesOf,
  type ClosingWish,
  chainInWords,
  closingPlan,
  isAgainst,
  limitedThere,
  loginOf,
  loses,
  type NativeGrant,
  type NativeRole,
  type NativeTable,
  planText,
  rightInWords,
  rolesOf,
  suggester,
  waysInto,
} from './index.ts';

const role = (name: string, more: Partial<NativeRole> = {}): NativeRole => ({
  name,
  login: true,
  superuser: false,
  bypassesRows: false,
  scans: false,
  memberOf: [],
  ...more,
});
const roles = (...list: NativeRole[]) => new Map(list.map((one) => [one.name, one]));
const grant = (holder: string, more: Partial<NativeGrant> = {}): NativeGrant => ({
  holder,
  how: 'grant',
  passesOn: false,
  by: 'dba',
  since: '2026-03-01T00:00:00.000Z',
  ...more,
});
const OWNER = grant('dba', { how: 'owner', by: '' });
const table = (name: string, more: Partial<NativeTable> = {}): NativeTable => ({
  id: name,
  sourceId: 's',
  schema: 'mart',
  name,
  ancestors: [name, 'mart', 'db'],
  columns: ['id', 'email'].map((column) => ({
    id: `${name}.${column}`,
    name: column,
    type: 'text',
    classes: [],
    held: [],
    fewValues: false,
    origins: [],
  })),
  databaseGrants: [grant('')],
  schemaGrants: [grant('')],
  grants: [OWNER],
  columnGrants: new Map(),
  ownRows: 'none',
  levels: {},
  ...more,
});
const policy = (more: Partial<Policy> = {}): Policy => policyOf({ effect: 'deny', assets: ['mart'], ...more });
const maud: Person = {
  id: 'maud',
  groups: ['analysts'],
  email: 'maud@x.example',
  attributes: {},
  purpose: null,
  outside: false,
  share: null,
};
const as = (name: string, ...people: Person[]) => new Map([[name, { people, program: false }]]);

describe('ways into a table', () => {
  it('lead through roles, by the shortest chain, also in a ring', () => {
    const known = roles(
      role('maud', { memberOf: ['a', 'b'] }),
      role('a', { memberOf: ['c'] }),
      role('b', { memberOf: ['maud', 'deep'] }),
      role('c', { memberOf: ['deep'] }),
      role('deep'),
    );
    expect(rolesOf('maud', known).get('deep')).toEqual(['maud', 'b', 'deep']);
    expect([...rolesOf('maud', known).keys()]).toEqual(['maud', 'a', 'b', 'c', 'deep']);
  });

  it('need a way into the database and the schema, but for who reads all', () => {
    const known = roles(
      role('maud', { memberOf: ['reporting'] }),
      role('reporting', { login: false }),
      role('app', { memberOf: ['pg_read_all_data'] }),
      role('ops', { memberOf: ['pg_read_server_files'] }),
      role('root', { superuser: true }),
      role('pg_read_all_data', { login: false }),
    );
    const of = (name: string, more: Partial<NativeTable>) =>
      waysInto(table('t', { grants: [OWNER, grant('reporting')], ...more }), loginOf(name, known));
    expect(of('maud', {})).toMatchObject([
      { how: 'grant', holder: 'reporting', chain: ['maud', 'reporting'], columns: null },
    ]);
    expect(of('maud', { schemaGrants: [] })).toEqual([]);
    expect(of('maud', { schemaGrants: [grant('reporting', { how: 'owner' })] })).toHaveLength(1);
    expect(of('maud', { databaseGrants: [] })).toEqual([]);
    expect(of('app', { schemaGrants: [] })).toMatchObject([
      { how: 'reads all', holder: 'app', through: 'pg_read_all_data' },
    ]);
    expect(of('app', { databaseGrants: [] })).toEqual([]);
    expect(of('ops', { schemaGrants: [] })).toMatchObject([{ how: 'reads all', through: 'pg_read_server_files' }]);
    expect(of('root', { databaseGrants: [], schemaGrants: [], grants: [] })).toMatchObject([
      { how: 'superuser', holder: 'root' },
    ]);
    expect(() => loginOf('nobody', known)).toThrow('There is no role nobody.');
  });

  it('open columns where the right is one on columns', () => {
    const known = roles(role('maud'));
    const [way] = waysInto(
      table('t', { columnGrants: new Map([['t.email', [grant('maud')]]]) }),
      loginOf('maud', known),
    );
    expect(way).toMatchObject({ how: 'grant', holder: 'maud', columns: ['t.email'] });
  });

  it('are limited by row policies of the table, but for its owner and who passes them by', () => {
    const known = roles(role('maud', { memberOf: ['dba'] }), role('dba'), role('free', { bypassesRows: true }));
    const limited = (name: string, ownRows: NativeTable['ownRows'], grants: NativeGrant[]) => {
      const [one, login] = [table('t', { ownRows, grants }), loginOf(name, known)];
      return waysInto(one, login).map((way) => [way.how, limitedThere(one, login, way)]);
    };
    expect(limited('maud', 'on', [OWNER, grant('')])).toEqual([
      ['owner', false],
      ['grant', true],
    ]);
    expect(limited('maud', 'forced', [OWNER])).toEqual([['owner', true]]);
    expect(limited('free', 'forced', [grant('')])).toEqual([['grant', false]]);
    expect(limited('maud', 'none', [grant('')])).toEqual([['grant', false]]);
  });
});

describe('bypasses', () => {
  const known = roles(
    role('maud', { memberOf: ['reporting'] }),
    role('reporting', { login: false }),
    role('idrel_reader', { scans: true }),
    role('dba', { login: false }),
  );
  const open = table('t', { grants: [OWNER, grant('reporting'), grant('idrel_reader')] });

  it('are rights that give what a policy keeps from who comes in', () => {
    const [found, ...more] = bypassesOf(known, as('maud', maud), [policy()], [open, table('closed')]);
    expect(more).toEqual([]);
    expect(found).toMatchObject({
      how: 'grant',
      holder: 'reporting',
      schema: 'mart',
      since: '2026-03-01T00:00:00.000Z',
      tables: ['t'],
      logins: [{ login: 'maud', chain: ['maud', 'reporting'], people: ['maud'], program: false }],
    });
    expect(found?.columns.map(({ columnId, told }) => [columnId, told])).toEqual([
      ['t.id', 'refused'],
      ['t.email', 'refused'],
    ]);
  });

  it('are none where the policies are for others, or allow what is read', () => {
    const forOthers = policy({ everyone: false, groups: ['crewing'] });
    expect(bypassesOf(known, as('maud', maud), [forOthers], [open])).toEqual([]);
    const allow = policy({ id: 'a', effect: 'allow' });
    expect(bypassesOf(known, as('maud', maud), [allow], [{ ...open, levels: { 't.email': 3 } }])).toEqual([]);
  });

  it('hold for who comes in as a role of which nothing was said by the policies for everyone', () => {
    const forAnalysts = policy({ everyone: false, groups: ['analysts'] });
    expect(bypassesOf(known, new Map(), [forAnalysts], [open])).toEqual([]);
    expect(bypassesOf(known, as('maud', maud), [forAnalysts], [open])).toHaveLength(1);
    expect(bypassesOf(known, new Map(), [policy()], [open])[0]?.logins[0]?.people).toEqual([]);
  });

  it('open what no policy allows where it is sensitive, which is told after what a policy keeps', () => {
    const sensitive = table('other', {
      schema: 'raw',
      ancestors: ['other', 'raw', 'db'],
      grants: [grant('')],
      levels: { 'other.email': 3 },
    });
    const found = bypassesOf(known, as('maud', maud), [policy()], [sensitive, open]);
    expect(found.map((one) => [one.holder, isAgainst(one), one.columns.length])).toEqual([
      ['reporting', true, 2],
      ['', false, 1],
    ]);
  });

  it('count masks, and limits of rows where the source has none of its own', () => {
    const allow = policy({ id: 'a', effect: 'allow' });
    const mask = policy({ id: 'm', effect: 'protect', columns: ['email'], mask: { kind: 'blank' } });
    const rows = policy({
      id: 'r',
      effect: 'protect',
      rows: { column: 'id', values: ['1'], attribute: null, through: null },
    });
    const told = (policies: Policy[], one = open) =>
      bypassesOf(known, as('maud', maud), policies, [one]).flatMap(({ columns }) =>
        columns.map(({ column, told: how, reasons }) => [column, how, ...reasons.map(({ policyId }) => policyId)]),
      );
    expect(told([allow, mask])).toEqual([['email', 'masked', 'm']]);
    expect(told([allow, mask, rows])).toEqual([
      ['id', 'fewer rows', 'r'],
      ['email', 'masked', 'm'],
    ]);
    expect(told([allow, mask, rows], { ...open, ownRows: 'on' })).toEqual([['email', 'masked', 'm']]);
  });

  it('put together what several people are kept from', () => {
    const emrys: Person = { ...maud, id: 'emrys', groups: ['privacy'] };
    const policies = [
      policy({ id: 'a', effect: 'allow' }),
      policy({
        id: 'm',
        effect: 'protect',
        everyone: false,
        groups: ['analysts'],
        columns: ['email'],
        mask: { kind: 'blank' },
      }),
      policy({ id: 'd', everyone: false, groups: ['privacy'], columns: ['email'] }),
    ];
    const [found] = bypassesOf(known, as('maud', maud, emrys), policies, [open]);
    expect(found?.columns).toMatchObject([{ column: 'email', told: 'refused' }]);
    expect(found?.columns[0]?.reasons.map(({ policyId }) => policyId)).toEqual(['m', 'd']);
    expect(found?.logins[0]?.people).toEqual(['maud', 'emrys']);
  });
});

describe('a plan', () => {
  const wish = (more: Partial<ClosingWish> = {}): ClosingWish => ({
    how: 'grant',
    holder: 'reporting',
    through: null,
    tables: [],
    keep: new Map(),
    others: [],
    later: [],
    ...more,
  });

  it('takes a right away, keeps columns open that nobody keeps, and says how it was', () => {
    const one = table('t', { grants: [OWNER, grant('reporting', { passesOn: true })] });
    const { steps } = closingPlan(wish({ tables: [one], keep: new Map([['t', ['t.id']]]) }));
    expect(steps).toEqual([
      {
        why: 'reporting reads all of mart.t; id stays open',
        sql: 'REVOKE SELECT ON TABLE "mart"."t" FROM "reporting";\nGRANT SELECT ("id") ON TABLE "mart"."t" TO "reporting";',
        back: 'REVOKE SELECT ("id") ON TABLE "mart"."t" FROM "reporting";\nGRANT SELECT ON TABLE "mart"."t" TO "reporting" WITH GRANT OPTION;',
      },
    ]);
  });

  it('takes it away as who gave it, with what was given on', () => {
    const one = table('t', {
      grants: [OWNER, grant('reporting', { by: 'clerk', passesOn: true }), grant('maud', { by: 'reporting' })],
    });
    const { steps } = closingPlan(wish({ tables: [one] }));
    expect(steps[0]?.sql).toBe(
      'SET LOCAL ROLE "clerk";\nREVOKE SELECT ON TABLE "mart"."t" FROM "reporting" CASCADE;\nRESET ROLE;',
    );
    expect(steps[0]?.back).toBe(
      [
        'SET LOCAL ROLE "clerk";\nGRANT SELECT ON TABLE "mart"."t" TO "reporting" WITH GRANT OPTION;\nRESET ROLE;',
        'SET LOCAL ROLE "reporting";\nGRANT SELECT ON TABLE "mart"."t" TO "maud";\nRESET ROLE;',
      ].join('\n'),
    );
    expect(steps[0]?.why).toContain('what reporting gave on goes with it');
  });

  it('takes along what was given on from hand to hand, but not what somebody else gave as well', () => {
    const one = table('t', {
      grants: [
        OWNER,
        grant('reporting', { passesOn: true }),
        grant('clerk', { by: 'reporting', passesOn: true }),
        grant('maud', { by: 'clerk' }),
        grant('desk', { by: 'reporting', passesOn: true }),
        grant('desk', { passesOn: true }),
        grant('rafe', { by: 'desk' }),
      ],
    });
    const [step] = closingPlan(wish({ tables: [one] })).steps;
    expect(step?.back.match(/TO "\w+"/g)).toEqual(['TO "reporting"', 'TO "clerk"', 'TO "desk"', 'TO "maud"']);
    const known = roles(...['reporting', 'clerk', 'maud', 'desk', 'rafe'].map((name) => role(name)));
    expect(loses(wish({ tables: [one] }), { roles: known, tables: [one] }).map(({ login }) => login)).toEqual([
      'reporting',
      'clerk',
      'maud',
    ]);
  });

  it('ends a membership, and gives rights of their own on what goes on being read', () => {
    const { steps, cautions } = closingPlan(
      wish({
        how: 'reads all',
        holder: 'app',
        through: 'pg_read_all_data',
        tables: [table('t')],
        keep: new Map([['t', ['t.id']]]),
        others: [table('u', { schemaGrants: [] }), table('v', { grants: [grant('')] })],
      }),
    );
    expect(steps.map(({ sql }) => sql)).toEqual([
      'REVOKE "pg_read_all_data" FROM "app";',
      'GRANT SELECT ON TABLE "mart"."u" TO "app";',
      'GRANT SELECT ("id") ON TABLE "mart"."t" TO "app";',
    ]);
    expect(cautions).toHaveLength(2);
  });

  it('closes what is made later, and can do nothing to owners and superusers', () => {
    expect(
      closingPlan(
        wish({
          later: [
            { maker: 'dba', schema: 'mart' },
            { maker: 'dba', schema: null },
          ],
        }),
      ).steps.map(({ sql, back }) => [sql, back]),
    ).toEqual([
      [
        'ALTER DEFAULT PRIVILEGES FOR ROLE "dba" IN SCHEMA "mart" REVOKE SELECT ON TABLES FROM "reporting";',
        'ALTER DEFAULT PRIVILEGES FOR ROLE "dba" IN SCHEMA "mart" GRANT SELECT ON TABLES TO "reporting";',
      ],
      [
        'ALTER DEFAULT PRIVILEGES FOR ROLE "dba" REVOKE SELECT ON TABLES FROM "reporting";',
        'ALTER DEFAULT PRIVILEGES FOR ROLE "dba" GRANT SELECT ON TABLES TO "reporting";',
      ],
    ]);
    for (const how of ['owner', 'superuser'] as const) {
      const plan = closingPlan(wish({ how, tables: [table('t')] }));
      expect(plan.steps).toEqual([]);
      expect(plan.cannot).toHaveLength(1);
    }
  });

  it('is a text in which no name ends a remark or a statement', async () => {
    await loadParser();
    const evil = 'x"; drop table t; --\n; drop table u;';
    const plan = closingPlan(
      wish({ holder: evil, tables: [table('t', { name: evil, grants: [OWNER, grant(evil)] })] }),
    );
    for (const text of [planText(`for ${evil}`, plan), backText(`for ${evil}`, plan)]) {
      const { statements, rejected } = parseScript(text);
      expect(rejected).toEqual([]);
      expect(statements.flatMap(({ node }) => Object.keys(node))).toEqual([
        'TransactionStmt',
        'GrantStmt',
        'TransactionStmt',
      ]);
    }
    expect(planText('one\ntwo', { steps: [], cannot: [], cautions: [] }).split('\n')[0]).toBe('-- one two');
  });

  it('tells who reads less, and who reads it all the same by another right', () => {
    const known = roles(
      role('maud', { memberOf: ['reporting'] }),
      role('rafe', { memberOf: ['reporting'] }),
      role('reporting', { login: false }),
    );
    const one = table('t', { grants: [OWNER, grant('reporting'), grant('rafe')] });
    const after = loses(wish({ tables: [one], keep: new Map([['t', ['t.id']]]) }), { roles: known, tables: [one] });
    expect(after).toEqual([
      { login: 'maud', loses: [{ tableId: 't', columnIds: ['t.email'] }], still: [] },
      {
        login: 'rafe',
        loses: [],
        still: [
          {
            tableId: 't',
            ways: [
              expect.objectContaining({ holder: 'rafe' }),
              expect.objectContaining({ holder: 'reporting', columns: ['t.id'] }),
            ],
          },
        ],
      },
    ]);
  });
});

describe('who comes in as a role', () => {
  const people = [
    { id: 'b', name: 'Bettina Sark', email: 'b.sark@tarnholm.example' },
    { id: 'e', name: 'Émile Ørsted-Vik', email: 'eov@tarnholm.example' },
    { id: 'l', name: 'Li Wu', email: 'li@tarnholm.example' },
  ];
  const groups = [
    { id: 'f', name: 'Fares analysts' },
    { id: 'p', name: 'Privacy' },
  ];
  it.each([
    ['bettina_sark', ['b']],
    ['BSARK', ['b']],
    ['b.sark', ['b']],
    ['sark_bettina', ['b']],
    ['rpt_bettina_sark_ro', ['b']],
    ['emile_ørsted_vik', ['e']],
    ['eov', ['e']],
    ['fares_analyst', ['f']],
    ['ro_fares_analysts', ['f']],
    ['privacy', ['p']],
    ['liwu_export', []],
    ['li', ['l']],
    ['web_shop', []],
    ['___', []],
  ])('%s is suggested %j', (name, ids) => {
    expect(suggester(people, groups)(name).map(({ id }) => id)).toEqual(ids);
  });
});

describe('rights in words', () => {
  it('name the holder and the way', () => {
    expect(rightInWords({ how: 'grant', holder: '', through: null, schema: 'mart' })).toBe(
      'everybody, by a right in mart',
    );
    expect(rightInWords({ how: 'reads all', holder: 'app', through: 'pg_read_all_data', schema: null })).toBe(
      'app, who reads everything as a member of pg_read_all_data',
    );
    expect(chainInWords(['maud', 'reporting', 'all'])).toBe('maud, of reporting, of all');
    expect(chainInWords(['maud'])).toBe('maud');
  });
});
