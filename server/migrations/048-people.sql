-- People who have left stay as names in what they did; they hold nothing any more and cannot sign in.
alter table person add column left_at timestamptz, add column version int not null default 1;
alter table person_group add column version int not null default 1;
