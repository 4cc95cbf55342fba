import type {
  ClassBody,
  DetectorFile,
  ImportAnswer,
  OwnDetectorAnswer,
  OwnDetectorBody,
  SwitchEffect,
} from '@idrel/contract/recognition';
import {
  compileName,
  compileTest,
  DETECTORS,
  type DetectorSpec,
  failingExamples,
  SpecProblem,
} from '@idrel/core/recognition';
import { PATH } from '../catalog/index.ts';
import { change, create, type Kept, record, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, invalid, notFound } from '../platform/problems.ts';
import { writeClass } from './classes.ts';
import { settleLevels } from './levels.ts';
import { DETECTOR, type DetectorRow } from './models.ts';
import { detectorsNow, knownClasses } from './registry.ts';

/** @throws 422 naming the field of the specification that is wrong, or the examples that come out wrong */
export function checkSpec(spec: DetectorSpec): void {
  try {
    compileName(spec.namePattern);
    compileTest(spec);
    if (spec.nameNeeded && spec.namePattern.trim() === '')
      throw new SpecProblem('namePattern', 'The name is needed, but no pattern says which.');
  } catch (error) {
    if (!(error instanceof SpecProblem)) throw error;
    throw invalid(error.message, 'Correct it, and save again. Nothing was saved.', [
      { field: `spec.${error.field}`, message: error.message },
    ]);
  }
  const { taken, notTaken } = failingExamples(spec);
  const said = [
    notTaken.length > 0 ? `it does not take ${notTaken.slice(0, 3).join(', ')}` : '',
    taken.length > 0 ? `it takes ${taken.slice(0, 3).join(', ')}` : '',
  ]
    .filter(Boolean)
    .join(', and ');
  if (said)
    throw invalid(`The detector's own examples come out wrong: ${said}.`, 'Change the rule, or the examples.', [
      ...notTaken.map((value) => ({ field: 'spec.accepts', message: `${value} is not taken` })),
      ...taken.map((value) => ({ field: 'spec.rejects', message: `${value} is taken` })),
    ]);
}

/** @throws 422 when there is no such class, or it is retired */
export async function mustHaveClass(db: Db, key: string): Promise<string> {
  const about = (await knownClasses(db)).get(key);
  if (!about || about.retired)
    throw invalid('There is no such class, or it is retired.', 'Choose another class, or make one.', [
      { field: 'classKey', message: 'is not in use' },
    ]);
  return about.label;
}

export async function getOwn(db: Db, id: string): Promise<OwnDetectorAnswer> {
  const row = await db.one<Omit<OwnDetectorAnswer, 'label' | 'spec'>>(
    `select d.id, d.class_key as "classKey", d.version, exists (select 1 from detector_off o where o.detector_id = d.id) as off,
       (select json_agg(json_build_object('version', v.version, 'note', v.note, 'by', p.name, 'at', v.made_at, 'spec', v.spec) order by v.version desc) from detector_version v left join person p on p.id = v.made_by where v.detector_id = d.id) as versions
     from detector d where d.id = $1`,
    [id],
  );
  const newest = row?.versions[0];
  if (!row || !newest) throw notFound('The detector');
  return { ...row, spec: newest.spec, label: (await knownClasses(db)).get(row.classKey)?.label ?? row.classKey };
}

/** What of a specification is told in the journal; long lists by their length. */
const detectorForJournal = (spec: DetectorSpec) => ({
  rule:
    spec.value === null
      ? 'none'
      : spec.value.kind === 'pattern'
        ? spec.value.pattern
        : spec.value.kind === 'list'
          ? `${spec.value.values.length} values, ${spec.value.match}`
          : spec.value.kind === 'range'
            ? `${spec.value.from} to ${spec.value.to}`
            : `beside ${spec.value.least} of ${spec.value.classKeys.join(', ')}`,
  checksum: spec.checksum,
  name: spec.namePattern || 'none',
  share: spec.minShare,
  distinct: spec.minDistinct,
});

async function writeVersion(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  spec: DetectorSpec,
  note: string,
): Promise<void> {
  await tx.run('insert into detector_version (detector_id, version, spec, note, made_by) values ($1, $2, $3, $4, $5)', [
    id,
    version,
    JSON.stringify(spec),
    note,
    who.id,
  ]);
}

/** @throws 422 when a combination names a class that is not in use, or the detector's own */
export async function checkBeside(db: Db, classKey: string, { value }: DetectorSpec): Promise<void> {
  if (value?.kind !== 'combination') return;
  const known = await knownClasses(db);
  const wrong = value.classKeys.filter((key) => key === classKey || !known.has(key) || known.get(key)?.retired);
  if (wrong.length > 0)
    throw invalid(
      `${wrong.join(', ')} cannot stand beside it: ${wrong.includes(classKey) ? 'it is the class itself' : 'there is no such class, or it is retired'}.`,
      'Choose other classes.',
      [{ field: 'spec.value.classKeys', message: `${wrong.join(', ')} cannot stand beside it` }],
    );
}

const DETECTORS_KEPT: Kept<DetectorRow, OwnDetectorAnswer> = {
  thing: 'detector',
  model: DETECTOR,
  read: (db, _who, id) => getOwn(db, id),
  told: (_db, { spec }) => detectorForJournal(spec),
  name: ({ label, id }) => `${label}: ${id}`,
};

export async function addOwn(
  tx: Db,
  who: Who,
  { classKey, spec, note }: OwnDetectorBody,
  wanted?: string,
): Promise<OwnDetectorAnswer> {
  who.mustAnywhere('steward');
  checkSpec(spec);
  await checkBeside(tx, classKey, spec);
  await mustHaveClass(tx, classKey);
  const taken = new Set([
    ...DETECTORS.map((detector) => detector.id),
    ...(await tx.rows<{ id: string }>('select id from detector')).map((row) => row.id),
  ]);
  const plain = wanted ?? `own.${classKey.replace(/^own-/, '')}`;
  let id = plain;
  for (let number = 2; taken.has(id); number += 1) id = `${plain}-${number}`;
  return create(tx, who, DETECTORS_KEPT, { id, classKey }, { parts: () => writeVersion(tx, who, id, 1, spec, note) });
}

export async function changeOwn(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  { classKey, spec, note }: OwnDetectorBody,
): Promise<OwnDetectorAnswer> {
  const { after } = await change(tx, who, DETECTORS_KEPT, id, {
    version,
    async values(before) {
      if (classKey !== before.classKey)
        throw conflict(
          'other-class',
          'A detector keeps its class: what it found would else be taken for something else.',
          'Make a new detector for the other class.',
        );
      checkSpec(spec);
      await checkBeside(tx, classKey, spec);
      return {};
    },
    // Whatever is saved is a version that can be gone back to.
    async parts(_id, before) {
      await writeVersion(tx, who, id, before.version + 1, spec, note);
      return true;
    },
  });
  return after;
}

export async function removeOwn(tx: Db, who: Who, id: string): Promise<void> {
  const touched = await tx.rows<{ source: string; domain: string }>(
    'select distinct a.source_id as source, a.domain_id as domain from claim f join asset a on a.id = f.asset_id where f.detector = $1',
    [id],
  );
  await remove(tx, who, DETECTORS_KEPT, id, {
    async unless() {
      for (const { domain } of touched) who.must('steward', domain);
      await tx.run('delete from claim where detector = $1', [id]);
      await tx.run('delete from detector_off where detector_id = $1', [id]);
    },
  });
  for (const source of new Set(touched.map((entry) => entry.source))) await settleLevels(tx, source);
}

/** Switches detectors off for the whole organisation, or on again; runs that are queued look as it was then. */
export async function switchDetectors(tx: Db, who: Who, ids: readonly string[], off: boolean): Promise<void> {
  who.mustAnywhere('steward');
  const known = new Set([
    ...DETECTORS.map((detector) => detector.id),
    ...(await tx.rows<{ id: string }>('select id from detector')).map((row) => row.id),
  ]);
  const unknown = ids.filter((id) => !known.has(id));
  if (unknown.length > 0)
    throw invalid(`There is no detector ${unknown.join(', ')}.`, 'Name detectors by their ids.', [
      { field: 'ids', message: `does not know ${unknown.join(', ')}` },
    ]);
  if (off)
    await tx.run(
      'insert into detector_off (detector_id, off_by) select unnest($1::text[]), $2 on conflict do nothing',
      [ids, who.id],
    );
  else await tx.run('delete from detector_off where detector_id = any($1::text[])', [ids]);
  await record(
    tx,
    who,
    off ? 'switched off' : 'switched on',
    {
      kind: 'detector',
      id: ids[0] ?? '',
      name: ids.length === 1 ? (ids[0] ?? '') : `${ids.length} detectors`,
      domainId: null,
    },
    null,
    {
      detectors: ids.join(', '),
    },
  );
}

/** What carries a class by these detectors: it stays until the next scan of its source, and what people confirmed stays for good. */
export async function switchEffect(db: Db, who: Who, ids: readonly string[]): Promise<SwitchEffect> {
  const carrying = `from finding f join asset a on a.id = f.asset_id join source s on s.id = a.source_id left join finding_decision d on d.asset_id = f.asset_id and d.class_key = f.class_key
    where f.detector = any($1::text[]) and a.gone_at is null and a.domain_id = any($2::uuid[]) and coalesce(d.decision, f.state) <> 'dismissed'`;
  const bind = [ids, who.domainsAs('reader')];
  const counts = await db.one<{ columns: number; confirmed: number }>(
    `select count(*)::int as columns, count(*) filter (where d.decision = 'confirmed')::int as confirmed ${carrying}`,
    bind,
  );
  const shown = await db.rows<SwitchEffect['shown'][number]>(
    `select a.id as "assetId", ${PATH} as path, s.name as source, f.class_key as "classKey", coalesce(d.decision, f.state) as state ${carrying} order by f.class_key, s.name, a.key limit 100`,
    bind,
  );
  const { off } = await detectorsNow(db);
  const own = await db.rows<{ id: string; classKey: string }>('select id, class_key as "classKey" from detector');
  const all = [...DETECTORS, ...own];
  const looking = all.filter((detector) => !off.includes(detector.id) && !ids.includes(detector.id));
  const classes = await knownClasses(db);
  const lost = new Set(
    all.flatMap((detector) =>
      ids.includes(detector.id) && !looking.some((other) => other.classKey === detector.classKey)
        ? [classes.get(detector.classKey)?.label ?? '']
        : [],
    ),
  );
  return { columns: counts?.columns ?? 0, confirmed: counts?.confirmed ?? 0, alone: [...lost].sort(), shown };
}

/** The organisation's classes and detectors, to be kept or taken elsewhere. */
export async function exportOwn(db: Db): Promise<DetectorFile> {
  const classes = [...(await knownClasses(db)).values()].filter((entry) => entry.own);
  const detectors = await db.rows<DetectorFile['detectors'][number]>(
    'select d.id, d.class_key as "classKey", v.spec from detector d join detector_version v on v.detector_id = d.id and v.version = d.version order by d.id',
  );
  return {
    kind: 'idrel detectors',
    version: 1,
    classes: classes.map(({ key, label, theme, level, meaning, legalBasis, synonyms, parentKey }) => ({
      key,
      label,
      theme,
      level,
      meaning,
      legalBasis,
      synonyms,
      parentKey,
    })),
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
  const classBody = ({ label, theme, level, meaning, legalBasis, synonyms, parentKey }: ClassBody): ClassBody => ({
    label,
    theme,
    level,
    meaning,
    legalBasis,
    synonyms,
    parentKey,
  });
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
  for (const entry of file.classes)
    if (classes.find((told) => told.key === entry.key)?.what !== 'same')
      await writeClass(tx, who, entry.key, classBody(entry), true);
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
