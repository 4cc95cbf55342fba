-- Tables are found by what those who ask call what they show of them: names that kept statements give, where all of a statement's tables lie in one domain, so that
-- whoever may see one of them may see the text.
alter table asked_statement add column words tsvector;
alter table said_words drop constraint said_words_said_in_check;
alter table said_words add constraint said_words_said_in_check check (said_in in ('guide', 'discussion', 'asked'));

-- Of each table the words of the statements that came last.
create function say_asked(these uuid[]) returns void
language sql as $$
  with told as (
    select a.id, (
      select string_agg(q.words::text, ' ')::tsvector
      from (
        select q.words
        from asked_for f
        join asked_statement q on q.id = f.statement_id
        where f.asset_id = a.id and q.text is not null and q.words <> ''
          and not exists (
            select from asked_for o join asset x on x.id = o.asset_id where o.statement_id = q.id and x.domain_id <> a.domain_id
          )
        order by q.first_at desc, q.id
        limit 100
      ) q
    ) as words
    from asset a
    where a.id = any(these) and a.kind <> 'column'
  ),
  gone as (
    delete from said_words w using told where w.asset_id = told.id and w.said_in = 'asked' and told.words is null
  )
  insert into said_words (asset_id, said_in, words)
  select id, 'asked', words
  from told
  where words is not null
  on conflict (asset_id, said_in) do update set words = excluded.words where said_words.words <> excluded.words
$$;

create function say_asked_of_moved() returns trigger
language plpgsql as $$
begin
  if exists (select from asked_for where asset_id = new.id) then
    perform say_asked(array(
      select distinct o.asset_id
      from asked_for f
      join asked_for o on o.statement_id = f.statement_id
      where f.asset_id = new.id
    ));
  end if;
  return null;
end
$$;
create trigger asked_moved after update of domain_id on asset
for each row when (old.domain_id is distinct from new.domain_id) execute function say_asked_of_moved();

-- What carries a tag is found by its value as well; a value's words do not depend on the tag.
create table tag_value_words (
  value text primary key,
  words tsvector not null
);
create index on tag_value_words using gin (words);
create index on asset_tag (value) where value <> '';
