import { randomBytes } from 'node:crypto';
import {
  CONNECTORS,
  type ConnectorInput,
  type FoundAsset,
  type Known,
  keyOf,
  type Reading,
} from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { getAsset } from '../src/catalog/index.ts';
import { columnsOfType } from '../src/catalog/service.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { differences, type KnownAsset } from '../src/scanning/compare.ts';
import { applyRun } from '../src/scanning/index.ts';
import { freshDatabase, furnish, urlOf, withClient } from './place.ts';

const database = `described_${randomBytes(4).toString('hex')}`;
let reading: Reading;
let assets: readonly FoundAsset[];
const of = (...names: string[]) => assets.find((asset) => asset.key === keyOf(database, ...names));
const url = new URL(urlOf(database));
const input: ConnectorInput = {
  name: 'Described',
  address: { host: url.hostname, port: Number(url.port), database },
  secret: { username: url.username, password: decodeURIComponent(url.password) },
};
const run = (sql: string) => withClient(urlOf(database), (client) => client.query(sql));
const read = async (known?: Known) => reading.structure(() => undefined, known);

beforeAll(async () => {
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${database}`));
  await run(`
    create extension pg_trgm;
    create schema port;
    create type port.side as enum ('port', 'starboard');
    comment on type port.side is 'As seen looking forward';
    create domain port.knots as numeric(5, 1) default 0 check (value >= 0) constraint not_flying check (value < 100);
    comment on constraint not_flying on domain port.knots is 'Hydrofoils included';
    create type port.berth as (quay text, place int);
    comment on column port.berth.place is 'Counted from the sea';
    create domain port.season as text check (value in ('summer', 'winter'));
    create type port.depths as range (subtype = numeric);
    create table port.ship (id bigint generated always as identity primary key, imo int not null, name text not null, flag text, lit port.side, seen port.side[], speed port.knots, lies port.berth, tonnes numeric check (tonnes > 0), unique (name, flag));
    create unique index ship_imo on port.ship (imo);
    create unique index ship_lower on port.ship (lower(name));
    create unique index ship_some on port.ship (flag) where speed > 10;
    comment on index port.ship_imo is 'One number a hull';
    create index ship_tonnes on port.ship (tonnes desc) include (name);
    create function port.noted() returns trigger language plpgsql as $$ begin return new; end $$;
    create trigger ship_noted before update on port.ship for each row execute function port.noted();
    create trigger ship_off after insert on port.ship for each row execute function port.noted();
    alter table port.ship disable trigger ship_off;
    create rule kept as on delete to port.ship do instead nothing;
    comment on rule kept on port.ship is 'Ships are never deleted';
    create table port.tug (pull numeric) inherits (port.ship);
    create table port.visit (id serial primary key, during tstzrange, quay text, season port.season, state text constraint listed check (state in ('planned', 'moored') or state is null), draft text, exclude using gist (quay gist_trgm_ops with %, during with &&) where (false));
    alter table port.visit add constraint loose check (draft in ('deep')) not valid;
    create table port.lane ("f(integer)" int);
    create table port."dues(numeric)" (amount numeric);
    create sequence port.ticket as smallint start 5 increment by 5 maxvalue 1000 cycle;
    create function port.dues(tonnes numeric, rate numeric default 1.5, out due numeric, out waived boolean) language sql stable security definer as $$ select tonnes * rate, false $$;
    create function port.dues(numeric) returns numeric language sql immutable return $1 * 2;
    comment on function port.dues(numeric) is 'Twice the tonnage';
    create procedure port.close_year(inout y int, variadic rest text[]) language plpgsql as $$ begin end $$;
    create aggregate port.total(numeric) (sfunc = numeric_add, stype = numeric);`);
  reading = await CONNECTORS.postgresql.open(input);
  ({ assets } = await read());
});
afterAll(async () => {
  await reading?.close();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${database} with (force)`));
});

describe('what a PostgreSQL source holds beside tables and columns', () => {
  it('is read by kind, without what an extension brought or what stands for tables, arrays and identity columns', () => {
    const kinds = ['type', 'sequence', 'procedure', 'function'];
    expect(assets.filter((asset) => kinds.includes(asset.kind)).map((asset) => `${asset.kind} ${asset.name}`)).toEqual([
      'type berth',
      'type depths',
      'type knots',
      'type season',
      'type side',
      'sequence ticket',
      'sequence visit_id_seq',
      'procedure close_year(integer, text[])',
      'function dues(numeric)',
      'function dues(numeric, numeric)',
      'function noted()',
      'function total(numeric)',
    ]);
  });

  it('gives enumerations their values, domains their checks, composite types their attributes, each with what is said of it', () => {
    expect(of('port', 'side')).toMatchObject({
      comment: 'As seen looking forward',
      native: { form: 'enumeration', values: ['port', 'starboard'] },
    });
    expect(of('port', 'knots')?.native).toMatchObject({ form: 'domain', base: 'numeric(5,1)', default: '0' });
    expect(of('port', 'knots')?.native.checks).toContainEqual({
      name: 'not_flying',
      definition: 'CHECK ((VALUE < (100)::numeric))',
      comment: 'Hydrofoils included',
    });
    expect(of('port', 'berth')?.native.attributes).toEqual([
      { name: 'quay', type: 'text' },
      { name: 'place', type: 'integer', comment: 'Counted from the sea' },
    ]);
    expect(of('port', 'depths')?.native).toMatchObject({ form: 'range', base: 'numeric' });
  });

  it('gives routines their arguments, language, volatility, definition', () => {
    expect(of('port', 'dues(numeric, numeric)')?.native).toMatchObject({
      arguments: [
        { name: 'tonnes', mode: 'in', type: 'numeric' },
        { name: 'rate', mode: 'in', type: 'numeric', default: '1.5' },
        { name: 'due', mode: 'out', type: 'numeric' },
        { name: 'waived', mode: 'out', type: 'boolean' },
      ],
      language: 'sql',
      volatility: 'stable',
      runsAs: 'its owner',
      returns: 'record',
    });
    expect(of('port', 'dues(numeric, numeric)')?.native.definition).toContain('select tonnes * rate');
    // A table has this name already.
    expect(of('port', 'dues(numeric)')?.kind).toBe('table');
    expect(of('port', 'dues(numeric) (function)')).toMatchObject({
      kind: 'function',
      comment: 'Twice the tonnage',
      native: { volatility: 'immutable', runsAs: 'whoever calls it' },
    });
    expect(of('port', 'close_year(integer, text[])')?.native.arguments).toMatchObject([
      { mode: 'inout' },
      { mode: 'variadic', type: 'text[]' },
    ]);
    expect(of('port', 'noted()')?.native).toMatchObject({ form: 'trigger', language: 'plpgsql' });
    expect(of('port', 'total(numeric)')?.native).toMatchObject({ form: 'aggregate' });
    expect(of('port', 'total(numeric)')?.native.definition).toBeUndefined();
  });

  it('gives sequences their numbers, and the column they are for', () => {
    expect(of('port', 'ticket')?.native).toMatchObject({
      type: 'smallint',
      start: '5',
      step: '5',
      most: '1000',
      cycles: true,
    });
    expect(of('port', 'visit_id_seq')?.native).toMatchObject({ ownedBy: 'port.visit.id' });
  });

  it('gives tables their indexes, constraints, triggers, rules and parents, with what is said of each', () => {
    const details = of('port', 'ship')?.native.details as Record<string, { name: string }[]>;
    expect(details.uniques).toEqual([
      { name: 'ship_name_flag_key', definition: 'UNIQUE (name, flag)', columns: ['name', 'flag'] },
    ]);
    expect(details.indexes?.map((index) => index.name)).toEqual([
      'ship_imo',
      'ship_lower',
      'ship_name_flag_key',
      'ship_pkey',
      'ship_some',
      'ship_tonnes',
    ]);
    expect(details.indexes?.[0]).toEqual({
      name: 'ship_imo',
      definition: 'CREATE UNIQUE INDEX ship_imo ON port.ship USING btree (imo)',
      columns: ['imo'],
      unique: true,
      comment: 'One number a hull',
    });
    expect(details.indexes?.[5]).toMatchObject({ columns: ['tonnes'] });
    expect(details.checks).toMatchObject([{ definition: 'CHECK ((tonnes > (0)::numeric))', columns: ['tonnes'] }]);
    expect(details.triggers).toMatchObject([{ name: 'ship_noted' }, { name: 'ship_off', off: true }]);
    expect(details.rules).toMatchObject([{ name: 'kept', comment: 'Ships are never deleted' }]);
    expect(of('port', 'visit')?.native.details).toMatchObject({ exclusions: [{ name: 'visit_quay_during_excl' }] });
    expect(of('port', 'tug')?.native.details).toMatchObject({ inherits: ['port.ship'] });
    expect(of('port', 'lane')?.native.details).toEqual({});
  });

  it('says of columns whether a unique index holds for all rows, how they number themselves, and which type of their own they have', () => {
    const native = (column: string) => of('port', 'ship', column)?.native;
    expect(native('imo')).toMatchObject({ unique: true });
    for (const other of ['name', 'flag', 'tonnes']) expect(native(other)).not.toHaveProperty('unique');
    expect(native('id')).toMatchObject({ identity: 'always', primaryKey: true });
    expect(['lit', 'seen', 'speed', 'lies'].map((column) => native(column)?.ofType)).toEqual([
      'port.side',
      'port.side',
      'port.knots',
      'port.berth',
    ]);
    expect(native('tonnes')).not.toHaveProperty('ofType');
  });

  it('stands in the outline from which a scope is chosen, under the same names', async () => {
    const outline = (await reading.outline()).map((item) => item.path);
    for (const path of ['port.side', 'port.ticket', 'port.dues(numeric, numeric)', 'port.close_year(integer, text[])'])
      expect(outline).toContain(path);
  });

  it('counts only columns that are described to people when it is tested', async () => {
    const steps = await CONNECTORS.postgresql.test(input);
    const described = assets.filter((asset) => asset.kind === 'column').length;
    expect(steps.find((step) => step.step === 'Rights to read the catalog')?.detail).toBe(
      `${described} columns are described.`,
    );
  });

  it('is compared between runs in words, part by part, and only what changed is read again', async () => {
    const before = await read({ marks: new Map(), data: false });
    const known: Known = { marks: before.marks ?? new Map(), data: false };
    expect((await read(known)).assets.filter((asset) => asset.depth > 1)).toEqual([]);
    await run(`alter type port.side add value 'midships' before 'starboard'; drop index port.ship_tonnes; alter table port.ship enable trigger ship_off; comment on function port.noted() is 'Writes who changed what';
      alter domain port.knots drop constraint not_flying; create unique index ship_flag on port.ship (flag)`);
    const after = await read(known);
    const told = after.assets
      .filter((asset) => asset.depth > 1)
      .map((found) => {
        const was = before.assets.find((asset) => asset.key === found.key) as FoundAsset;
        return [
          found.name,
          differences({ ...was, id: '', description: null, gone: false } as KnownAsset, found),
        ] as const;
      })
      .filter(([, what]) => what.length > 0);
    expect(Object.fromEntries(told)).toEqual({
      side: ['value midships: new'],
      ship: ['index ship_flag: new', 'index ship_tonnes: gone', 'trigger ship_off: holds again'],
      flag: ['unique: none → true'],
      'noted()': ['comment'],
      knots: ['check not_flying: gone'],
    });
  });

  it('gives detectors the values that an enumeration permits', async () => {
    const { sampleable } = await read();
    expect(
      sampleable.find((table) => table.label === 'port.ship')?.columns.find((column) => column.name === 'lit'),
    ).toMatchObject({ type: 'text', permitted: ['port', 'midships', 'starboard'] });
  });

  it('and those that a check lists: of the column, of a domain, not one that the rows were never held against', async () => {
    const { sampleable } = await read();
    const permitted = (sampleable.find((table) => table.label === 'port.visit')?.columns ?? []).flatMap((column) =>
      column.permitted ? [[column.name, column.permitted]] : [],
    );
    expect(permitted).toEqual([
      ['season', ['summer', 'winter']],
      ['state', ['planned', 'moored']],
    ]);
    expect(of('port', 'visit', 'state')?.native).toMatchObject({ permitted: ['planned', 'moored'] });
    // What a type permits stands at the type.
    expect(of('port', 'visit', 'season')?.native).toMatchObject({ ofType: 'port.season' });
    expect(of('port', 'visit', 'season')?.native.permitted).toBeUndefined();
  });

  it('a column leads to its type, and the type to the columns that have it or an array of it, in the catalog', async () => {
    const place = await freshDatabase();
    try {
      const { personId, domainId, sourceId } = await furnish(place.db);
      const who = (await loadWho(place.db, personId)) as Who;
      const structure = await read();
      await place.db.transaction(async (tx) => {
        const [scan] = await tx.rows<{ id: string }>(
          "insert into scan_run (source_id, state) values ($1, 'done') returning id",
          [sourceId],
        );
        const found = {
          structure,
          findings: new Map(),
          sampled: new Map(),
          profiles: new Map(),
          flows: [],
          covers: () => true,
        };
        await applyRun(tx, { id: sourceId, domainId, address: { database } }, scan?.id ?? '', found);
      });
      const idOf = async (...names: string[]) =>
        (await place.db.one<{ id: string }>('select id from asset where key = $1', [keyOf(database, ...names)]))?.id ??
        '';
      const type = await idOf('port', 'side');
      const seen = await getAsset(place.db, who, await idOf('port', 'ship', 'seen'));
      expect(seen.ofType).toEqual({ id: type, name: 'port.side', permits: ['port', 'midships', 'starboard'] });
      expect((await getAsset(place.db, who, await idOf('port', 'ship', 'speed'))).ofType).toEqual({
        id: await idOf('port', 'knots'),
        name: 'port.knots',
        permits: null,
      });
      expect((await getAsset(place.db, who, await idOf('port', 'ship', 'flag'))).ofType).toBeNull();
      const having = await columnsOfType(place.db, who, type, { limit: 100, offset: 0 });
      // Those of the table that takes over the columns, too.
      expect(having.items.map((column) => column.name)).toEqual(['lit', 'seen', 'lit', 'seen']);
    } finally {
      await place.drop();
    }
  });
});
