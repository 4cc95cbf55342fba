-- What an asset gives to what holds it: its level, or of a kind that is to have none what it would be. With it a decision touches what stands above it, and not the whole source.
alter table asset add column rises smallint;
update asset set rises = level where level is not null;
do $$
begin
  for ring in reverse (select coalesce(max(a.depth), 0) from asset a) .. 0 loop
    update asset h set rises = b.level
    from (select c.parent_id as id, max(c.rises) as level from asset c where c.depth > ring and c.gone_at is null and c.rises is not null group by 1) b
    where b.id = h.id and h.depth = ring and h.level_set is null and h.rises is distinct from b.level;
  end loop;
end $$;
