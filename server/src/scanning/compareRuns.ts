import type { ChangedAsset, RunComparison } from '@idrel/contract/scanning';
import { composeChanges, type RunChange } from '@idrel/core/scanning';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { folded, MOST } from './compare.ts';
import { getRun } from './service.ts';

/** What a run differs in from an earlier one: the changes of all runs after that one, put together. */
export async function compareRuns(db: Db, who: Who, laterId: string, earlierId: string): Promise<RunComparison> {
  const [later, earlier] = [await getRun(db, who, laterId), await getRun(db, who, earlierId)];
  const refuse = (why: string) =>
    invalid(why, 'Choose two runs of one source that came to their end, the earlier one to compare with.', [
      { field: 'with', message: why },
    ]);
  if (later.sourceId !== earlier.sourceId) throw refuse('The two are runs of different sources.');
  if (!later.comparison || !earlier.comparison)
    throw refuse('One of the two wrote nothing: it failed or was cancelled.');
  if (new Date(earlier.askedAt) >= new Date(later.askedAt))
    throw refuse('The run to compare with is not the earlier one.');
  const runs = await db.rows<{ id: string; told: number; kept: boolean }>(
    `
      select r.id, (select sum(n::int)::int from jsonb_each_text(r.comparison -> 'counts') c(k, n)) as told,
        exists (select from run_change c where c.run_id = r.id) as kept
      from scan_run r
      where r.source_id = $1
        and r.comparison is not null
        and r.asked_at > (select asked_at from scan_run where id = $2)
        and r.asked_at <= (select asked_at from scan_run where id = $3)
      order by r.asked_at`,
    [later.sourceId, earlier.id, later.id],
  );
  const rows = await db.rows<RunChange & { run: string }>(
    `
      select c.run_id as run, c.asset_id as id, c.path, c.kind, c.change, c.what
      from run_change c
      where c.run_id = any($1::uuid[])
        and not exists (select from asset a where a.id = c.asset_id and not ${isSeen('a', '$2')})
      order by c.path`,
    [runs.map((run) => run.id), who.domainsAs('reader')],
  );
  const byRun = new Map<string, RunChange[]>();
  for (const { run, ...change } of rows) (byRun.get(run) ?? byRun.set(run, []).get(run))?.push(change);
  if (runs.some((run) => run.told > 0 && !run.kept))
    throw refuse('A run between the two was made before changes were kept whole.');
  const changes = composeChanges(runs.map((run) => byRun.get(run.id) ?? []));
  const list = (change: RunChange['change']) => changes.filter((entry) => entry.change === change);
  const show = ({ id, path, kind, what }: RunChange): ChangedAsset => ({
    id,
    path,
    kind,
    ...(what.length > 0 ? { what } : {}),
  });
  const separated = (entries: readonly RunChange[]) =>
    folded(
      entries,
      (entry) => entry.path.slice(0, entry.path.lastIndexOf('.')),
      (entry) => entry.path,
      show,
    );
  return {
    first: false,
    counts: {
      new: list('new').length,
      changed: list('changed').length,
      gone: list('gone').length,
      back: list('back').length,
    },
    new: separated(list('new')),
    changed: list('changed').slice(0, MOST).map(show),
    gone: separated(list('gone')),
    back: list('back').slice(0, MOST).map(show),
  };
}
