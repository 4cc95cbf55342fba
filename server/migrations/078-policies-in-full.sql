-- What a mask does is said with it: which part is shown, how wide a band is, for whom digests are equal.
alter table policy alter column mask type jsonb using case mask
  when 'blank' then '{"kind": "blank"}'::jsonb
  when 'partial' then '{"kind": "partial", "first": 1, "last": 0}'
  when 'hash' then '{"kind": "digest", "keyed": "installation"}'
  when 'year' then '{"kind": "general", "to": "year", "step": null}'
end;
update policy set rows = rows || '{"attribute": null, "through": null}' where rows is not null;

alter table policy
  add column columns_but boolean not null default false,
  add column until timestamptz,
  add column hours jsonb,
  add column purposes text[] not null default '{}';

-- What is known of people that policies ask for: their port, their country, their organisation.
create table person_attribute (
  person_id uuid not null references person on delete cascade,
  key text not null,
  value text not null,
  primary key (person_id, key, value)
);

-- What for it was read, where the reader said so.
alter table gateway_query add column purpose text;
