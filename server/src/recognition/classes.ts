import type { ClassAnswer, ClassBody, ClassCarriers } from '@idrel/contract/recognition';
import { DETECTORS, THEMES } from '@idrel/core/recognition';
import { PATH } from '../catalog/index.ts';
import { change, create, type Kept, record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, invalid, nameTaken, notFound } from '../platform/problems.ts';
import { settleLevels } from './levels.ts';
import { type ClassRow, DATA_CLASS } from './models.ts';
import { type KnownClass, knownClasses } from './registry.ts';

/** Whatever says anything of a class and a column, dismissals too: all that goes with the class. */
const CARRY = `(select f.asset_id, f.class_key from finding f union select d.asset_id, d.class_key from finding_decision d)`;

/** All classes, with how many columns that the person may see carry each. */
export async function listClasses(db: Db, who: Who): Promise<ClassAnswer[]> {
  const known = await knownClasses(db);
  const columns = await db.rows<{ key: string; n: number }>(
    `select k.class_key as key, count(*)::int as n
     from carried k
     join asset a on a.id = k.asset_id
     where k.via = 'itself' and a.gone_at is null and a.domain_id = any($1::uuid[])
     group by 1`,
    [who.domainsAs('reader')],
  );
  const own = await db.rows<{ key: string; n: number }>(
    'select class_key as key, count(*)::int as n from detector group by 1',
  );
  const [carried, detectors] = [columns, own].map((rows) => new Map(rows.map(({ key, n }) => [key, n])));
  return [...known.values()].map((entry) => ({
    ...entry,
    columns: carried?.get(entry.key) ?? 0,
    detectors:
      (detectors?.get(entry.key) ?? 0) + DETECTORS.filter((detector) => detector.classKey === entry.key).length,
  }));
}

async function getClass(db: Db, who: Who, key: string): Promise<ClassAnswer> {
  const found = (await listClasses(db, who)).find((entry) => entry.key === key);
  if (!found) throw notFound('The data class');
  return found;
}

const classForJournal = ({ label, theme, level, meaning, legalBasis, synonyms, parentKey }: ClassBody) => ({
  label,
  theme,
  level,
  meaning,
  legalBasis,
  synonyms: synonyms.join(', '),
  parent: parentKey ?? 'none',
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
];

/** Writes a class as it is to be, whether it is there or not. */
export async function writeClass(tx: Db, who: Who, key: string, body: ClassBody, own: boolean): Promise<void> {
  await tx
    .run(
      `insert into data_class (key, own, parent_key, label, theme, level, meaning, legal_basis, synonyms, made_by) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)
       on conflict (key) do update set parent_key = excluded.parent_key, label = excluded.label, theme = excluded.theme, level = excluded.level, meaning = excluded.meaning,
         legal_basis = excluded.legal_basis, synonyms = excluded.synonyms, version = data_class.version + 1`,
      [key, own, ...values(body), who.id],
    )
    .catch((error: unknown) => nameTaken(error, body.label));
}

const CLASSES: Kept<ClassRow, ClassAnswer> = {
  thing: 'data class',
  model: DATA_CLASS,
  read: getClass,
  told: (_db, body) => classForJournal(body),
  name: ({ label }) => label,
};

export async function addClass(tx: Db, who: Who, body: ClassBody): Promise<ClassAnswer> {
  const known = await knownClasses(tx);
  check(body, null, known);
  const key = keyOf(body.label, new Set(known.keys()));
  return create(tx, who, CLASSES, { ...body, key, own: true, madeBy: who.id });
}

/** Levels follow from classes: they are worked out anew for every source that has a column of the class. */
async function settleWhere(tx: Db, key: string): Promise<void> {
  for (const { id } of await tx.rows<{ id: string }>(
    `select distinct a.source_id as id from ${CARRY} k join asset a on a.id = k.asset_id where k.class_key = $1`,
    [key],
  ))
    await settleLevels(tx, id);
}

/** Changes a class. One that ships with Idrel gets a row with its first change. */
export async function changeClass(
  tx: Db,
  who: Who,
  key: string,
  version: number,
  body: ClassBody,
): Promise<ClassAnswer> {
  const shipped = await getClass(tx, who, key);
  await tx.run(
    `insert into data_class (key, own, parent_key, label, theme, level, meaning, legal_basis, synonyms, made_by, version)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)
     on conflict (key) do nothing`,
    [key, shipped.own, ...values(shipped), who.id, shipped.version],
  );
  const { before, after } = await change(tx, who, CLASSES, key, {
    version,
    async values() {
      check(body, key, await knownClasses(tx));
      return body;
    },
  });
  if (before.level !== after.level) await settleWhere(tx, key);
  return after;
}

const CARRIERS_SHOWN = 50;

export async function carriersOf(db: Db, who: Who, key: string): Promise<ClassCarriers> {
  await getClass(db, who, key);
  const all = await db.one<{ n: number }>(
    `select count(*)::int as n from ${CARRY} k join asset a on a.id = k.asset_id where k.class_key = $1 and a.domain_id = any($2::uuid[])`,
    [key, who.domainsAs('reader')],
  );
  const shown = await db.rows<ClassCarriers['shown'][number]>(
    `select a.id, ${PATH} as path, s.name as source, coalesce(d.decision, f.state) as state from ${CARRY} k join asset a on a.id = k.asset_id join source s on s.id = a.source_id
     left join finding f on f.asset_id = k.asset_id and f.class_key = k.class_key left join finding_decision d on d.asset_id = k.asset_id and d.class_key = k.class_key
     where k.class_key = $1 and a.domain_id = any($2::uuid[]) order by s.name, a.key limit ${CARRIERS_SHOWN}`,
    [key, who.domainsAs('reader')],
  );
  const policies = await db.rows<ClassCarriers['policies'][number]>(
    `select p.id, p.name, count(o.class_key) = 1 as alone
     from policy p
     join policy_object mine on mine.policy_id = p.id and mine.class_key = $1
     join policy_object o on o.policy_id = p.id and o.class_key is not null
     group by p.id
     order by p.name`,
    [key],
  );
  // A routine's search names a class by its key, alone or as one of several with commas between.
  const routines = await db.rows<ClassCarriers['routines'][number]>(
    `select id, name from routine where removed_at is null and filter ~ ('class:("?[^\\s",)]+"?,)*"?' || replace($1, '.', '\\.') || '"?($|[,\\s)])') order by name`,
    [key],
  );
  const rules = await db.rows<ClassCarriers['rules'][number]>(
    `select id::text, name, 'levels' as of from level_rule where $1 = any(class_keys) union all select id::text, name, 'certainty' from certainty_rule where $1 = any(class_keys)
     union all select d.id, d.id, 'combination' from detector d join detector_version v on v.detector_id = d.id and v.version = d.version where d.class_key <> $1 and v.spec -> 'value' -> 'classKeys' ? $1 order by 3, 2`,
    [key],
  );
  const own = await db.rows<{ id: string }>('select id from detector where class_key = $1 order by 1', [key]);
  const children = [...(await knownClasses(db)).values()]
    .filter((entry) => entry.parentKey === key)
    .map((entry) => entry.label);
  return {
    columns: all?.n ?? 0,
    shown,
    detectors: [
      ...DETECTORS.filter((detector) => detector.classKey === key).map((detector) => detector.id),
      ...own.map((row) => row.id),
    ],
    policies,
    routines,
    rules,
    children,
  };
}

/**
 * Removes a class of one's own, or retires one that ships with Idrel: nothing carries it afterwards, no detector looks for it, no policy or search names it.
 * @param seen how many columns the person saw that carry it
 */
export async function removeClass(tx: Db, who: Who, key: string, seen: number): Promise<void> {
  who.mustAnywhere('steward');
  await tx.rows('select 1 from data_class where key = $1 for update', [key]);
  const about = await getClass(tx, who, key);
  const carriers = await carriersOf(tx, who, key);
  for (const { id } of await tx.rows<{ id: string }>(
    `select distinct a.domain_id as id from ${CARRY} k join asset a on a.id = k.asset_id where k.class_key = $1`,
    [key],
  ))
    who.must('steward', id);
  // A class that is taken out of a policy would open what the policy guards: that is for those who may change the policy.
  if (carriers.policies.length > 0)
    throw conflict(
      'class-guards',
      `${carriers.policies.map((policy) => `“${policy.name}”`).join(', ')} ${carriers.policies.length === 1 ? 'rests' : 'rest'} on this class: without it, values could be shown.`,
      'Let somebody with the right over the policy change or remove it first.',
    );
  if (carriers.routines.length > 0)
    throw conflict(
      'class-searched',
      `${carriers.routines.map((routine) => `“${routine.name}”`).join(', ')} ${carriers.routines.length === 1 ? 'searches' : 'search'} for this class.`,
      'Change or remove the routine first.',
    );
  const holding = (of: ClassCarriers['rules'][number]['of']) =>
    carriers.rules
      .filter((rule) => rule.of === of)
      .map((rule) => (of === 'combination' ? rule.name : `“${rule.name}”`));
  const [levels, combined] = [holding('levels'), holding('combination')];
  if (levels.length > 0)
    throw conflict(
      'class-in-rule',
      `${levels.join(', ')} ${levels.length === 1 ? 'gives' : 'give'} a level by this class.`,
      'Change or remove the rule of levels first.',
    );
  if (combined.length > 0)
    throw conflict(
      'class-in-combination',
      `${combined.join(', ')} ${combined.length === 1 ? 'looks' : 'look'} for this class beside another.`,
      'Change or remove the detector first.',
    );
  if (carriers.columns !== seen)
    throw conflict(
      'count-changed',
      `${carriers.columns} columns carry it now, not ${seen}.`,
      'Look at them again, then remove it.',
    );
  const sources = await tx.rows<{ id: string }>(
    `select distinct a.source_id as id from ${CARRY} k join asset a on a.id = k.asset_id where k.class_key = $1`,
    [key],
  );
  await tx.run('delete from claim where class_key = $1', [key]);
  await tx.run('delete from finding_decision where class_key = $1', [key]);
  await tx.run('delete from detector_trial where class_key = $1', [key]);
  for (const table of ['class_threshold', 'remembered_dismissal', 'class_hold'])
    await tx.run(`delete from ${table} where class_key = $1`, [key]);
  await tx.run('delete from certainty_rule where class_keys = array[$1]', [key]);
  await tx.run(
    'update certainty_rule set class_keys = array_remove(class_keys, $1), version = version + 1 where $1 = any(class_keys)',
    [key],
  );
  await tx.run('update data_class set parent_key = $2 where parent_key = $1', [key, about.parentKey]);
  await tx.run('delete from detector_off where detector_id in (select id from detector where class_key = $1)', [key]);
  await tx.run('delete from detector where class_key = $1', [key]);
  if (about.own) await tx.run('delete from data_class where key = $1', [key]);
  else {
    await writeClass(tx, who, key, about, false);
    await tx.run('update data_class set retired_at = now() where key = $1', [key]);
    for (const detector of DETECTORS.filter((entry) => entry.classKey === key))
      await tx.run('insert into detector_off (detector_id, off_by) values ($1, $2) on conflict do nothing', [
        detector.id,
        who.id,
      ]);
  }
  for (const { id } of sources) await settleLevels(tx, id);
  await record(
    tx,
    who,
    about.own ? 'removed' : 'retired',
    { kind: 'data class', id: key, name: about.label, domainId: null },
    { ...classForJournal(about), detectors: carriers.detectors.join(', ') },
    null,
  );
}

export async function restoreClass(tx: Db, who: Who, key: string): Promise<ClassAnswer> {
  who.mustAnywhere('steward');
  const about = await getClass(tx, who, key);
  if (!about.retired) throw conflict('not-retired', `“${about.label}” is in use.`, 'Nothing is to be done.');
  await tx
    .run('update data_class set retired_at = null, version = version + 1 where key = $1', [key])
    .catch((error: unknown) => nameTaken(error, about.label));
  for (const detector of DETECTORS.filter((entry) => entry.classKey === key))
    await tx.run('delete from detector_off where detector_id = $1', [detector.id]);
  await record(
    tx,
    who,
    'restored',
    { kind: 'data class', id: key, name: about.label, domainId: null },
    null,
    classForJournal(about),
  );
  return getClass(tx, who, key);
}
