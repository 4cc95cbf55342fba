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
    [
      'call_centre',
      'select p.given_name, p.family_name, p.phone, b.booking_ref, b.status from booking.passenger p join booking.booking b on b.passenger_id = p.id where p.phone = $$+44 20 7946 0102$$',
      34,
    ],
    [
      'call_centre',
      'select b.booking_ref, y.amount, y.paid_at from booking.booking b join booking.payment y on y.booking_id = b.id where b.booking_ref = $$TF0017$$ order by y.paid_at',
      21,
    ],
    [
      'fares_desk',
      'select l.sailing_date, count(*) as booked from booking.booking_leg l join booking.booking b on b.id = l.booking_id where b.status = $$confirmed$$ group by l.sailing_date order by l.sailing_date',
      14,
    ],
    ['fares_desk', 'select count(*) from booking.payment', 3],
  ],
  fleet_office: [
    [
      'technical_office',
      'select w.code, w.title, w.state, l.part_code, l.quantity from maintenance.work_order w join maintenance.work_order_line l on l.work_order_id = w.id where w.state <> $$closed$$ order by w.priority',
      46,
    ],
    [
      'technical_office',
      'select e.code, r.read_at, r.value, r.unit from maintenance.main_engine e join maintenance.main_engine_reading r on r.main_engine_id = e.id where r.gauge = $$exhaust$$ and r.read_at > now() - interval $$1 day$$',
      38,
    ],
    [
      'bridge_board',
      'select cause, count(*) as times, avg(downtime_minutes) as minutes from maintenance.main_engine_fault group by cause',
      12,
    ],
    [
      'accounts',
      'select c.cost_centre, sum(c.net_amount) as spent from maintenance.work_order_cost c join maintenance.work_order w on w.id = c.work_order_id where w.budget_year = 2026 group by c.cost_centre',
      17,
    ],
    [
      'accounts',
      'select title, issued_on, valid_until from maintenance.work_order_document where valid_until < current_date',
      5,
    ],
  ],
  freight_desk: [
    [
      'freight_desk',
      'select c.code, c.title, l.text, l.quantity from freight.consignment c join freight.consignment_line l on l.consignment_id = c.id where c.state = $$open$$',
      52,
    ],
    [
      'freight_desk',
      'select t.code, s.value from freight.trailer t join freight.trailer_reading s on s.trailer_id = t.id where s.is_accepted = false',
      9,
    ],
    [
      'accounts',
      'select o.cost_centre, sum(o.gross_amount) as billed from freight.consignment_cost o join freight.consignment c on c.id = o.consignment_id group by o.cost_centre',
      11,
    ],
  ],
  warehouse: [
    ['fares_desk', 'select route, sum(revenue) from mart.fare_sales group by route', 30],
    ['fares_desk', 'select band, price from mart.fare_history where state = $$current$$', 12],
    ['counter', 'select vessel_name, sum(revenue) from mart.onboard_sales group by vessel_name', 6],
  ],
};

const isCounted = async (client: pg.Client): Promise<boolean> =>
  (
    await client.query<{ loaded: boolean }>(
      "select current_setting('shared_preload_libraries') like '%pg_stat_statements%' as loaded",
    )
  ).rows[0]?.loaded ?? false;

/** Forgets what the maker of the demo itself asked in a database where uses are counted: it is no load of the company. */
export async function forgetMaking(client: pg.Client): Promise<void> {
  if (await isCounted(client))
    await client.query(
      `select pg_stat_statements_reset(s.userid, s.dbid, s.queryid)
       from pg_stat_statements s
       where s.userid = (select oid from pg_roles where rolname = current_user)
         and s.dbid = (select oid from pg_database where datname = current_database())`,
    );
}

/** Lets the programs of the demo ask, by the rights that they have, where the server counts statements; elsewhere nothing happens. What filled the tables is not counted. */
export async function makeUses(client: pg.Client, database: string): Promise<void> {
  if (!(await isCounted(client))) return;
  await client.query('create extension if not exists pg_stat_statements');
  await client.query(
    'select pg_stat_statements_reset(0, (select oid from pg_database where datname = current_database()), 0)',
  );
  for (const [role, statement, times] of ASKED[database] ?? []) {
    await client.query(`set role ${role}`);
    for (let time = 0; time < times; time += 1) await client.query(statement);
    await client.query('reset role');
  }
}
