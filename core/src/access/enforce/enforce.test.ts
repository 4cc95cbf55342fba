import { describe, expect, it } from 'vitest';
import { parseOne } from '../../sql/index.ts';
import { policyOf } from '../../testing/policies.ts';
import type { Mask, Person, Policy, ReadableTable } from '../index.ts';
import {
  drifted,
  enforcingPlan,
  heldByDatabase,
  NOTHING_MADE,
  numberOfReaders,
  predictedRow,
  type Readers,
  readersOfSource,
  roleOfReaders,
  rowIsSeen,
  type TableMeans,
  tableKey,
  undoing,
} from './index.ts';

const person = (id: string, attributes: Person['attributes'] = {}): Person => ({
  id,
  groups: [],
  email: `${id}@example.org`,
  attributes,
  purpose: null,
  outside: false,
  share: null,
});
const policy = (more: Partial<Policy>): Policy => policyOf({ assets: ['t'], ...more });
const table = (columns: Readonly<Record<string, string>>, more: Partial<ReadableTable> = {}): ReadableTable => ({
  id: 't',
  sourceId: 's',
  schema: 'a',
  name: 'guest',
  ancestors: ['t'],
  columns: Object.entries(columns).map(([name, type]) => ({
    id: `t.${name}`,
    name,
    type,
    classes: [],
    held: [],
    fewValues: false,
    origins: [],
  })),
  ...more,
});
const GUEST = table({ id: 'integer', mail: 'text', weight: 'double precision', port: 'text' });
const maud = person('maud', { port: ['Bergen'], organisation: ['Line'] });
const olav = person('olav', { port: ['Oslo'], organisation: ['Agency'] });
const protect = (columns: string[], mask: Mask, more: Partial<Policy> = {}) =>
  policy({ id: 'm', effect: 'protect', columns, mask, ...more });
const ALL: TableMeans = { reads: true, passesOn: true, ownRows: false };

describe('who reads alike', () => {
  it('is found by what is read, not by who it is', () => {
    const policies = [
      policy({}),
      policy({
        id: 'r',
        effect: 'protect',
        people: ['olav'],
        everyone: false,
        rows: { column: 'port', values: [], attribute: 'port', through: null },
      }),
    ];
    const readers = readersOfSource(
      policies,
      [
        { login: 'c', people: [olav] },
        { login: 'b', people: [person('ada')] },
        { login: 'a', people: [person('bo')] },
        { login: 'nobody', people: [] },
      ],
      [GUEST],
    );
    expect(readers.map(({ logins, tables }) => [logins, tables[0]?.limits])).toEqual([
      [['a', 'b'], []],
      [['c'], [{ column: 'port', values: ['Oslo'], through: null }]],
    ]);
  });

  it('for a login that several share is what each of them may read', () => {
    const policies = [
      policy({ columns: ['id', 'mail', 'port'] }),
      policy({ id: 'd', effect: 'deny', everyone: false, people: ['olav'], columns: ['id'] }),
      protect(['mail'], { kind: 'partial', first: 3, last: 0 }, { everyone: false, people: ['maud'] }),
      protect(['port'], { kind: 'digest', keyed: 'organisation' }),
      policy({
        id: 'r',
        effect: 'protect',
        rows: { column: 'port', values: [], attribute: 'port', through: null },
      }),
    ];
    const [shared] = readersOfSource(policies, [{ login: 'counter', people: [maud, olav] }], [GUEST]);
    expect(shared?.tables[0]).toMatchObject({
      columns: [
        { name: 'mail', mask: { kind: 'partial', first: 3, last: 0 } },
        // Digests of two organisations cannot both be shown.
        { name: 'port', mask: { kind: 'blank' } },
      ],
      limits: [{ values: ['Bergen'] }, { values: ['Oslo'] }],
    });
  });

  it('opens nothing at hours or for a purpose, and masks always what is masked at hours', () => {
    const hours = { days: [1], from: '08:00', to: '18:00', zone: 'Europe/Oslo' };
    const policies = heldByDatabase([
      policy({ columns: ['weight', 'mail'] }),
      policy({ id: 'h', columns: ['id'], hours }),
      policy({ id: 'u', columns: ['port'], purposes: ['audit'] }),
      protect(['mail'], { kind: 'blank' }, { hours }),
    ]);
    const [readers] = readersOfSource(policies, [{ login: 'm', people: [maud] }], [GUEST]);
    expect(readers?.tables[0]?.columns.map(({ name, mask }) => [name, mask?.kind])).toEqual([
      ['mail', 'blank'],
      ['weight', undefined],
    ]);
  });

  it('leaves nothing to what a session can set: how numbers are written, where a day begins', () => {
    const under = (type: string, mask: Mask) => {
      const [readers] = readersOfSource(
        [policy({}), protect(['x'], mask)],
        [{ login: 'm', people: [maud] }],
        [table({ x: type })],
      );
      return readers?.tables[0]?.columns[0]?.mask?.kind;
    };
    const noise: Mask = { kind: 'noise', spread: 5, of: 'unit' };
    const month: Mask = { kind: 'general', to: 'month', step: null };
    expect(['real', 'double precision', 'money'].map((type) => under(type, noise))).toEqual([
      'blank',
      'blank',
      'blank',
    ]);
    expect(under('numeric(9,2)', noise)).toBe('noise');
    expect(under('double precision', { kind: 'general', to: 'rounded', step: 10 })).toBe('general');
    expect(under('double precision', { kind: 'general', to: 'district', step: 1 })).toBe('blank');
    expect(under('timestamp with time zone', month)).toBe('blank');
    expect(under('timestamp without time zone', month)).toBe('general');
    expect(under('date', { kind: 'general', to: 'age', step: 10 })).toBe('general');
    const limitOn = (type: string) => {
      const [readers] = readersOfSource(
        [
          policy({}),
          policy({
            id: 'r',
            effect: 'protect',
            rows: { column: 'x', values: ['0.3'], attribute: null, through: null },
          }),
        ],
        [{ login: 'm', people: [maud] }],
        [table({ x: type })],
      );
      return readers?.tables[0]?.limits[0]?.values;
    };
    expect(['double precision', 'timestamp with time zone', 'date', 'text[]'].map(limitOn)).toEqual([[], [], [], []]);
    expect(['text', 'character varying(3)', 'numeric(9,2)', 'integer'].map(limitOn)).toEqual([
      ['0.3'],
      ['0.3'],
      ['0.3'],
      ['0.3'],
    ]);
  });
});

describe('a plan', () => {
  const readersOf = (
    policies: readonly Policy[],
    logins: readonly string[],
    tables: readonly ReadableTable[] = [GUEST],
  ) =>
    readersOfSource(
      policies,
      logins.map((login) => ({ login, people: [person(login)] })),
      tables,
    );
  const plan = (readers: readonly Readers[], means: TableMeans = ALL, before = NOTHING_MADE, database = 'shop') =>
    enforcingPlan(
      database,
      readers,
      new Map(
        readers.flatMap(({ tables }) => tables.map(({ table: { schema, name } }) => [tableKey(schema, name), means])),
      ),
      before,
    );
  const sqlOf = ({ steps }: Pick<ReturnType<typeof plan>, 'steps'>) => steps.map(({ sql }) => sql).join('\n');

  it('gives a right on what is seen as it stands, and a view of what is not, or may not be passed on', () => {
    const asItIs = plan(readersOf([policy({ columns: ['id', 'port'] })], ['maud']));
    expect(sqlOf(asItIs)).toContain('GRANT SELECT ("id", "port") ON TABLE "a"."guest" TO "idrel_shop_1";');
    expect(sqlOf(asItIs)).not.toContain('VIEW');
    expect(plan(readersOf([policy({})], ['maud']), { ...ALL, passesOn: false }).readers[0]?.tables).toMatchObject([
      { how: 'view', schema: 'idrel_1_a', name: 'guest' },
    ]);
    const masked = plan(
      readersOf([policy({}), protect(['mail'], { kind: 'digest', keyed: 'installation' })], ['maud']),
    );
    expect(sqlOf(masked)).toContain('CREATE VIEW "idrel_1_a"."guest" WITH (security_barrier)');
    // The key is asked for where it lies, by whoever made the view.
    expect(sqlOf(masked)).toContain(`(SELECT k.value FROM "idrel_keys"."key" AS k WHERE k.name = 'all')`);
    expect(sqlOf(masked)).not.toContain('current_setting');
    expect(masked.steps.map(({ why }) => why)).toContain('a.guest; mail masked');
  });

  it('leaves closed what cannot be read, is gone, or has row policies that a view would ask for another', () => {
    const masked = readersOf([policy({}), protect(['mail'], { kind: 'blank' })], ['maud']);
    expect(plan(masked, { ...ALL, reads: false }).without[0]?.why).toContain('cannot read it');
    expect(plan(masked, { ...ALL, ownRows: true })).toMatchObject({ readers: [], without: [{ table: 'a.guest' }] });
    expect(enforcingPlan('shop', masked, new Map(), NOTHING_MADE).without[0]?.why).toContain('not there');
    const through = {
      tableId: 'o',
      column: 'port',
      reader: 'mail',
      by: 'email',
      at: { sourceId: 's', schema: 'a', name: 'office' },
    };
    const limited = policy({
      id: 'r',
      effect: 'protect',
      rows: { column: 'port', values: [], attribute: null, through },
    });
    expect(plan(readersOf([policy({}), limited], ['maud'])).without[0]?.why).toContain('limited by a.office');
    // A right on the table leaves its own row policies to whoever asks.
    expect(plan(readersOf([policy({})], ['maud']), { ...ALL, ownRows: true }).readers).toHaveLength(1);
  });

  it('keeps the numbers of readers, whoever comes in beside them', () => {
    const own = (login: string) =>
      policy({ id: login, everyone: false, people: [login], columns: ['id', login === 'b' ? 'mail' : 'port'] });
    const before = {
      ...NOTHING_MADE,
      roles: [
        { name: 'idrel_shop_3', logins: ['b'] },
        { name: 'idrel_shop_x', logins: ['c'] },
      ],
    };
    const { readers } = plan(readersOf([own('b'), own('c')], ['b', 'c']), ALL, before);
    expect(readers.map(({ role, logins }) => [role, logins])).toEqual([
      ['idrel_shop_3', ['b']],
      ['idrel_shop_1', ['c']],
    ]);
  });

  it('tells its roles from those of other databases of the server', () => {
    expect(numberOfReaders('shop', 'idrel_shop_12')).toBe(12);
    for (const other of [
      'idrel_shop_2_1',
      'idrel_shop_x',
      'idrel_shop_',
      'idrel_shop_01',
      'idrel_shopping_1',
      'shop_1',
    ])
      expect(numberOfReaders('shop', other)).toBeNull();
    expect(numberOfReaders('freight_desk', 'idrel_freight_de_1')).toBeNull();
    const [one, two] = ['a', 'b'].map((end) => roleOfReaders(`${'long'.repeat(15)}${end}`, 3));
    expect(one).not.toBe(two);
    expect(numberOfReaders(`${'long'.repeat(15)}a`, one ?? '')).toBe(3);
  });

  it('writes any name and any text so that it stays one, and none that a server would cut', () => {
    const odd = table({ 'o"dd; DROP': 'text', 'ø\\': 'text' }, { schema: 'ø'.repeat(31), name: "g'est\n--" });
    const readers = readersOf(
      [
        policy({}),
        protect(['ø\\'], { kind: 'fixed', text: "\\' OR '1" }),
        policy({
          id: 'r',
          effect: 'protect',
          rows: { column: 'o"dd; DROP', values: ["it's", '\\'], attribute: null, through: null },
        }),
      ],
      ['lo"gin'],
      [odd],
    );
    const { steps, readers: those } = plan(readers, ALL, NOTHING_MADE, `d"b${'x'.repeat(60)}`);
    for (const { sql } of steps)
      for (const statement of sql.split(/;\n(?=[A-Z])/)) expect(() => parseOne(statement)).not.toThrow();
    expect(those[0]?.tables[0]?.schema).toBe('idrel_1_schema_1');
    expect(new TextEncoder().encode(those[0]?.role ?? '').length).toBeLessThan(64);
  });

  it('takes back all that was made, and the keys last', () => {
    const made = {
      roles: [{ name: 'idrel_shop_1', logins: [] }],
      schemas: ['idrel_1_a'],
      views: [{ schema: 'idrel_1_a', name: 'guest' }],
      keys: true,
    };
    expect(undoing(made, false).map(({ sql }) => sql)).toEqual([
      'DROP VIEW "idrel_1_a"."guest";\nDROP SCHEMA "idrel_1_a";',
      'DROP OWNED BY "idrel_shop_1";\nDROP ROLE "idrel_shop_1";',
      'DROP TABLE "idrel_keys"."key";\nDROP SCHEMA "idrel_keys";',
    ]);
    expect(undoing(made, true)).toHaveLength(2);
    expect(undoing(NOTHING_MADE, false)).toEqual([]);
  });
});

describe('what is to be read', () => {
  it('is worked out from a row as it stands', () => {
    const [readers] = readersOfSource(
      [
        policy({ columns: ['mail', 'port'] }),
        protect(['mail'], { kind: 'general', to: 'host', step: null }),
        policy({ id: 'r', effect: 'protect', rows: { column: 'port', values: [], attribute: 'port', through: null } }),
      ],
      [{ login: 'm', people: [maud] }],
      [GUEST],
    );
    const open = readers?.tables[0];
    if (!open) throw new Error('nothing is open');
    const row = (port: string | null) =>
      new Map([
        ['mail', 'a@mail.example'],
        ['port', port],
      ] as const);
    const none = () => new Set<string>();
    expect(rowIsSeen(open, row('Bergen'), none)).toBe(true);
    expect(rowIsSeen(open, row('Oslo'), none)).toBe(false);
    expect(rowIsSeen(open, row(null), none)).toBe(false);
    expect(predictedRow(open, row('Bergen'), () => '', '2026-01-01')).toEqual(['mail.example', 'Bergen']);
  });
});

describe('what was changed by hand', () => {
  it('is what is gone, changed or added', () => {
    const made = (key: string, state = '') => ({ key, by: null, words: key, state });
    expect(
      drifted([made('a'), made('b', '1'), made('c')], [made('a'), made('b', '2'), made('d')]).map(
        ({ what, words }) => `${words} ${what}`,
      ),
    ).toEqual(['b changed', 'c gone', 'd added']);
  });
});
