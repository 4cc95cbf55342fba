import type { ClassAnswer, ClassBody, ClassCarriers, TravelPreview } from '@idrel/contract/recognition';
import { DETECTORS, THEMES } from '@idrel/core/recognition';
import { PATH } from '../catalog/index.ts';
import { bringBack, change, create, type Kept, remove } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { conflict, invalid, notFound } from '../platform/problems.ts';
import type { ClassUse } from './classUse.ts';
import { settleAround } from './levelsAround.ts';
import { type ClassRow, DATA_CLASS } from './models.ts';
import { type KnownClass, knownClasses } from './registry.ts';
import { settleLevels } from './settling.ts';
import { changesAlong } from './travel.ts';

/** Whatever says anything of a class and a column, dismissals too: all that goes with the class. */
const CARRY = `(select f.asset_id, f.class_key from finding f union select d.asset_id, d.class_key from finding_decision d)`;

/** All classes. @param counted with how many columns that the person may see carry each: all of them are looked at for that */
export async function listClasses(db: Db, who: Who, counted = false): Promise<ClassAnswer[]> {
  const known = await knownClasses(db);
  const columns =
    counted &&
    (await db.rows<{ key: string; n: number }>(
      `select k.class_key as key, count(distinct k.asset_id)::int as n
     from carried k
     join asset a on a.id = k.asset_id
     where k.via <> 'inside' and a.gone_at is null and ${isSeen('a', '$1')}
     group by 1`,
      [who.domainsAs('reader')],
    ));
  const own = await db.rows<{ key: string; n: number }>(
    'select class_key as key, count(*)::int as n from detector group by 1',
  );
  const byKey = (rows: readonly { key: string; n: number }[]) => new Map(rows.map(({ key, n }) => [key, n]));
  const [carried, detectors] = [columns && byKey(columns), byKey(own)];
  return [...known.values()].map((entry) => ({
    ...entry,
    columns: carried ? (carried.get(entry.key) ?? 0) : null,
    detectors: (detectors.get(entry.key) ?? 0) + DETECTORS.filter((detector) => detector.classKey === entry.key).length,
  }));
}

async function getClass(db: Db, who: Who, key: string): Promise<ClassAnswer> {
  const found = (await listClasses(db, who, true)).find((entry) => entry.key === key);
  if (!found) throw notFound('The data class');
  return found;
}

const classForJournal = ({ label, theme, level, meaning, legalBasis, synonyms, parentKey, travels }: ClassBody) => ({
  label,
  theme,
  level,
  meaning,
  legalBasis,
  synonyms: synonyms.join(', '),
  parent: parentKey ?? 'none',
  'travels where it is': travels.join(', ') || 'nowhere',
});

/** Small letters, digits and hyphens of a label; with a number where that is taken. */
function keyOf(label: string, taken: ReadonlySet<string>): string {
  const plain =
    label
      .normalize('NFD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '')
      .slice(0, 60) || 'class';
  let key = `own-${plain}`;
  for (let number = 2; taken.has(key); number += 1) key = `own-${plain}-${number}`;
  return key;
}

function check(body: ClassBody, key: string | null, known: ReadonlyMap<string, KnownClass>): void {
  if (!(THEMES as readonly string[]).includes(body.theme))
    throw invalid(`There is no theme “${body.theme}”.`, `Choose one of: ${THEMES.join(', ')}.`, [
      { field: 'theme', message: 'is not known' },
    ]);
  const same = [...known.values()].find(
    (entry) => entry.key !== key && !entry.retired && entry.label.toLowerCase() === body.label.toLowerCase(),
  );
  if (same)
    throw conflict('name-taken', `There already is a class “${same.label}”.`, 'Choose another name, or use that one.');
  for (let at = body.parentKey; at !== null; at = known.get(at)?.parentKey ?? null) {
    if (at === key)
      throw invalid('A class cannot lie below itself.', 'Choose another class above it.', [
        { field: 'parentKey', message: 'makes a circle' },
      ]);
    if (!known.has(at))
      throw invalid('The class above is not there any more.', 'Choose another one.', [
        { field: 'parentKey', message: 'is not there' },
      ]);
  }
}

const values = (body: ClassBody) => [
  body.parentKey,
  body.label,
  body.theme,
  body.level,
  body.meaning,
  body.legalBasis,
  body.synonyms,
  body.travels,
];

const CLASSES: Kept<ClassRow, ClassAnswer> = {
  thing: 'data class',
  model: DATA_CLASS,
  read: getClass,
  told: (_db, body) => classForJournal(body),
  name: ({ label }) => label,
  may: (_db, who) => who.mustAnywhere('steward'),
};

/** @param wanted the key that a class has elsewhere, where it comes from there */
export async function addClass(tx: Db, who: Who, body: ClassBody, wanted?: string): Promise<ClassAnswer> {
  const known = await knownClasses(tx);
  check(body, null, known);
  const key = wanted ?? keyOf(body.label, new Set(known.keys()));
  return create(tx, who, CLASSES, { ...body, key, own: true, madeBy: who.id });
}

/** Levels follow from classes: they are worked out anew for every source that has a column of the class. */
async function settleWhere(tx: Db, key: string): Promise<void> {
  for (const { id } of await tx.rows<{ id: string }>(
    'select distinct a.source_id as id from carried k join asset a on a.id = k.asset_id where k.class_key = $1',
    [key],
  ))
    await settleLevels(tx, id);
}

/** The class, which has a row from now on: one that ships with Idrel gets it with its first change. */
async function withRow(tx: Db, who: Who, key: string): Promise<ClassAnswer> {
  const about = await getClass(tx, who, key);
  await tx.run(
    `insert into data_class (key, own, parent_key, label, theme, level, meaning, legal_basis, synonyms, travels, made_by, version)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)
     on conflict (key) do nothing`,
    [key, about.own, ...values(about), who.id, about.version],
  );
  return about;
}

/** Changes a class, also one that ships with Idrel. */
export async function changeClass(
  tx: Db,
  who: Who,
  key: string,
  version: number,
  body: ClassBody,
): Promise<ClassAnswer> {
  await withRow(tx, who, key);
  const { before, after } = await change(tx, who, CLASSES, key, {
    version,
    async values() {
      check(body, key, await knownClasses(tx));
      return body;
    },
  });
  await settleAround(tx, []);
  if (before.level !== after.level) await settleWhere(tx, key);
  return after;
}

/** What it would change if a class travelled by other kinds of edges. */
export function previewClassTravel(
  db: Database,
  who: Who,
  key: string,
  travels: ClassBody['travels'],
): Promise<TravelPreview> {
  const now = "select asset_id, '' as value, from_id, distance from carried where class_key = $1 and via = 'lineage'";
  return changesAlong(db, who, now, key, async (tx) => {
    await withRow(tx, who, key);
    await tx.run('update data_class set travels = $2 where key = $1', [key, travels]);
  });
}

const CARRIERS_SHOWN = 50;

/** What carries a class, and what names it: its keepers tell of their own. */
export async function carriersOf(db: Db, who: Who, key: string, uses: readonly ClassUse[]): Promise<ClassCarriers> {
  await getClass(db, who, key);
  const all = await db.one<{ n: number }>(
    `
      select count(*)::int as n
      from ${CARRY} k
      join asset a on a.id = k.asset_id
      where k.class_key = $1 and ${isSeen('a', '$2')}`,
    [key, who.domainsAs('reader')],
  );
  const shown = await db.rows<ClassCarriers['shown'][number]>(
    `
      select a.id, ${PATH} as path, s.name as source, coalesce(d.decision, f.state) as state
      from ${CARRY} k
      join asset a on a.id = k.asset_id
      join source s on s.id = a.source_id
      left join finding f on f.asset_id = k.asset_id and f.class_key = k.class_key
      left join finding_decision d on d.asset_id = k.asset_id and d.class_key = k.class_key
      where k.class_key = $1 and ${isSeen('a', '$2')}
      order by s.name, a.key
      limit ${CARRIERS_SHOWN}`,
    [key, who.domainsAs('reader')],
  );
  const named = await Promise.all(uses.map((use) => use.named?.(db, key)));
  const children = [...(await knownClasses(db)).values()]
    .filter((entry) => entry.parentKey === key)
    .map((entry) => entry.label);
  return {
    columns: all?.n ?? 0,
    shown,
    detectors: [
      ...DETECTORS.filter((detector) => detector.classKey === key).map((detector) => detector.id),
      ...named.flatMap((use) => use?.detectors ?? []),
    ],
    policies: named.flatMap((use) => use?.policies ?? []),
    routines: named.flatMap((use) => use?.routines ?? []),
    rules: named.flatMap((use) => use?.rules ?? []),
    children,
  };
}

const ALL_CARRYING = `from ${CARRY} k join asset a on a.id = k.asset_id where k.class_key = $1`;

/**
 * Removes a class of one's own, or retires one that ships with Idrel: nothing carries it afterwards, no detector looks for it, no policy or search names it.
 * @param seen how many columns the person saw that carry it
 * @throws 409 when something that names it has to go first, or other columns carry it than were seen
 */
export async function removeClass(
  tx: Db,
  who: Who,
  key: string,
  seen: number,
  uses: readonly ClassUse[],
): Promise<void> {
  const { own } = await withRow(tx, who, key);
  const sources = await tx.rows<{ id: string }>(`select distinct a.source_id as id ${ALL_CARRYING}`, [key]);
  await remove(tx, who, CLASSES, key, {
    async unless() {
      const domains = await tx.rows<{ id: string }>(`select distinct a.domain_id as id ${ALL_CARRYING}`, [key]);
      for (const { id } of domains) who.must('steward', id);
      const carriers = await carriersOf(tx, who, key, uses);
      for (const use of uses) use.mayGo?.(carriers);
      if (carriers.columns !== seen)
        throw conflict(
          'count-changed',
          `${carriers.columns} columns carry it now, not ${seen}.`,
          'Look at them again, then remove it.',
        );
    },
    async parts(about) {
      for (const use of uses) await use.forget?.(tx, key);
      await tx.run('update data_class set parent_key = $2 where parent_key = $1', [key, about.parentKey]);
      for (const detector of own ? [] : shippedFor(key))
        await tx.run('insert into detector_off (detector_id, off_by) values ($1, $2) on conflict do nothing', [
          detector.id,
          who.id,
        ]);
    },
    ...(own ? {} : { leaving: { retiredAt: new Date() }, action: 'retired' }),
  });
  for (const { id } of sources) await settleLevels(tx, id);
}

const shippedFor = (key: string) => DETECTORS.filter((detector) => detector.classKey === key);

/** Takes a class that was retired into use again, with the detectors that ship for it. */
export async function restoreClass(tx: Db, who: Who, key: string): Promise<ClassAnswer> {
  const about = await getClass(tx, who, key);
  if (!about.retired) throw conflict('not-retired', `“${about.label}” is in use.`, 'Nothing is to be done.');
  for (const detector of shippedFor(key))
    await tx.run('delete from detector_off where detector_id = $1', [detector.id]);
  return bringBack(tx, who, CLASSES, key, {
    isGone: ({ retiredAt }) => retiredAt !== null,
    values: { retiredAt: null },
    action: 'restored',
  });
}
