import type { ChangedAsset, RunComparison } from '@idrel/contract/scanning';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';

const LISTS = ['new', 'changed', 'gone', 'back'] as const;
const ELSEWHERE = 'in a domain that you may not see';

const listed = (comparison: RunComparison): string[] => [
  ...LISTS.flatMap((list) => comparison[list].map(({ id }) => id)),
  ...(comparison.renames ?? []).flatMap(({ from, to }) => [from.id, to.id]),
];

/** Of these assets those that are there, and lie where the person may not see them. Whoever may see a source may not see all of it: what it holds can lie in other domains. */
async function unseenOf(
  db: Db,
  who: Who,
  runs: readonly { readonly sourceId: string; readonly comparison: RunComparison | null }[],
): Promise<ReadonlySet<string>> {
  const domains = who.domainsAs('reader');
  // Of most sources nothing was moved: then nothing of the lists, which can be long, is looked up.
  const moved = await db.one(
    'select from asset where domain_set <> all($2::uuid[]) and source_id = any($1::uuid[]) limit 1',
    [[...new Set(runs.map(({ sourceId }) => sourceId))], domains],
  );
  if (!moved) return new Set();
  const ids = runs.flatMap(({ comparison }) => (comparison ? listed(comparison) : []));
  const rows = await db.rows<{ id: string }>(
    `select id from asset where id = any($1::uuid[]) and not ${isSeen('asset', '$2')}`,
    [ids.filter(Boolean), domains],
  );
  return new Set(rows.map(({ id }) => id));
}

/** Runs with what differs as far as the person may see it. Counts are whole. Renames are settled by their place in the list: those of what is not seen keep it, without names. */
export async function asSeen<T extends { readonly sourceId: string; readonly comparison: RunComparison | null }>(
  db: Db,
  who: Who,
  runs: readonly T[],
): Promise<T[]> {
  const unseen = await unseenOf(db, who, runs);
  if (unseen.size === 0) return [...runs];
  const shown = (assets: readonly ChangedAsset[]) => assets.filter(({ id }) => !unseen.has(id));
  const named = (asset: ChangedAsset): ChangedAsset =>
    unseen.has(asset.id) ? { id: '', path: ELSEWHERE, kind: asset.kind } : asset;
  return runs.map((run) => {
    const { comparison } = run;
    if (!comparison) return run;
    const { new: fresh, changed, gone, back, renames } = comparison;
    return {
      ...run,
      comparison: {
        ...comparison,
        new: shown(fresh),
        changed: shown(changed),
        gone: shown(gone),
        back: shown(back),
        ...(renames
          ? { renames: renames.map((rename) => ({ ...rename, from: named(rename.from), to: named(rename.to) })) }
          : {}),
      },
    };
  });
}
