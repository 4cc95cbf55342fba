-- An asset lies in the domain that somebody chose for it, else in that of what holds it, else in that of its source: `domain_id` is what follows.
alter table asset add column domain_set uuid references domain;
create index asset_domain_set on asset (domain_set) where domain_set is not null;

-- Works out the domains of these assets, and of what lies in them; returns how many lie in another one than before. Of what is chosen with something that holds it the way
-- from the highest counts.
create function settle_domains(these uuid[]) returns integer
language sql as $$
  with recursive due as (
    select a.id, coalesce(a.domain_set, p.domain_id, s.domain_id) as domain_id, 0 as steps
    from unnest(these) g(id)
    join asset a on a.id = g.id
    join source s on s.id = a.source_id
    left join asset p on p.id = a.parent_id
    union all
    select c.id, due.domain_id, due.steps + 1
    from due
    join asset c on c.parent_id = due.id
    where c.domain_set is null
  ),
  last as (select distinct on (id) id, domain_id from due order by id, steps desc),
  moved as (
    update asset a
    set domain_id = last.domain_id
    from last
    where a.id = last.id and a.domain_id <> last.domain_id
    returning 1
  )
  select count(*)::int from moved
$$;
