-- Which terms say what a class or a tag means.
create table term_class (
  term_id uuid not null references term on delete cascade,
  class_key text not null,
  primary key (term_id, class_key)
);
create index on term_class (class_key);
create table term_tag (
  term_id uuid not null references term on delete cascade,
  tag_id uuid not null references tag on delete cascade,
  primary key (term_id, tag_id)
);
create index on term_tag (tag_id);
