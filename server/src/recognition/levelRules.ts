import type {
  LevelAnswer,
  LevelKindsAnswer,
  LevelPreview,
  LevelRuleAnswer,
  LevelRuleBody,
  LevelText,
} from '@idrel/contract/recognition';
import { LEVELS } from '@idrel/core/recognition';
import { change, create, type Kept, record, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, mustBeCurrent, notFound } from '../platform/problems.ts';
import { mustHaveClass } from './checkSpec.ts';
import { previewLevels, settleAllLevels } from './levels.ts';
import { LEVEL_RULE, LEVEL_TEXT, type LevelRuleRow, type LevelTextRow } from './models.ts';

const SELECT = 'select id, name, class_keys as "classKeys", level, kinds, version from level_rule';
export const listRules = (db: Db): Promise<LevelRuleAnswer[]> =>
  db.rows<LevelRuleAnswer>(`${SELECT} order by level desc, lower(name)`);

async function getRule(db: Db, id: string): Promise<LevelRuleAnswer> {
  const rule = await db.one<LevelRuleAnswer>(`${SELECT} where id = $1`, [id]);
  if (!rule) throw notFound('The rule');
  return rule;
}

const levelRuleForJournal = ({ name, classKeys, level, kinds }: LevelRuleBody) => ({
  name,
  classes: classKeys.join(', '),
  level,
  kinds: kinds?.join(', ') ?? 'all',
});
const RULES: Kept<LevelRuleRow, LevelRuleAnswer> = {
  thing: 'level rule',
  model: LEVEL_RULE,
  read: (db, _who, id) => getRule(db, id),
  told: (_db, rule) => levelRuleForJournal(rule),
};

/** Makes a rule; levels follow at once. */
export async function addRule(tx: Db, who: Who, body: LevelRuleBody): Promise<LevelRuleAnswer> {
  for (const key of body.classKeys) await mustHaveClass(tx, key);
  const made = await create(tx, who, RULES, { ...body, madeBy: who.id });
  await settleAllLevels(tx);
  return made;
}

/** Changes a rule; levels follow at once. */
export async function changeRule(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: LevelRuleBody,
): Promise<LevelRuleAnswer> {
  for (const key of body.classKeys) await mustHaveClass(tx, key);
  const { after } = await change(tx, who, RULES, id, { version, values: body });
  await settleAllLevels(tx);
  return after;
}

export async function removeRule(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, RULES, id);
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

const LEVEL_TEXTS: Kept<LevelTextRow, LevelAnswer> = {
  thing: 'level',
  model: LEVEL_TEXT,
  async read(db, _who, id) {
    const found = (await listLevels(db)).find((entry) => entry.level === Number(id));
    if (!found) throw notFound('The level');
    return found;
  },
  told: (_db, { name, meaning, advice }) => ({ name, meaning, advice }),
  subject: (_db, { key }) => ({ id: key }),
};

/** Says what a level is called. No other level may have the name, nor be known to searches by it. */
export async function changeLevel(
  tx: Db,
  who: Who,
  level: number,
  version: number,
  body: LevelText,
): Promise<LevelAnswer> {
  const other = (LEVELS as readonly string[]).indexOf(body.name.toLowerCase());
  if (other >= 0 && other !== level - 1)
    throw conflict(
      'name-taken',
      `Searches know another level as “${body.name}”.`,
      `Choose another name: else level:${body.name} would find something else than what is called so.`,
    );
  return (await change(tx, who, LEVEL_TEXTS, String(level), { version, values: body })).after;
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
    who,
    'edited',
    { kind: 'level', id: 'kinds', name: 'Kinds that have a level', domainId: null },
    { kinds: before.kinds.join(', ') },
    { kinds: kinds.join(', ') || 'none' },
  );
  await settleAllLevels(tx);
  return getKinds(tx);
}
