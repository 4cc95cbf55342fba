import { measureOf, PROFILE_ROWS } from '@idrel/core/scanning';
import pg from 'pg';
import { CONNECTORS } from '../readers/dist/connectors/index.js';
import { inTurn, tell } from './lib.mjs';

const ROWS = 10_000_000;
const BY_HAND =
  'select count(*) as n, count(amount), min(amount), max(amount), avg(amount), count(status), min(status), max(status), avg(length(status)), count(noted_at), min(noted_at), max(noted_at), count(note), min(length(note)), max(length(note)), min(id), max(id) from public.profiled';

/**
 * Profiles of all five columns of a table of 10 million rows, as a scan works them out (of a random part, above a size), against one aggregate query
 * written by hand over all rows, that gives counts, smallest, largest and mean alone. Goal: at most 2 times.
 */
export async function run(adminUrl) {
  const url = new URL(adminUrl);
  const admin = new pg.Client(adminUrl);
  await admin.connect();
  await admin.query('create database bench_profile');
  url.pathname = '/bench_profile';
  const client = new pg.Client(url.href);
  await client.connect();
  try {
    await client.query(
      `create table public.profiled as select n::bigint as id, (random() * 1000)::numeric(8, 2) as amount, (array['open', 'paid', 'void'])[1 + n % 3] as status, now() - n * interval '3 seconds' as noted_at, case when n % 4 = 0 then md5(n::text) end as note from generate_series(1, ${ROWS}) n`,
    );
    await client.query('vacuum analyze public.profiled');
    const reading = await CONNECTORS.postgresql.open({
      name: 'bench',
      address: { host: url.hostname, port: Number(url.port), database: 'bench_profile' },
      secret: { username: url.username, password: decodeURIComponent(url.password) },
    });
    const { sampleable, assets } = await reading.structure(() => undefined);
    const table = sampleable.find((entry) => entry.label === 'public.profiled');
    const types = new Map(assets.map((asset) => [asset.key, String(asset.native.type)]));
    const measures = table.columns.map((column) => measureOf(types.get(column.key)));
    const [profiled, byHand] = await inTurn(5, [
      async () => {
        const profiles = await reading.profile(table, measures, PROFILE_ROWS);
        if (profiles.length !== 5 || profiles[0].rows < PROFILE_ROWS / 2)
          throw new Error(`${profiles.length} profiles of ${profiles[0]?.rows} rows`);
      },
      async () => {
        const { rows } = await client.query(BY_HAND);
        if (Number(rows[0].n) !== ROWS) throw new Error('not all rows were counted');
      },
    ]);
    await reading.close();
    return tell(
      'Profiles of a table of 10 million rows (of 10,000 random rows), against one aggregate query by hand over all',
      profiled,
      byHand,
      'at most 2',
    );
  } finally {
    await client.end();
    await admin.query('drop database bench_profile with (force)');
    await admin.end();
  }
}
