-- While the first scan of a large source comes in, the planner still takes the table of assets for empty, and would read it whole for each parent: references are looked up by their index.
alter function asset_refer() set enable_seqscan to off;
