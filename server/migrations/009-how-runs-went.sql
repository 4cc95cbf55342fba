-- How a run went: seconds since its start, objects and sampled objects at some moments; and at its end what was slow and what failed.
alter table scan_run add column pace jsonb not null default '[]', add column details jsonb;

/* Adds a moment; of a long run every second one is let go, so that the row stays small. */
create function paced(pace jsonb, started timestamptz, counts jsonb) returns jsonb language sql stable as $$
  select case when jsonb_array_length(pace) < 200 then pace
              else (select jsonb_agg(x.moment order by x.n) from jsonb_array_elements(pace) with ordinality x(moment, n) where x.n % 2 = 1) end
    || jsonb_build_array(jsonb_build_array(round(extract(epoch from clock_timestamp() - started)::numeric, 1), coalesce((counts ->> 'objects')::int, 0), coalesce((counts ->> 'sampled')::int, 0)))
$$;
