import { CONNECTORS } from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { storeUses } from '../src/scanning/storeUses.ts';
import { freshDatabase, furnish, inputOf, urlOf, withClient } from './place.ts';

const system = `uses_${process.pid}`;
const [reader, shop, desk] = [`uses_reader_${process.pid}`, `uses_shop_${process.pid}`, `uses_desk_${process.pid}`];
const sql = (text: string) => withClient(urlOf(system), (client) => client.query(text));
const ask = (role: string, ...statements: string[]) =>
  withClient(urlOf(system), async (client) => {
    await client.query(`set role ${role}`);
    for (const statement of statements) await client.query(statement);
  });

beforeAll(async () => {
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf('postgres'), (client) =>
    client.query(
      `create role ${reader} login password 'reading'; create role ${shop}; create role ${desk}; grant pg_read_all_data to ${reader}, ${shop}, ${desk}`,
    ),
  );
  await sql(
    'create schema s; create table s.sold (id int, amount numeric, note text); create table s.idle (id int); create view s.total as select sum(amount) as amount from s.sold',
  );
});
afterAll(async () => {
  await withClient(urlOf('postgres'), (client) => client.query(`drop database ${system} with (force)`));
  await withClient(urlOf('postgres'), (client) =>
    client.query(`drop role ${reader}; drop role ${shop}; drop role ${desk}`),
  );
});

const read = async () => {
  const reading = await CONNECTORS.postgresql.open({
    ...inputOf(system),
    secret: { username: reader, password: 'reading' },
  });
  try {
    return Object.fromEntries(
      [...((await reading.uses?.()) ?? [])].map(([key, use]) => [key.split('\u001f').slice(1).join('.'), use]),
    );
  } finally {
    await reading.close();
  }
};

describe('what is asked for at a PostgreSQL source', () => {
  it('is not known where nothing counts, or where the reading role may not look', async () => {
    expect(await read()).toEqual({});
    await sql('create extension pg_stat_statements');
    await ask(shop, 'select id from s.sold');
    expect(await read()).toEqual({});
  });

  it('is counted by table and column, with the roles that asked; what reads for Idrel is left out', async () => {
    await withClient(urlOf('postgres'), (client) => client.query(`grant pg_read_all_stats to ${reader}`));
    await ask(
      shop,
      'select id from s.sold where amount > 5',
      'select id from s.sold where amount > 7',
      'select amount from s.total',
    );
    await ask(desk, 'with w as (select id from s.sold) select count(*) from w', 'select nonsense(', 'select 1').catch(
      () => undefined,
    );
    await withClient(urlOf(system).replace(/\/\/[^@]*@/, `//${reader}:reading@`), (client) =>
      client.query('select note from s.sold'),
    );
    const uses = await read();
    // Two statements that differ in their figures alone are one to the source.
    expect(uses['s.sold']).toEqual({ calls: 4, roles: 2, statements: 3 });
    expect(uses['s.sold.id']).toEqual({ calls: 4, roles: 2, statements: 3 });
    expect(uses['s.sold.amount']).toEqual({ calls: 2, roles: 1, statements: 1 });
    expect(uses['s.total.amount']).toEqual({ calls: 1, roles: 1, statements: 1 });
    expect([uses['s.idle'], uses['s.sold.note']]).toEqual([undefined, undefined]);
  });
});

describe('what an extension brought along', () => {
  it('is no asset, has no lineage, and does not count for the connection test', async () => {
    const input = { ...inputOf(system), secret: { username: reader, password: 'reading' } };
    const reading = await CONNECTORS.postgresql.open(input);
    try {
      const { assets } = await reading.structure(() => undefined);
      expect(assets.filter((asset) => asset.kind !== 'column').map((asset) => asset.name)).toEqual([
        system,
        'public',
        's',
        'idle',
        'sold',
        'total',
      ]);
      expect((await reading.outline()).map((item) => item.path)).toEqual([
        'public',
        's',
        's.idle',
        's.sold',
        's.total',
      ]);
      expect((await reading.flows()).map((flow) => flow.key.split('\u001f').at(-1))).toEqual(['total']);
    } finally {
      await reading.close();
    }
    expect((await CONNECTORS.postgresql.test(input)).at(-1)?.detail).toContain('3 tables and views');
  });
});

describe('what is asked for, in the catalog', () => {
  it('tells when a counter has moved last', async () => {
    const place = await freshDatabase();
    try {
      const { sourceId, domainId } = await furnish(place.db);
      const [asset] = await place.db.rows<{ id: string }>(
        "insert into asset (id, source_id, domain_id, kind, name, key, depth, position) values (gen_random_uuid(), $1, $2, 'table', 't', 'k', 0, 0) returning id",
        [sourceId, domainId],
      );
      const [run] = await place.db.rows<{ id: string }>(
        "insert into scan_run (source_id, state, ended_at) values ($1, 'done', now()) returning id",
        [sourceId],
      );
      const store = async (calls: number) => {
        await storeUses(
          place.db,
          run?.id ?? '',
          new Map([['k', { calls, roles: 1, statements: 1 }]]),
          new Map([['k', asset?.id ?? '']]),
        );
        return place.db.one<{ calls: number; moved: boolean }>(
          'select calls, moved_at = seen_at as moved from asset_use',
        );
      };
      expect(await store(5)).toEqual({ calls: 5, moved: true });
      expect(await store(5)).toEqual({ calls: 5, moved: false });
      expect(await store(6)).toEqual({ calls: 6, moved: true });
    } finally {
      await place.drop();
    }
  });
});
