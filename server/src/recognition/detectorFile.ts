import type { ClassBody, DetectorFile, ImportAnswer } from '@idrel/contract/recognition';
import { DETECTORS } from '@idrel/core/recognition';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, invalid } from '../platform/problems.ts';
import { checkSpec, mustHaveClass } from './checkSpec.ts';
import { addClass, changeClass } from './classes.ts';
import { addOwn, changeOwn, getOwn } from './own.ts';
import { knownClasses } from './registry.ts';

/** What people say of a class, without what follows from it. */
const classBody = ({
  label,
  theme,
  level,
  meaning,
  legalBasis,
  synonyms,
  parentKey,
  travels,
}: ClassBody): ClassBody => ({ label, theme, level, meaning, legalBasis, synonyms, parentKey, travels });

/** The organisation's classes and detectors, to be kept or taken elsewhere. */
export async function exportOwn(db: Db): Promise<DetectorFile> {
  const classes = [...(await knownClasses(db)).values()].filter((entry) => entry.own);
  const detectors = await db.rows<DetectorFile['detectors'][number]>(
    `
      select d.id, d.class_key as "classKey", v.spec
      from detector d
      join detector_version v on v.detector_id = d.id and v.version = d.version
      order by d.id`,
  );
  return {
    kind: 'idrel detectors',
    version: 1,
    classes: classes.map((entry) => ({ key: entry.key, ...classBody(entry) })),
    detectors,
  };
}

const sameAs = (one: unknown, other: unknown) => canonical(one) === canonical(other);
const canonical = (value: unknown): string =>
  JSON.stringify(value, (_key, part: unknown) =>
    part && typeof part === 'object' && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([a], [b]) => (a < b ? -1 : 1)))
      : part,
  );

/**
 * Classes in such an order that one above another comes before it.
 * @throws 422 when they lie below each other in a circle
 */
function parentsFirst(classes: DetectorFile['classes']): DetectorFile['classes'] {
  const ordered: DetectorFile['classes'][number][] = [];
  let waiting = classes;
  while (waiting.length > 0) {
    const keys = new Set(waiting.map(({ key }) => key));
    const free = waiting.filter(({ parentKey }) => parentKey === null || !keys.has(parentKey));
    if (free.length === 0)
      throw invalid(
        `${waiting.map(({ label }) => `“${label}”`).join(', ')} lie below each other in a circle.`,
        'Let one of them in the file lie below another class, or none.',
        [{ field: 'classes', message: 'makes a circle' }],
      );
    ordered.push(...free);
    const placed = new Set(free);
    waiting = waiting.filter((entry) => !placed.has(entry));
  }
  return ordered;
}

/** Takes classes and detectors in; what is there already becomes a new version where it differs. Only asked what would happen, nothing is written. */
export async function importOwn(tx: Db, who: Who, file: DetectorFile, preview: boolean): Promise<ImportAnswer> {
  who.mustAnywhere('steward');
  const known = await knownClasses(tx);
  const coming = new Set(file.classes.map((entry) => entry.key));
  const foreign = file.classes.filter((entry) => known.has(entry.key) && !known.get(entry.key)?.own);
  if (foreign.length > 0)
    throw invalid(
      `${foreign.map((entry) => entry.key).join(', ')} ${foreign.length === 1 ? 'is a class' : 'are classes'} that Idrel ships.`,
      'Give the class another key in the file.',
      [{ field: 'classes', message: 'names a class that Idrel ships' }],
    );
  for (const [index, detector] of file.detectors.entries()) {
    if (!coming.has(detector.classKey)) await mustHaveClass(tx, detector.classKey);
    if (DETECTORS.some((shipped) => shipped.id === detector.id))
      throw invalid(`${detector.id} is a detector that Idrel ships.`, 'Give it another id in the file.', [
        { field: `detectors.${index}.id`, message: 'is taken' },
      ]);
    checkSpec(detector.spec);
  }
  const classes = file.classes.map((entry) => {
    const before = known.get(entry.key);
    return {
      key: entry.key,
      what: !before
        ? ('new' as const)
        : sameAs(classBody(before), classBody(entry))
          ? ('same' as const)
          : ('changed' as const),
    };
  });
  const own = new Map((await exportOwn(tx)).detectors.map((entry) => [entry.id, entry]));
  const detectors = file.detectors.map((entry) => {
    const before = own.get(entry.id);
    if (before && before.classKey !== entry.classKey)
      throw conflict('other-class', `${entry.id} is there for another class.`, 'Give it another id in the file.');
    return {
      id: entry.id,
      what: !before ? ('new' as const) : sameAs(before.spec, entry.spec) ? ('same' as const) : ('changed' as const),
    };
  });
  if (preview) return { classes, detectors };
  const whatOf = new Map(classes.map(({ key, what }) => [key, what]));
  for (const entry of parentsFirst(file.classes)) {
    const body = classBody(entry);
    if (whatOf.get(entry.key) === 'new') await addClass(tx, who, body, entry.key);
    if (whatOf.get(entry.key) === 'changed')
      await changeClass(tx, who, entry.key, known.get(entry.key)?.version ?? 0, body);
  }
  for (const entry of file.detectors) {
    const what = detectors.find((told) => told.id === entry.id)?.what;
    if (what === 'new') await addOwn(tx, who, { ...entry, note: 'Imported' }, entry.id);
    if (what === 'changed')
      await changeOwn(tx, who, entry.id, (await getOwn(tx, entry.id)).version, { ...entry, note: 'Imported' });
  }
  await record(
    tx,
    who,
    'imported',
    {
      kind: 'detector',
      id: '',
      name: `${file.detectors.length} detectors, ${file.classes.length} classes`,
      domainId: null,
    },
    null,
    {
      new: detectors.filter((entry) => entry.what === 'new').length,
      changed: detectors.filter((entry) => entry.what === 'changed').length,
    },
  );
  return { classes, detectors };
}
