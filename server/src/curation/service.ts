import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange } from '@idrel/contract/curation';
import { getAsset } from '../catalog/index.ts';
import { change, type Kept } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { settleAround } from '../recognition/index.ts';
import { wordsVector } from '../scanning/index.ts';
import { ASSET, type AssetRow } from './models.ts';

const names = (list: readonly { name: string }[]) => list.map((entry) => entry.name).sort();
/** What the journal keeps of an asset: words, not ids, so that it can be read years later. */
const assetForJournal = (asset: AssetAnswer) => ({
  description: asset.description,
  standing: asset.standing,
  owners: names(asset.owners),
  stewards: names(asset.stewards),
  terms: names(asset.terms),
  level: asset.levelSet,
  levelReason: asset.levelReason,
});

const ASSETS: Kept<AssetRow, AssetAnswer> = {
  thing: 'asset',
  model: ASSET,
  read: getAsset,
  told: (_db, asset) => assetForJournal(asset),
  subject: (_db, { kind, path, domainId }) => ({ kind, name: path, domainId }),
  may: (_db, who, { domainId }) => who.must('editor', domainId),
};

/** Up freely; down, and below what follows from the classes, only by who looks after the domain and with a reason. */
function checkLevel(who: Who, before: AssetAnswer, { level, levelReason, standing }: AssetChange): void {
  const lower = level !== undefined && (level ?? before.levelFound ?? 0) < (before.level ?? 0);
  if (standing !== undefined || lower) who.must('steward', before.domainId);
  if (level && (lower || level < (before.levelFound ?? 0)) && !levelReason?.trim())
    throw invalid(
      'The level would be lower than it is, or than what follows from the classes.',
      'Give the reason for it.',
      [{ field: 'levelReason', message: 'a reason is needed' }],
    );
}

/**
 * Writes what a person says of an asset. The version they saw must still be the one that stands there: else nothing is written,
 * and the answer holds what stands there now.
 */
export async function editAsset(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  asked: AssetChange,
): Promise<AssetAnswer> {
  const { before } = await change(tx, who, ASSETS, id, {
    version,
    values(now) {
      checkLevel(who, now, asked);
      const { description, standing, level, levelReason } = asked;
      return {
        ...(description === undefined ? {} : { description: description?.trim() || null }),
        ...(standing === undefined ? {} : { standing }),
        ...(level === undefined ? {} : { levelSet: level, levelReason: level === null ? null : (levelReason ?? null) }),
      };
    },
    async parts() {
      const { ownerIds, stewardIds, termIds } = asked;
      const touched = [
        ownerIds ? await setPeople(tx, id, 'owner', ownerIds) : 0,
        stewardIds ? await setPeople(tx, id, 'steward', stewardIds) : 0,
        termIds ? await setTerms(tx, id, termIds) : 0,
      ];
      return touched.some((rows) => rows > 0);
    },
  });
  if (asked.description !== undefined) await setWords(tx, id);
  if (asked.level !== undefined) await settleAround(tx, [id], new Map([[id, before.level]]));
  return getAsset(tx, who, id);
}

async function setTerms(tx: Db, id: string, terms: readonly string[]): Promise<number> {
  const gone = await tx.run('delete from asset_term where asset_id = $1 and term_id <> all($2::uuid[])', [id, terms]);
  const come = await tx.run(
    'insert into asset_term (asset_id, term_id) select $1, t.id from term t where t.id = any($2::uuid[]) on conflict do nothing',
    [id, terms],
  );
  return gone + come;
}

async function setPeople(tx: Db, id: string, role: string, people: readonly string[]): Promise<number> {
  const gone = await tx.run(
    'delete from asset_person where asset_id = $1 and role = $2 and person_id <> all($3::uuid[])',
    [id, role, people],
  );
  const come = await tx.run(
    `
      insert into asset_person (asset_id, person_id, role)
      select $1, p.id, $2
      from person p
      where p.id = any($3::uuid[])
      on conflict
      do nothing`,
    [id, role, people],
  );
  return gone + come;
}

/** The words by which an asset is found, when its description is another one. */
async function setWords(tx: Db, id: string): Promise<void> {
  const facts = await tx.one<{ name: string; description: string | null; comment: string | null; columns: string[] }>(
    `select a.name, a.description, a.native_comment as comment,
            array(select c.name from asset c where c.parent_id = a.id and c.kind = 'column' and c.gone_at is null) as columns
     from asset a
     where a.id = $1`,
    [id],
  );
  await tx.run('update asset set words = $2::tsvector where id = $1', [
    id,
    wordsVector([facts?.name ?? ''], [facts?.description, facts?.comment, ...(facts?.columns ?? [])]),
  ]);
}
