-- Which columns refer to a table is asked from the table: by what they refer to.
create index asset_references on asset using gin ((native -> 'references')) where native ? 'references';
