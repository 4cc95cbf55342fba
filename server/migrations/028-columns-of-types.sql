-- Which columns have a type that somebody made: few do, and the page of the type asks for them.
create index asset_of_type on asset (source_id, (native ->> 'ofType')) where native ->> 'ofType' is not null;
