import {
  compileSpec,
  DATA_CLASSES,
  DETECTORS,
  type Detector,
  type DetectorSpec,
  type Level,
  type OwnDetector,
  type Theme,
} from '@idrel/core/recognition';
import { type TravelKind, USUAL_TRAVEL } from '@idrel/core/recognition/carried';
import type { Db } from '../platform/database.ts';

/** A data class as the organisation has it: its own, or one that ships with Idrel with what was changed of it. */
export interface KnownClass {
  readonly key: string;
  readonly own: boolean;
  readonly parentKey: string | null;
  readonly label: string;
  readonly theme: Theme;
  readonly level: Level;
  readonly meaning: string;
  readonly legalBasis: string;
  readonly synonyms: readonly string[];
  readonly travels: readonly TravelKind[];
  readonly retired: boolean;
  /** 0: as it ships. */
  readonly version: number;
}

const SHIPPED: readonly KnownClass[] = DATA_CLASSES.map((entry) => ({
  ...entry,
  own: false,
  parentKey: null,
  legalBasis: '',
  synonyms: [],
  travels: USUAL_TRAVEL,
  retired: false,
  version: 0,
}));

/** All data classes by key, retired ones too. */
export async function knownClasses(db: Db): Promise<ReadonlyMap<string, KnownClass>> {
  const rows = await db.rows<KnownClass>(
    `
      select
        key, own, parent_key as "parentKey", label, theme, level, meaning, legal_basis as "legalBasis", synonyms, travels,
        retired_at is not null as retired, version
      from data_class`,
  );
  return new Map([...SHIPPED, ...rows].map((entry) => [entry.key, entry]));
}

/** Levels by class, as JSON for statements. */
export const levelsJson = async (db: Db): Promise<string> =>
  JSON.stringify(Object.fromEntries([...(await knownClasses(db)).values()].map((entry) => [entry.key, entry.level])));

/** What a run is to look with besides the detectors that ship: versions of the organisation's own, by id. */
export interface OwnVersion {
  readonly id: string;
  readonly version: number;
}

/** Which detectors look when nothing else is said: those switched off do not, own ones do in their newest version. */
export async function detectorsNow(db: Db): Promise<{ off: string[]; own: OwnVersion[] }> {
  const off = (await db.rows<{ id: string }>('select detector_id as id from detector_off order by 1')).map(
    (row) => row.id,
  );
  const own = await db.rows<OwnVersion>(
    `
      select d.id, d.version
      from detector d
      where not exists (select 1 from detector_off o where o.detector_id = d.id)
      order by d.id`,
  );
  return { off, own };
}

/** Own detectors in the versions named; one that was removed meanwhile is left out. */
export async function ownDetectors(db: Db, versions: readonly OwnVersion[]): Promise<OwnDetector[]> {
  if (versions.length === 0) return [];
  const rows = await db.rows<{ id: string; version: number; classKey: string; spec: DetectorSpec }>(
    `
      select v.detector_id as id, v.version, d.class_key as "classKey", v.spec
      from detector_version v
      join detector d on d.id = v.detector_id
      join json_to_recordset($1::json) as w(id text, version int) on w.id = v.detector_id and w.version = v.version
      order by 1`,
    [JSON.stringify(versions)],
  );
  const classes = await knownClasses(db);
  return rows.flatMap((row) => {
    const about = classes.get(row.classKey);
    return about ? [{ ...row, label: about.label, level: about.level }] : [];
  });
}

/** All detectors that look in what is pushed, or asked for without a plan. */
export async function lookingDetectors(db: Db): Promise<Detector[]> {
  const { off, own } = await detectorsNow(db);
  return [
    ...DETECTORS.filter((detector) => !off.includes(detector.id)),
    ...(await ownDetectors(db, own)).map(compileSpec),
  ];
}
