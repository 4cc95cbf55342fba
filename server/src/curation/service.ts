import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange } from '@idrel/contract/curation';
import { getAsset } from '../catalog/index.ts';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid, mustBeCurrent } from '../platform/problems.ts';
import { settleAround } from '../recognition/levelsAround.ts';
import { wordsVector } from '../scanning/index.ts';

const names = (list: readonly { name: string }[]) => list.map((entry) => entry.name).sort();
/** What the journal keeps of an asset: words, not ids, so that it can be read years later. */
const spoken = (asset: AssetAnswer) => ({
  description: asset.description,
  standing: asset.standing,
  owners: names(asset.owners),
  stewards: names(asset.stewards),
  terms: names(asset.terms),
  level: asset.levelSet,
  levelReason: asset.levelReason,
});

/**
 * Writes what a person says of an asset. The version they saw must still be the one that stands there: else nothing is written,
 * and the answer holds what stands there now.
 */
export async function editAsset(
  tx: Db,
  who: Who,
  id: string,
  version: number | undefined,
  change: AssetChange,
): Promise<AssetAnswer> {
  await tx.rows('select 1 from asset where id = $1 for update', [id]);
  const before = await getAsset(tx, who, id);
  who.must('editor', before.domainId);
  // Up freely; down only by who looks after the domain, and with a reason.
  const lower = change.level !== undefined && (change.level ?? before.levelFound ?? 0) < (before.level ?? 0);
  if (change.standing !== undefined || lower) who.must('steward', before.domainId);
  mustBeCurrent(version, before);
  if (change.level && (lower || change.level < (before.levelFound ?? 0)) && !change.levelReason?.trim()) {
    throw invalid(
      'The level would be lower than it is, or than what follows from the classes.',
      'Give the reason for it.',
      [{ field: 'levelReason', message: 'a reason is needed' }],
    );
  }
  if (change.description !== undefined) await setDescription(tx, id, change.description?.trim() || null);
  if (change.standing !== undefined)
    await tx.run('update asset set standing = $2 where id = $1', [id, change.standing]);
  if (change.level !== undefined) {
    await tx.run('update asset set level_set = $2, level_reason = $3 where id = $1', [
      id,
      change.level,
      change.level === null ? null : (change.levelReason ?? null),
    ]);
    await settleAround(tx, [before.id], new Map([[before.id, before.level]]));
  }
  if (change.ownerIds) await setPeople(tx, id, 'owner', change.ownerIds);
  if (change.stewardIds) await setPeople(tx, id, 'steward', change.stewardIds);
  if (change.termIds) {
    await tx.run('delete from asset_term where asset_id = $1 and term_id <> all($2::uuid[])', [id, change.termIds]);
    await tx.run(
      'insert into asset_term (asset_id, term_id) select $1, t.id from term t where t.id = any($2::uuid[]) on conflict do nothing',
      [id, change.termIds],
    );
  }
  const after = await getAsset(tx, who, id);
  const told = await record(
    tx,
    who.id,
    'edited',
    { kind: after.kind, id, name: after.path, domainId: after.domainId },
    spoken(before),
    spoken(after),
  );
  if (!told) return before; // nothing differs: no new version
  await tx.run('update asset set version = version + 1 where id = $1', [id]);
  return { ...after, version: before.version + 1 };
}

async function setPeople(tx: Db, id: string, role: string, people: readonly string[]): Promise<void> {
  await tx.run('delete from asset_person where asset_id = $1 and role = $2 and person_id <> all($3::uuid[])', [
    id,
    role,
    people,
  ]);
  await tx.run(
    'insert into asset_person (asset_id, person_id, role) select $1, p.id, $2 from person p where p.id = any($3::uuid[]) on conflict do nothing',
    [id, role, people],
  );
}

/** The description, and the words by which the asset is found. */
async function setDescription(tx: Db, id: string, description: string | null): Promise<void> {
  const facts = await tx.one<{ name: string; comment: string | null; columns: string[] }>(
    "select a.name, a.native_comment as comment, coalesce((select array_agg(c.name) from asset c where c.parent_id = a.id and c.kind = 'column' and c.gone_at is null), '{}') as columns from asset a where a.id = $1",
    [id],
  );
  await tx.run('update asset set description = $2, words = $3::tsvector where id = $1', [
    id,
    description,
    wordsVector([facts?.name ?? ''], [description, facts?.comment, ...(facts?.columns ?? [])]),
  ]);
}
