import type {
  LevelAnswer,
  LevelKindsAnswer,
  LevelPreview,
  LevelRuleAnswer,
  LevelRuleBody,
  LevelText,
} from '@idrel/contract/recognition';
import { LEVELS } from '@idrel/core/recognition';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, mustBeCurrent, nameTaken, notFound } from '../platform/problems.ts';
import { previewLevels, settleAllLevels } from './levels.ts';
import { mustHaveClass } from './own.ts';

const SELECT = 'select id, name, class_keys as "classKeys", level, kinds, version from level_rule';
export const listRules = (db: Db): Promise<LevelRuleAnswer[]> =>
  db.rows<LevelRuleAnswer>(`${SELECT} order by level desc, lower(name)`);

async function getRule(db: Db, id: string): Promise<LevelRuleAnswer> {
  const rule = await db.one<LevelRuleAnswer>(`${SELECT} where id = $1`, [id]);
  if (!rule) throw notFound('The rule');
  return rule;
}

const spoken = ({ name, classKeys, level, kinds }: LevelRuleBody) => ({
  name,
  classes: classKeys.join(', '),
  level,
  kinds: kinds?.join(', ') ?? 'all',
});
const subject = (id: string, name: string) => ({ kind: 'level rule', id, name, domainId: null });

/** Saves a rule; levels follow at once. */
export async function saveRule(
  tx: Db,
  who: Who,
  id: string | null,
  version: number | undefined,
  body: LevelRuleBody,
): Promise<LevelRuleAnswer> {
  who.mustAnywhere('steward');
  for (const key of body.classKeys) await mustHaveClass(tx, key);
  const values = [body.name, body.classKeys, body.level, body.kinds];
  const taken = (error: unknown) => nameTaken(error, body.name);
  let saved = id ?? '';
  if (id === null) {
    const [made] = await tx
      .rows<{ id: string }>(
        'insert into level_rule (name, class_keys, level, kinds, made_by) values ($1, $2, $3, $4, $5) returning id',
        [...values, who.id],
      )
      .catch(taken);
    saved = made?.id ?? '';
    await record(tx, who.id, 'created', subject(saved, body.name), null, spoken(body));
  } else {
    await tx.rows('select 1 from level_rule where id = $1 for update', [id]);
    const before = await getRule(tx, id);
    mustBeCurrent(version, before);
    await tx
      .run(
        'update level_rule set name = $2, class_keys = $3, level = $4, kinds = $5, version = version + 1 where id = $1',
        [id, ...values],
      )
      .catch(taken);
    await record(tx, who.id, 'edited', subject(id, body.name), spoken(before), spoken(body));
  }
  await settleAllLevels(tx);
  return getRule(tx, saved);
}

export async function removeRule(tx: Db, who: Who, id: string): Promise<void> {
  who.mustAnywhere('steward');
  const rule = await getRule(tx, id);
  await tx.run('delete from level_rule where id = $1', [id]);
  await record(tx, who.id, 'removed', subject(id, rule.name), spoken(rule), null);
  await settleAllLevels(tx);
}

/** What a rule (none: its removal), other kinds, or another level of a class would change. */
export type LevelChange =
  | { id: string | null; rule: LevelRuleBody | null }
  | { kinds: readonly string[] }
  | { classKey: string; level: number };

/** What a change of what levels follow from would change, asset by asset. */
export async function previewChange(db: Db, who: Who, change: LevelChange): Promise<LevelPreview> {
  who.mustAnywhere('steward');
  const domains = who.domainsAs('reader');
  if ('kinds' in change) return previewLevels(db, { kinds: change.kinds }, domains);
  if ('classKey' in change) return previewLevels(db, { classes: { [change.classKey]: change.level } }, domains);
  const others = (await listRules(db)).filter((rule) => rule.id !== change.id);
  return previewLevels(db, { rules: change.rule ? [...others, change.rule] : others }, domains);
}

/** The levels as the organisation calls them, lowest first. */
export async function listLevels(db: Db): Promise<LevelAnswer[]> {
  const rows = await db.rows<Omit<LevelAnswer, 'key'>>(
    'select level, name, meaning, advice, version from level_text order by level',
  );
  return rows.map((row) => ({ ...row, key: LEVELS[row.level - 1] ?? '' }));
}

/** Says what a level is called. No other level may have the name, nor be known to searches by it. */
export async function changeLevel(
  tx: Db,
  who: Who,
  level: number,
  version: number | undefined,
  body: LevelText,
): Promise<LevelAnswer> {
  who.mustAnywhere('administrator');
  await tx.rows('select 1 from level_text where level = $1 for update', [level]);
  const before = (await listLevels(tx)).find((entry) => entry.level === level);
  if (!before) throw notFound('The level');
  mustBeCurrent(version, before);
  const other = (LEVELS as readonly string[]).indexOf(body.name.toLowerCase());
  if (other >= 0 && other !== level - 1)
    throw conflict(
      'name-taken',
      `Searches know another level as “${body.name}”.`,
      `Choose another name: else level:${body.name} would find something else than what is called so.`,
    );
  await tx
    .run('update level_text set name = $2, meaning = $3, advice = $4, version = version + 1 where level = $1', [
      level,
      body.name,
      body.meaning,
      body.advice,
    ])
    .catch((error: unknown) => nameTaken(error, body.name));
  const { name, meaning, advice } = before;
  await record(
    tx,
    who.id,
    'edited',
    { kind: 'level', id: before.key, name: body.name, domainId: null },
    { name, meaning, advice },
    { ...body },
  );
  return { ...before, ...body, version: before.version + 1 };
}

export const getKinds = async (db: Db): Promise<LevelKindsAnswer> =>
  (await db.one<LevelKindsAnswer>('select kinds, version from level_kinds')) ?? { kinds: [], version: 0 };

/** Chooses the kinds to which levels rise; levels follow at once. */
export async function changeKinds(
  tx: Db,
  who: Who,
  version: number | undefined,
  kinds: readonly string[],
): Promise<LevelKindsAnswer> {
  who.mustAnywhere('steward');
  await tx.rows('select 1 from level_kinds for update');
  const before = await getKinds(tx);
  mustBeCurrent(version, before);
  await tx.run('update level_kinds set kinds = $1, version = version + 1', [kinds]);
  await record(
    tx,
    who.id,
    'edited',
    { kind: 'level', id: 'kinds', name: 'Kinds that have a level', domainId: null },
    { kinds: before.kinds.join(', ') },
    { kinds: kinds.join(', ') || 'none' },
  );
  await settleAllLevels(tx);
  return getKinds(tx);
}
