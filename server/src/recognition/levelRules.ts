import type { LevelPreview, LevelRuleAnswer, LevelRuleBody } from '@idrel/contract/recognition';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { mustBeCurrent, nameTaken, notFound } from '../platform/problems.ts';
import { previewLevels, settleAllLevels } from './levels.ts';
import { mustHaveClass } from './own.ts';

const SELECT = 'select id, name, class_keys as "classKeys", level, kinds, version from level_rule';
export const listRules = (db: Db): Promise<LevelRuleAnswer[]> => db.rows<LevelRuleAnswer>(`${SELECT} order by level desc, lower(name)`);

async function getRule(db: Db, id: string): Promise<LevelRuleAnswer> {
  const rule = await db.one<LevelRuleAnswer>(`${SELECT} where id = $1`, [id]);
  if (!rule) throw notFound('The rule');
  return rule;
}

const spoken = ({ name, classKeys, level, kinds }: LevelRuleBody) => ({ name, classes: classKeys.join(', '), level, kinds: kinds?.join(', ') ?? 'all' });
const subject = (id: string, name: string) => ({ kind: 'level rule', id, name, domainId: null });

/** Saves a rule; levels follow at once. */
export async function saveRule(tx: Db, who: Who, id: string | null, version: number | undefined, body: LevelRuleBody): Promise<LevelRuleAnswer> {
  who.mustAnywhere('steward');
  for (const key of body.classKeys) await mustHaveClass(tx, key);
  const values = [body.name, body.classKeys, body.level, body.kinds];
  const taken = (error: unknown) => nameTaken(error, body.name);
  let saved = id ?? '';
  if (id === null) {
    const [made] = await tx.rows<{ id: string }>('insert into level_rule (name, class_keys, level, kinds, made_by) values ($1, $2, $3, $4, $5) returning id', [...values, who.id]).catch(taken);
    saved = made?.id ?? '';
    await record(tx, who.id, 'created', subject(saved, body.name), null, spoken(body));
  } else {
    await tx.rows('select 1 from level_rule where id = $1 for update', [id]);
    const before = await getRule(tx, id);
    mustBeCurrent(version, before);
    await tx.run('update level_rule set name = $2, class_keys = $3, level = $4, kinds = $5, version = version + 1 where id = $1', [id, ...values]).catch(taken);
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

/** What saving a rule, or removing it (no body), would change. */
export async function previewRule(db: Db, who: Who, id: string | null, body: LevelRuleBody | null): Promise<LevelPreview> {
  who.mustAnywhere('steward');
  const others = (await listRules(db)).filter((rule) => rule.id !== id);
  return previewLevels(db, body ? [...others, body] : others, {}, who.domainsAs('reader'));
}
