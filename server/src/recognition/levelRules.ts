import type {
  LevelAnswer,
  LevelKindsAnswer,
  LevelPreview,
  LevelRuleAnswer,
  LevelRuleBody,
  LevelText,
} from '@idrel/contract/recognition';
import { LEVELS } from '@idrel/core/recognition';
import { change, create, type Kept, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, notFound } from '../platform/problems.ts';
import { mustHaveClass } from './checkSpec.ts';
import { type ClassUse, inTheWay } from './classUse.ts';
import { previewLevels } from './levels.ts';
import {
  LEVEL_KINDS,
  LEVEL_RULE,
  LEVEL_TEXT,
  type LevelKindsRow,
  type LevelRuleRow,
  type LevelTextRow,
} from './models.ts';
import { settleAllLevels } from './settling.ts';

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

/** There is one row of them. */
const LEVEL_KINDS_KEPT: Kept<LevelKindsRow, LevelKindsAnswer> = {
  thing: 'level',
  model: LEVEL_KINDS,
  read: (db) => getKinds(db),
  told: (_db, { kinds }) => ({ kinds: kinds.join(', ') || 'none' }),
  name: () => 'Kinds that have a level',
  subject: () => ({ id: 'kinds' }),
  may: (_db, who) => who.mustAnywhere('steward'),
};

/** Chooses the kinds to which levels rise; levels follow at once. */
export async function changeKinds(
  tx: Db,
  who: Who,
  version: number | undefined,
  kinds: readonly string[],
): Promise<LevelKindsAnswer> {
  const { after } = await change(tx, who, LEVEL_KINDS_KEPT, 'true', { version, values: { kinds } });
  await settleAllLevels(tx);
  return after;
}

/** Rules that give a level by the class: they are changed first. */
export const LEVEL_CLASS_USE: ClassUse = {
  async named(db, key) {
    const rules = await db.rows<{ id: string; name: string }>(
      'select id, name from level_rule where $1 = any(class_keys) order by name',
      [key],
    );
    return { rules: rules.map((rule) => ({ ...rule, of: 'levels' as const })) };
  },
  mayGo({ rules }) {
    const names = rules.filter((rule) => rule.of === 'levels').map(({ name }) => `“${name}”`);
    if (names.length > 0)
      throw inTheWay(
        'class-in-rule',
        names,
        ['gives', 'give'],
        'a level by this class',
        'Change or remove the rule of levels first.',
      );
  },
};
