import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

/** The folder of the scripts by which the Warehouse is filled, below that of the demo. */
export const LOADS_FOLDER = 'warehouse-loads';

const SCRIPTS: Readonly<Record<string, string>> = {
  'nightly/10_fares.sql': `-- Prices that are no longer asked for, beside those that are.
\\set schema core

begin;
create temporary table ended as
  select name, price, valid_until
  from landing.fare_band
  where valid_until is not null;

update :schema.tariff_2023 t
set price = e.price, note = 'ended on ' || e.valid_until
from ended e
where e.name = t.band;

insert into :schema.tariff_2023 (band, price, note)
select e.name, e.price, 'ended on ' || e.valid_until
from ended e
where not exists (select from core.tariff_2023 t where t.band = e.name);
commit;
`,
  'nightly/20_vessel_month.sql': `-- What the tills took in, beside what was counted: this month and the one before.
call core.sum_up_month(date_trunc('month', current_date)::date);
call core.sum_up_month((date_trunc('month', current_date) - interval '1 month')::date);
`,
  'nightly/30_disputes.sql': `-- Counts that differ from what the tills took in are looked at again.
merge into core.till_day d
using (
  select s.vessel_id, s.sold_at::date as day, sum(s.amount) as takings
  from core.till_sale s
  group by 1, 2
) s on s.vessel_id = d.vessel_id and s.day = d.day
when matched and d.state = 'counted' and abs(d.counted - s.takings) > 500 then
  update set state = 'disputed', remark = 'differs from the tills: ' || s.takings;
`,
  'once/2024_snapshot.sql': `-- The board asked for it once; who reads it now is not known.
truncate mart.snapshot_sales_old;
insert into mart.snapshot_sales_old
select route, month, bookings
from mart.fare_sales
where month < date '2024-01-01';
`,
  'once/archive_counts.sql': `-- Moves evening counts to the shelf of their year.
do $$
declare
  shelf text;
begin
  for shelf in select distinct 'kept_' || extract(year from day) from core.till_day where day < current_date - 400 loop
    execute format('create schema if not exists %I', shelf);
    call core.put_away(current_date - 400, shelf);
    execute format('insert into %I.notes select remark from core.till_day where remark is not null', shelf);
  end loop;
end $$;
\\copy core.till_dispute to 'disputes.csv' csv header
`,
};

/** Writes the scripts of the Warehouse. @param folder of the demo */
export function writeLoads(folder: string): void {
  for (const [name, text] of Object.entries(SCRIPTS)) {
    const path = join(folder, LOADS_FOLDER, name);
    mkdirSync(dirname(path), { recursive: true });
    writeFileSync(path, text);
  }
}
