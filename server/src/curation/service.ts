import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange, curationEndpoints } from '@idrel/contract/curation';
import type { AnswerOf, BodyOf } from '@idrel/contract/http';
import { PRIORITIES } from '@idrel/core/catalog';
import { getAsset } from '../catalog/index.ts';
import { change, type Kept, say } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { follow } from '../platform/jobs.ts';
import { ApiProblem, invalid } from '../platform/problems.ts';
import { settleAround, settleArrivals } from '../recognition/index.ts';
import { ASSET, type AssetRow } from './models.ts';
import { mayStand, setStanding } from './standing.ts';
import { mustGiveTag, rulesOf, type TagRules } from './tagRules.ts';
import { spellValues } from './tagWords.ts';
import { setWords } from './words.ts';

const names = (list: readonly { name: string }[]) => list.map((entry) => entry.name).sort();
/** What the journal keeps of an asset: words, not ids, so that it can be read years later. */
const assetForJournal = (asset: AssetAnswer) => ({
  description: asset.description,
  standing: asset.standing,
  owners: names(asset.owners),
  stewards: names(asset.stewards),
  custodians: names(asset.custodians),
  terms: names(asset.terms),
  tags: asset.tags.map(({ name, value }) => (value ? `${name}/${value}` : name)),
  level: asset.levelSet,
  levelReason: asset.levelReason,
  priority: asset.priorityFacts.stated === null ? null : PRIORITIES[asset.priorityFacts.stated],
  priorityReason: asset.priorityFacts.reason,
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
  action = 'edited',
): Promise<AssetAnswer> {
  const { before } = await change(tx, who, ASSETS, id, {
    version,
    action,
    async values(now) {
      checkLevel(who, now, asked);
      await mayStand(tx, who, now, asked);
      const { description, standing, level, levelReason, priority, priorityReason } = asked;
      return {
        ...(description === undefined ? {} : { description: description?.trim() || null }),
        ...(standing === undefined ? {} : { standing }),
        ...(level === undefined ? {} : { levelSet: level, levelReason: level === null ? null : (levelReason ?? null) }),
        ...(priority === undefined
          ? {}
          : { prioritySet: priority, priorityReason: priority === null ? null : priorityReason?.trim() || null }),
      };
    },
    async parts(_id, before) {
      const { ownerIds, stewardIds, custodianIds, termIds, tags } = asked;
      const touched = [
        ownerIds ? await setPeople(tx, id, 'owner', ownerIds) : 0,
        stewardIds ? await setPeople(tx, id, 'steward', stewardIds) : 0,
        custodianIds ? await setPeople(tx, id, 'custodian', custodianIds) : 0,
        termIds ? await setTerms(tx, id, termIds) : 0,
        tags ? await setTags(tx, who, id, before, tags) : 0,
        Number(await setStanding(tx, who, before, asked)),
      ];
      return touched.some((rows) => rows > 0);
    },
  });
  if (asked.description !== undefined) await setWords(tx, [id]);
  if (asked.level !== undefined) await settleAround(tx, [id], new Map([[id, before.level]]));
  if (asked.priority !== undefined) await follow(tx, 'priority');
  return getAsset(tx, who, id);
}

/** Somebody says of themselves that they know an asset, or no longer: whoever sees it may. It is no edit of it, and gives no version. */
export async function knowAsset(tx: Db, who: Who, id: string, knows: boolean): Promise<AssetAnswer> {
  const experts = async () => names((await getAsset(tx, who, id)).experts);
  await say(tx, who, {
    action: 'edited',
    async held() {
      await tx.run('select from asset where id = $1 for update', [id]);
      return getAsset(tx, who, id);
    },
    may: () => undefined,
    async write({ experts: before }) {
      await tx.run(
        knows
          ? "insert into asset_person (asset_id, person_id, role) values ($1, $2, 'expert') on conflict do nothing"
          : "delete from asset_person where asset_id = $1 and person_id = $2 and role = 'expert'",
        [id, who.id],
      );
      return [{ experts: names(before) }, { experts: await experts() }];
    },
    about: ({ kind, path, domainId }) => ({ kind, id, name: path, domainId }),
  });
  return getAsset(tx, who, id);
}

type Texts = BodyOf<typeof curationEndpoints.describeMany>['texts'];

/**
 * Describes many assets, each with a text of its own. What somebody changed since it was seen stays as they left it, and is told.
 * @throws 404, 403 when one of them is not there, or not theirs to describe: then none is
 */
export async function describeMany(
  tx: Db,
  who: Who,
  texts: Texts,
): Promise<AnswerOf<typeof curationEndpoints.describeMany>> {
  const saved: { id: string; version: number }[] = [];
  const refused: { id: string; name: string; now: string }[] = [];
  // In one order, so that two who do the same do not wait for each other.
  for (const { id, version, description } of [...texts].sort((a, b) => (a.id < b.id ? -1 : 1)))
    try {
      const asset = await editAsset(tx, who, id, version, { description });
      saved.push({ id, version: asset.version });
    } catch (error) {
      if (!(error instanceof ApiProblem) || error.code !== 'changed-meanwhile') throw error;
      const { name, description: now } = error.more.current as AssetAnswer;
      refused.push({ id, name, now: now ?? '' });
    }
  return { saved, refused };
}

async function setTerms(tx: Db, id: string, terms: readonly string[]): Promise<number> {
  // A term that is removed is out of sight, and stays for when it is brought back.
  const gone = await tx.run(
    `
      delete from asset_term x
      using term t
      where x.asset_id = $1 and t.id = x.term_id and t.removed_at is null and t.id <> all($2::uuid[])`,
    [id, terms],
  );
  const come = await tx.run(
    `
      insert into asset_term (asset_id, term_id)
      select $1, t.id
      from term t
      where t.id = any($2::uuid[]) and t.removed_at is null
      on conflict
      do nothing`,
    [id, terms],
  );
  return gone + come;
}

/** Gives and takes what differs; what stays as it is needs no right. @throws 403, 422 as the rules of the tags say */
async function setTags(
  tx: Db,
  who: Who,
  id: string,
  before: AssetAnswer,
  tags: NonNullable<AssetChange['tags']>,
): Promise<number> {
  const known = new Map(before.tags.map((tag) => [tag.id, tag.value]));
  const wanted = new Map(tags.map((tag) => [tag.id, tag.value]));
  const gone = [...known.keys()].filter((tag) => !wanted.has(tag));
  const come = [...wanted].filter(([tag, value]) => known.get(tag) !== value);
  const rules = new Map((await rulesOf(tx, [...gone, ...wanted.keys()])).map((rule) => [rule.id, rule]));
  for (const tag of gone) mustGiveTag(ruleOf(rules, tag), undefined, who);
  for (const [tag, value] of come) {
    const rule = ruleOf(rules, tag);
    mustGiveTag(rule, value, who);
    if (rule.kinds && !rule.kinds.includes(before.kind))
      throw invalid(`The tag “${rule.name}” is not for a ${before.kind}.`, `It is for: ${rule.kinds.join(', ')}.`, [
        { field: 'tags', message: 'is not for this kind' },
      ]);
  }
  await spellValues(
    tx,
    come.map(([, value]) => value),
  );
  await tx.run('delete from asset_tag where asset_id = $1 and tag_id = any($2::uuid[])', [id, gone]);
  await tx.run(
    `
      insert into asset_tag (asset_id, tag_id, value)
      select $1, t.id, t.value
      from unnest($2::uuid[], $3::text[]) as t(id, value)
      on conflict (asset_id, tag_id)
      do update set value = excluded.value`,
    [id, come.map(([tag]) => tag), come.map(([, value]) => value)],
  );
  await settleArrivals(tx);
  return gone.length + come.length;
}

function ruleOf(rules: ReadonlyMap<string, TagRules>, id: string): TagRules {
  const rule = rules.get(id);
  if (!rule)
    throw invalid('The tag is not there any more.', 'Choose another one.', [
      { field: 'tags', message: 'is not there' },
    ]);
  return rule;
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
      from party p
      where p.id = any($3::uuid[]) and p.left_at is null and ($2 = 'owner' or not p.is_group)
      on conflict
      do nothing`,
    [id, role, people],
  );
  return gone + come;
}
