import type pg from 'pg';

/** What the ferry company's own programs ask their databases, and how often: role, statement, times. */
const ASKED: Record<string, readonly (readonly [role: string, statement: string, times: number])[]> = {
  booking_system: [
    ['web_shop', 'select id, name from ref.port order by name', 60],
    [
      'web_shop',
      'select b.booking_ref, b.status, l.sailing_date from booking.booking b join booking.booking_leg l on l.booking_id = b.id where b.passenger_id = 17',
      40,
    ],
    ['counter', 'select given_name, family_name, email from booking.passenger where family_name = $$Holm$$', 25],
    ['counter', 'select sum(amount) from booking.payment where paid_at > now() - interval $$1 day$$', 8],
  ],
  warehouse: [
    ['fares_desk', 'select route, sum(revenue) from mart.fare_sales group by route', 30],
    ['fares_desk', 'select band, price from mart.fare_history where state = $$current$$', 12],
    ['counter', 'select vessel_name, sum(revenue) from mart.onboard_sales group by vessel_name', 6],
  ],
};

/** Lets the programs of the demo ask, where the server counts statements; elsewhere nothing happens. What filled the tables is not counted. */
export async function makeUses(client: pg.Client, database: string): Promise<void> {
  const { rows } = await client.query<{ loaded: boolean }>(
    "select current_setting('shared_preload_libraries') like '%pg_stat_statements%' as loaded",
  );
  if (!rows[0]?.loaded) return;
  await client.query('create extension if not exists pg_stat_statements');
  await client.query(
    'select pg_stat_statements_reset(0, (select oid from pg_database where datname = current_database()), 0)',
  );
  for (const [role, statement, times] of ASKED[database] ?? []) {
    await client.query(
      `do $$ begin if not exists (select 1 from pg_roles where rolname = '${role}') then create role ${role}; end if; end $$; grant pg_read_all_data to ${role}`,
    );
    await client.query(`set role ${role}`);
    for (let time = 0; time < times; time += 1) await client.query(statement);
    await client.query('reset role');
  }
}
