-- Rights told apart: a policy that allows says how far it opens, and whether what it opens may be given on. What was given on says by whom: it opens no more
-- than they may pass on themselves, which is looked at when it is decided by, so that nothing has to be ended when their own right ends.
alter table policy
  add column opens text not null default 'read' check (opens in ('read', 'preview')),
  add column passes_on boolean not null default false,
  add column given_by uuid references person (id),
  add constraint only_what_allows_is_passed_on check (effect = 'allow' or (opens = 'read' and not passes_on and given_by is null));
create index policy_given_by on policy (given_by) where given_by is not null;

select past.keeps_also('policy', array['opens', 'passes_on', 'given_by']);
-- Before this was told apart, what allowed opened to be read and was passed on by nobody.
update past.policy_gone set opens = 'read', passes_on = false where opens is null;
