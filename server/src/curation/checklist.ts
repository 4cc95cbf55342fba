/**
 * Parts of statements over `asset a` with `left join checklist cl on cl.kind = a.kind`: what the checklist of its kind asks and is not so. Core's `check` says
 * the same of the facts of one asset (a test holds them together); sets of assets are asked in SQL.
 */
const COLUMNS = "from asset c where c.parent_id = a.id and c.kind = 'column' and c.gone_at is null";
const described = (asset: string) => `coalesce(${asset}.description, '') <> ''`;
const SCANNED_DAYS = `
  (
    select floor(extract(epoch from now() - max(r.ended_at)) / 86400)
    from scan_run r
    where r.source_id = a.source_id and r.state in ('done', 'partly done')
  )`;
const FINDINGS = `
  (
    select count(*)
    from finding_waiting w
    where w.asset_id in (select a.id union all select c.id ${COLUMNS})
  )`;
const FLOWS = {
  up: 'exists (select from lineage_feed f where f.to_id = a.id) or exists (select from lineage_edge e where e.to_id = a.id and not e.wrong)',
  down: 'exists (select from lineage_feed f where f.from_id = a.id) or exists (select from lineage_edge e where e.from_id = a.id and not e.wrong)',
} as const;

/** The facts that `check` of core asks for. */
export const CHECK_FACTS = `
  json_build_object(
    'described', ${described('a')},
    'owners', (select count(*) from asset_person p where p.asset_id = a.id and p.role = 'owner'),
    'columns', (select count(*) ${COLUMNS}),
    'columnsDescribed', (select count(*) ${COLUMNS} and ${described('c')}),
    'findings', ${FINDINGS},
    'upstream', ${FLOWS.up},
    'downstream', ${FLOWS.down},
    'scannedDays', ${SCANNED_DAYS}
  )`;

/** A list of what is asked and not so; empty where all of it is, or nothing is asked. */
export const OPEN_ITEMS = `
  array_remove(array[
    case when cl.described and not (${described('a')}) then 'described' end,
    case when cl.owned and not exists (select from asset_person p where p.asset_id = a.id and p.role = 'owner') then 'owned' end,
    case
      when cl.columns_described is not null
        and (select count(*) filter (where ${described('c')}) < ceil(cl.columns_described * count(*) - 1e-9) ${COLUMNS})
      then 'columns described'
    end,
    case when cl.findings_settled and ${FINDINGS} > 0 then 'findings settled' end,
    case when cl.lineage_up and not (${FLOWS.up}) then 'lineage upstream' end,
    case when cl.lineage_down and not (${FLOWS.down}) then 'lineage downstream' end,
    case when cl.fresh_days is not null and coalesce(${SCANNED_DAYS} > cl.fresh_days, true) then 'fresh' end
  ], null)`;

/** True of an `asset a` of which nothing is open. */
export const IS_COMPLETE = `
  not exists (
    select from checklist cl where cl.kind = a.kind and cardinality(${OPEN_ITEMS}) > 0
  )`;
