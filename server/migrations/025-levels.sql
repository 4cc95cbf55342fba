-- What an organisation calls its levels. Searches know them by the words they ship with, whatever they are called.
create table level_text (
  level smallint primary key check (level between 1 and 4),
  name text not null,
  meaning text not null default '',
  advice text not null default '',
  version integer not null default 1
);
create unique index on level_text (lower(name));
insert into level_text (level, name, meaning, advice) values
  (1, 'open', 'Anybody in the organisation may read it, and it may be shown outside.', 'No care beyond what is usual.'),
  (2, 'internal', 'For people of the organisation.', 'Keep it inside; share it outside only by a share.'),
  (3, 'guarded', 'Personal or confidential: for those whose work needs it.', 'Read it through a policy, masked where the value itself is not needed. No raw values are kept in profiles.'),
  (4, 'sealed', 'Would do harm in the wrong hands.', 'Only under a policy that names the people; never in a file of your own.');

-- Kinds of assets to which levels rise from what they hold.
create table level_kinds (
  one boolean primary key default true check (one),
  kinds text[] not null,
  version integer not null default 1
);
insert into level_kinds (kinds) values (array['table', 'view', 'materialised view', 'foreign table', 'file', 'file set', 'folder', 'report', 'dashboard']);

-- How many assets had which level at the end of each day on which levels of a source were worked out.
create table level_day (
  day date not null,
  source_id uuid not null references source on delete cascade,
  domain_id uuid not null references domain on delete cascade,
  kind text not null,
  -- 0: none.
  level smallint not null,
  assets integer not null,
  primary key (source_id, day, domain_id, kind, level)
);
