-- People say of themselves that they know an asset.
alter table asset_person drop constraint asset_person_role_check;
alter table asset_person add constraint asset_person_role_check check (role in ('owner', 'steward', 'custodian', 'expert'));
