import type pg from 'pg';

const quoted = (text: string) => `'${text.replaceAll("'", "''")}'`;

/** Where the Booking system is, as the Warehouse reaches it. */
export interface Reach {
  readonly host: string;
  readonly port: number;
  readonly owner: string;
  readonly ownerPassword: string;
  readonly reader: string;
  readonly readerPassword: string;
}

/** The Warehouse: landing (foreign tables over the Booking system), core (materialised), mart (views). */
export async function fillWarehouse(client: pg.Client, reach: Reach): Promise<void> {
  await client.query(`
    create schema landing; create schema core; create schema mart;
    comment on schema landing is 'As it comes from the source'; comment on schema core is 'One meaning for each thing'; comment on schema mart is 'Made for a question';
    create extension postgres_fdw;
    create server booking_system foreign data wrapper postgres_fdw options (host ${quoted(reach.host)}, port '${reach.port}', dbname 'booking_system', fetch_size '5000');
    create user mapping for "${reach.owner}" server booking_system options (user ${quoted(reach.owner)}, password ${quoted(reach.ownerPassword)});
    create user mapping for "${reach.reader}" server booking_system options (user ${quoted(reach.reader)}, password ${quoted(reach.readerPassword)});
    import foreign schema booking limit to (passenger, booking, booking_leg, payment, refund, vehicle_carried) from server booking_system into landing;
    import foreign schema ref limit to (port, route, fare_band, vessel) from server booking_system into landing;`);
  await client.query(VIEWS);
  await client.query(TILLS);
  await client.query('analyze');
}

const VIEWS = `
create table core.till_sale (id int primary key, vessel_id int not null, sold_at timestamptz not null, product text not null, quantity int not null, amount numeric(8,2) not null);
insert into core.till_sale select i, 1 + i % 11, now() - (i || ' minutes')::interval, (array['coffee', 'sandwich', 'newspaper', 'chocolate', 'souvenir'])[1 + i % 5], 1 + i % 3, 2.5 + (i % 40) / 4.0 from generate_series(1, 20000) i;
create table core.tariff_2023 (band text, price numeric(8,2), note text);
insert into core.tariff_2023 values ('Walk-on', 11.0, 'replaced'), ('Car', 44.0, 'replaced');
comment on table core.tariff_2023 is 'Retired, and still read by mart.fare_history';
create table mart.snapshot_sales_old (route text, month date, bookings int);

create materialized view core.traveller as
  select distinct on (lower(p.email), p.date_of_birth) p.id as traveller_id, initcap(p.given_name) as given_name, initcap(p.family_name) as family_name, p.date_of_birth, lower(p.email) as email, p.phone, p.country_code, p.created_at
  from landing.passenger p order by lower(p.email), p.date_of_birth, p.created_at desc;
create materialized view core.sailing_booking as
  select b.id as booking_id, b.passenger_id as traveller_id, r.id as route_id, po.name as from_port, pd.name as to_port, f.name as fare_band, f.price, b.status, b.booked_at, b.party_size
  from landing.booking b join landing.route r on r.id = b.route_id join landing.port po on po.id = r.from_port_id join landing.port pd on pd.id = r.to_port_id left join landing.fare_band f on f.id = b.fare_band_id;
create index on core.sailing_booking (traveller_id, booked_at desc);
create materialized view core.payment as select id as payment_id, booking_id, method, right(card_number, 4) as card_last_four, amount, paid_at from landing.payment;

create view mart.traveller_contact as select t.traveller_id, t.given_name, t.family_name, t.email, t.phone from core.traveller t where t.email is not null;
create view mart.traveller_contact_masked as select traveller_id, given_name, left(email, 1) || '***' as email_masked, md5(email) as email_key from core.traveller;
create view mart.fare_sales as
  with paid as (select booking_id, sum(amount) as amount, count(*) as payments from core.payment group by booking_id)
  select s.from_port || ' – ' || s.to_port as route, s.fare_band, date_trunc('month', s.booked_at)::date as month, count(*) as bookings, sum(s.party_size) as people, sum(coalesce(paid.amount, 0)) as revenue
  from core.sailing_booking s left join paid using (booking_id) where s.status <> 'cancelled' group by 1, 2, 3;
create view mart.route_rank as select route, month, revenue, rank() over (partition by month order by revenue desc) as place, revenue - lag(revenue) over (partition by route order by month) as change from (select route, month, sum(revenue) as revenue from mart.fare_sales group by route, month) q;
create view mart.minor_travellers as select t.traveller_id, t.given_name, extract(year from age(t.date_of_birth))::int as age_years, exists (select 1 from core.sailing_booking s where s.traveller_id = t.traveller_id and s.status = 'open') as travels_soon from core.traveller t where t.date_of_birth > current_date - interval '18 years';
create view mart.last_booking as select t.traveller_id, t.email, l.from_port, l.to_port, l.booked_at from core.traveller t cross join lateral (select s.* from core.sailing_booking s where s.traveller_id = t.traveller_id order by s.booked_at desc limit 1) l;
create view mart.reachable_port as
  with recursive way(port_id, name, stops, route) as (
    select p.id, p.name, 0, p.name from landing.port p where p.code = 'TRN'
    union all select d.id, d.name, way.stops + 1, way.route || ' › ' || d.name from way join landing.route r on r.from_port_id = way.port_id join landing.port d on d.id = r.to_port_id where way.stops < 5)
  select distinct name, min(stops) over (partition by name) as stops from way;
create view mart.fare_history as select f.name as band, f.price, case when f.valid_until is null then 'current' else 'ended' end as state from landing.fare_band f union all select band, price, note from core.tariff_2023;
create view mart.onboard_sales as select v.vessel_name, t.product, date_trunc('day', t.sold_at)::date as day, sum(t.quantity) as pieces, sum(t.amount) filter (where t.amount > 0) as revenue from core.till_sale t join landing.vessel v on v.id = t.vessel_id group by grouping sets ((v.vessel_name, t.product, date_trunc('day', t.sold_at)::date));
create view mart.money_back as select p.payment_id, p.card_last_four, r.account, r.amount from core.payment p natural join (select payment_id, account, amount as refunded, amount from landing.refund) r where r.refunded > 0;
grant select on mart.traveller_contact to public;`;

/** How the onboard tills are closed: types, routines, checks and a trigger of the warehouse's own. */
const TILLS = `
create type core.till_state as enum ('open', 'counted', 'closed', 'disputed');
comment on type core.till_state is 'How far the evening count of a till is';
create domain core.euros as numeric(10,2) check (value >= 0);
comment on domain core.euros is 'An amount in euros, never below zero';
create sequence core.till_receipt start 40001 increment by 1;
create table core.till_day (
  vessel_id int not null, day date not null, state core.till_state not null default 'open', counted core.euros, receipt int not null default nextval('core.till_receipt'), remark text,
  primary key (vessel_id, day), constraint receipt_once unique (receipt, day), constraint counted_when_closed check (state <> 'closed' or counted is not null));
alter sequence core.till_receipt owned by core.till_day.receipt;
comment on table core.till_day is 'One evening count of a vessel’s tills';
comment on constraint counted_when_closed on core.till_day is 'A till is closed by its count alone';
create index till_day_open on core.till_day (day) where state <> 'closed';
comment on index core.till_day_open is 'For the list that the purser sees each morning';
insert into core.till_day (vessel_id, day, state, counted)
  select v, current_date - d, case when d = 0 then 'open' when (v * d) % 97 = 0 then 'disputed' when d = 1 then 'counted' else 'closed' end::core.till_state, case when d > 0 then 800 + (v * 131 + d * 37) % 900 end
  from generate_series(1, 11) v, generate_series(0, 60) d;
create function core.net_price(amount numeric, vat_rate numeric default 0.25) returns numeric language sql immutable as 'select round(amount / (1 + vat_rate), 2)';
comment on function core.net_price(numeric, numeric) is 'A price without its tax';
create function core.till_takings(vessel int, from_day date, out day date, out takings numeric) returns setof record language sql stable
  as 'select sold_at::date, sum(amount) from core.till_sale where vessel_id = vessel and sold_at >= from_day group by 1 order by 1';
comment on function core.till_takings(int, date) is 'What the tills of a vessel took in, day by day';
create function core.keep_closed() returns trigger language plpgsql as $$
begin
  if old.state = 'closed' and new.state <> 'disputed' then
    raise exception 'The till of vessel % on % is closed.', old.vessel_id, old.day;
  end if;
  return new;
end $$;
create trigger keep_closed before update on core.till_day for each row execute function core.keep_closed();
comment on trigger keep_closed on core.till_day is 'A closed count changes only by a dispute';
create procedure core.close_till_day(vessel int, of_day date) language sql security definer
  as 'update core.till_day set state = ''closed'' where vessel_id = vessel and day = of_day and counted is not null';
create table core.till_dispute (id int generated always as identity primary key, receipt int not null, day date not null, counted core.euros, found_at timestamptz not null default now());
comment on table core.till_dispute is 'Counts that somebody doubts, as they were when the doubt came up';
create function core.keep_dispute() returns trigger language plpgsql as $$
begin
  if new.state = 'disputed' and old.state <> 'disputed' then
    insert into core.till_dispute (receipt, day, counted) values (old.receipt, old.day, old.counted);
  end if;
  return null;
end $$;
create trigger keep_dispute after update on core.till_day for each row execute function core.keep_dispute();
create table mart.vessel_month (vessel_name text not null, month date not null, takings numeric(12,2), counted numeric(12,2), remark text, primary key (vessel_name, month));
comment on table mart.vessel_month is 'What the tills of each vessel took in by month, beside what was counted; filled by core.sum_up_month';
create procedure core.sum_up_month(of_month date) language plpgsql as $$
declare
  vessel record;
  in_tills numeric;
begin
  create temporary table evening on commit drop as
    select vessel_id, sum(counted) as counted, max(remark) as remark
    from core.till_day
    where date_trunc('month', day) = of_month and state in ('counted', 'closed')
    group by vessel_id;
  delete from mart.vessel_month where month = of_month;
  for vessel in
    select v.id, v.vessel_name, e.counted, e.remark from landing.vessel v join evening e on e.vessel_id = v.id
  loop
    select sum(amount) into in_tills
    from core.till_sale
    where vessel_id = vessel.id and date_trunc('month', sold_at) = of_month;
    insert into mart.vessel_month (vessel_name, month, takings, counted, remark)
    values (vessel.vessel_name, of_month, in_tills, vessel.counted, vessel.remark);
  end loop;
end $$;
comment on procedure core.sum_up_month(date) is 'Compares what the tills of each vessel took in with the evening counts';
create procedure core.put_away(of_month date, shelf text) language plpgsql as $$
begin
  execute format('insert into %I.till_day_kept select receipt, day, counted from core.till_day where day < $1', shelf)
    using of_month;
  delete from core.till_day where day < of_month;
end $$;
comment on procedure core.put_away(date, text) is 'Moves old evening counts to the schema of a year';`;
