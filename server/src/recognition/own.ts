import type { OwnDetectorAnswer, OwnDetectorBody } from '@idrel/contract/recognition';
import type { DetectorSpec } from '@idrel/core/recognition';
import { DETECTORS } from '@idrel/core/recognition';
import { change, create, type Kept, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, notFound } from '../platform/problems.ts';
import { checkBeside, checkSpec, mustHaveClass } from './checkSpec.ts';
import { type ClassUse, inTheWay } from './classUse.ts';
import { DETECTOR, type DetectorRow } from './models.ts';
import { knownClasses } from './registry.ts';
import { settleLevels } from './settling.ts';

export async function getOwn(db: Db, id: string): Promise<OwnDetectorAnswer> {
  const row = await db.one<Omit<OwnDetectorAnswer, 'label' | 'spec'>>(
    `
      select
        d.id, d.class_key as "classKey", d.version, exists (select 1 from detector_off o where o.detector_id = d.id) as off,
        (
          select json_agg(
            json_build_object('version', v.version, 'note', v.note, 'by', p.name, 'at', v.made_at, 'spec', v.spec)
            order by v.version desc
          )
          from detector_version v
          left join person p on p.id = v.made_by
          where v.detector_id = d.id
        ) as versions
      from detector d
      where d.id = $1`,
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
    `
      select distinct a.source_id as source, a.domain_id as domain
      from claim f
      join asset a on a.id = f.asset_id
      where f.detector = $1`,
    [id],
  );
  await remove(tx, who, DETECTORS_KEPT, id, {
    unless() {
      for (const { domain } of touched) who.must('steward', domain);
    },
    async parts() {
      await tx.run('delete from claim where detector = $1', [id]);
      await tx.run('delete from detector_off where detector_id = $1', [id]);
    },
  });
  for (const source of new Set(touched.map((entry) => entry.source))) await settleLevels(tx, source);
}

/** Detectors of the organisation: those for the class go with it; those that look for it beside another class are changed first. */
export const OWN_CLASS_USE: ClassUse = {
  async named(db, key) {
    const own = await db.rows<{ id: string }>('select id from detector where class_key = $1 order by 1', [key]);
    const rules = await db.rows<{ id: string; name: string }>(
      `select d.id, d.id as name
       from detector d
       join detector_version v on v.detector_id = d.id and v.version = d.version
       where d.class_key <> $1 and v.spec -> 'value' -> 'classKeys' ? $1
       order by 1`,
      [key],
    );
    return {
      detectors: own.map(({ id }) => id),
      rules: rules.map((rule) => ({ ...rule, of: 'combination' as const })),
    };
  },
  mayGo({ rules }) {
    const names = rules.filter((rule) => rule.of === 'combination').map(({ name }) => name);
    if (names.length > 0)
      throw inTheWay(
        'class-in-combination',
        names,
        ['looks', 'look'],
        'for this class beside another',
        'Change or remove the detector first.',
      );
  },
  async forget(tx, key) {
    await tx.run('delete from detector_trial where class_key = $1', [key]);
    await tx.run('delete from detector_off where detector_id in (select id from detector where class_key = $1)', [key]);
    await tx.run('delete from detector where class_key = $1', [key]);
  },
};
