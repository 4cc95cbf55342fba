import { CHECKSUMS, type DetectorSpec } from '@idrel/core/recognition/spec';
import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

/** What people write of a data class. */
export interface ClassBody {
  readonly label: string;
  readonly theme: string;
  readonly level: number;
  readonly meaning: string;
  readonly legalBasis: string;
  readonly synonyms: readonly string[];
  readonly parentKey: string | null;
}
/** A data class with what stands behind it. */
export interface ClassAnswer extends ClassBody {
  readonly key: string;
  readonly own: boolean;
  readonly retired: boolean;
  readonly version: number;
  readonly detectors: number;
  /** Columns of yours that carry it, by a finding or a decision. */
  readonly columns: number;
}
/** What carries a class and what depends on it: all that its removal touches. */
export interface ClassCarriers {
  readonly columns: number;
  /** The first of them that you may see. */
  readonly shown: readonly {
    readonly id: string;
    readonly path: string;
    readonly source: string;
    readonly state: string;
  }[];
  readonly detectors: readonly string[];
  readonly policies: readonly { readonly id: string; readonly name: string; readonly alone: boolean }[];
  readonly routines: readonly { readonly id: string; readonly name: string }[];
  /** Rules of levels, rules that confirm, and detectors that look for it beside another class. */
  readonly rules: readonly {
    readonly id: string;
    readonly name: string;
    readonly of: 'levels' | 'certainty' | 'combination';
  }[];
  readonly children: readonly string[];
}

export interface OwnDetectorBody {
  readonly classKey: string;
  readonly spec: DetectorSpec;
  readonly note: string;
}
export interface OwnDetectorAnswer {
  readonly id: string;
  readonly classKey: string;
  readonly label: string;
  readonly version: number;
  readonly off: boolean;
  readonly spec: DetectorSpec;
  readonly versions: readonly {
    readonly version: number;
    readonly note: string;
    readonly by: string | null;
    readonly at: string;
    readonly spec: DetectorSpec;
  }[];
}

/** A column that a draft would claim, or that would no longer be claimed. */
export interface TrialColumn {
  readonly assetId: string;
  /** A combination raises other classes too. */
  readonly classKey: string;
  readonly path: string;
  readonly source: string;
  readonly share: number;
  readonly distinct: number;
  readonly confidence: number;
  readonly state: string;
  /** Masked. */
  readonly examples: readonly string[];
}
export interface TrialAnswer {
  readonly id: string;
  readonly ended: boolean;
  readonly cancelled: boolean;
  readonly done: number;
  /** Tables and files to look into; null until they are counted. */
  readonly total: number | null;
  readonly columns: number;
  readonly gains: readonly TrialColumn[];
  readonly loses: readonly TrialColumn[];
  readonly keeps: number;
  readonly problems: readonly string[];
}
/** Columns of an example file, with values. */
export interface ExampleColumn {
  readonly name: string;
  readonly values: readonly string[];
}
/** What carries a class by detectors that are to be switched off. */
export interface SwitchEffect {
  readonly columns: number;
  /** Those of them that keep the class, since people confirmed it. */
  readonly confirmed: number;
  /** Classes that no other detector looks for. */
  readonly alone: readonly string[];
  /** The first of them. */
  readonly shown: readonly {
    readonly assetId: string;
    readonly path: string;
    readonly source: string;
    readonly classKey: string;
    readonly state: string;
  }[];
}
/** What detectors look like outside of Idrel: plain JSON. */
export interface DetectorFile {
  readonly kind: 'idrel detectors';
  readonly version: 1;
  readonly classes: readonly (ClassBody & { readonly key: string })[];
  readonly detectors: readonly { readonly id: string; readonly classKey: string; readonly spec: DetectorSpec }[];
}
export interface ImportAnswer {
  readonly classes: readonly { readonly key: string; readonly what: 'new' | 'changed' | 'same' }[];
  readonly detectors: readonly { readonly id: string; readonly what: 'new' | 'changed' | 'same' }[];
}

const text = (most: number) => Joi.string().trim().allow('').max(most);
const key = Joi.string()
  .pattern(/^[a-z0-9][a-z0-9.-]{0,79}$/, 'small letters, digits, hyphens and dots')
  .required();
const rule = Joi.alternatives(
  Joi.object({
    kind: Joi.valid('pattern').required(),
    pattern: Joi.string().max(2000).required(),
    caseless: Joi.boolean().required(),
  }),
  Joi.object({
    kind: Joi.valid('list').required(),
    values: Joi.array().items(Joi.string().max(400)).min(1).max(1_000_000).required(),
    match: Joi.valid('exact', 'folded', 'close').required(),
  }),
  Joi.object({
    kind: Joi.valid('combination').required(),
    classKeys: Joi.array().items(Joi.string().max(80)).min(1).max(20).unique().required(),
    least: Joi.number().integer().min(1).max(20).required(),
  }),
  Joi.object({
    kind: Joi.valid('range').required(),
    of: Joi.valid('number', 'date').required(),
    from: text(40).required(),
    to: text(40).required(),
  }),
);
const examples = Joi.array().items(Joi.string().min(1).max(400)).max(200).required();
const spec = Joi.object({
  value: rule.allow(null).required(),
  checksum: Joi.valid(...CHECKSUMS).required(),
  namePattern: text(500).required(),
  nameNeeded: Joi.boolean().required(),
  minShare: Joi.number().min(0.01).max(1).required(),
  minDistinct: Joi.number().integer().min(1).max(100_000).required(),
  accepts: examples,
  rejects: examples,
});
const classFields = {
  label: Joi.string().trim().min(1).max(120).required(),
  theme: Joi.string().max(40).required(),
  level: Joi.number().integer().min(1).max(4).required(),
  meaning: text(2000).default(''),
  legalBasis: text(2000).default(''),
  synonyms: Joi.array().items(Joi.string().trim().min(1).max(120)).max(50).unique().default([]),
  parentKey: Joi.string().max(80).allow(null).default(null),
};
const detectorBody = Joi.object({
  classKey: Joi.string().max(80).required(),
  spec: spec.required(),
  note: text(500).default(''),
});
const rights = 'steward in any domain';
const ownParam = Joi.object({ id: Joi.string().max(120).required() });
const keyParam = Joi.object({ key: Joi.string().max(80).required() });

export const ownEndpoints = {
  classes: endpoint({
    id: 'classes',
    method: 'get',
    path: '/classes',
    area: 'recognition',
    summary: 'Data classes: those that ship with Idrel and your own',
    answers: 'All classes, with how many columns of yours carry each.',
  }),
  addClass: endpoint({
    id: 'addClass',
    method: 'post',
    path: '/classes',
    area: 'recognition',
    summary: 'Make a data class',
    rights,
    body: Joi.object(classFields),
    answers: 'The class.',
  }),
  changeClass: endpoint({
    id: 'changeClass',
    method: 'put',
    path: '/classes/:key',
    area: 'recognition',
    summary: 'Change a data class, also one that ships with Idrel',
    rights,
    params: keyParam,
    body: Joi.object(classFields),
    answers: 'The class. Send If-Match with the version you saw. Levels follow at once.',
  }),
  carriers: endpoint({
    id: 'classCarriers',
    method: 'get',
    path: '/classes/:key/carriers',
    area: 'recognition',
    summary: 'What carries a class, and what depends on it',
    params: keyParam,
    answers: 'Columns, detectors, policies, routines, classes below it.',
  }),
  removeClass: endpoint({
    id: 'removeClass',
    method: 'delete',
    path: '/classes/:key',
    area: 'recognition',
    summary: 'Remove a class of your own, or retire one that ships with Idrel',
    rights: 'steward in every domain whose columns carry it',
    params: keyParam,
    query: Joi.object({ columns: Joi.number().integer().min(0).required() }),
    answers:
      'Nothing. `columns` must be the number that carry it now. Findings, decisions and detectors go; levels follow. Refused while a policy rests on it alone.',
  }),
  restoreClass: endpoint({
    id: 'restoreClass',
    method: 'post',
    path: '/classes/:key/restored',
    area: 'recognition',
    summary: 'Use a retired class again',
    rights,
    params: keyParam,
    answers: 'The class. Its detectors look again in the next runs.',
  }),
  own: endpoint({
    id: 'ownDetector',
    method: 'get',
    path: '/own-detectors/:id',
    area: 'recognition',
    summary: 'A detector of yours with its versions',
    params: ownParam,
    heavy: true,
    answers: 'The detector.',
  }),
  addOwn: endpoint({
    id: 'addOwnDetector',
    method: 'post',
    path: '/own-detectors',
    area: 'recognition',
    summary: 'Make a detector',
    rights,
    body: detectorBody,
    bodyBytes: 64 << 20,
    heavy: true,
    answers: 'The detector. Refused when its own examples come out wrong.',
  }),
  changeOwn: endpoint({
    id: 'changeOwnDetector',
    method: 'put',
    path: '/own-detectors/:id',
    area: 'recognition',
    summary: 'Save a new version of a detector',
    rights,
    params: ownParam,
    body: detectorBody,
    bodyBytes: 64 << 20,
    heavy: true,
    answers: 'The detector. Send If-Match with the version you saw. The next runs look with it.',
  }),
  removeOwn: endpoint({
    id: 'removeOwnDetector',
    method: 'delete',
    path: '/own-detectors/:id',
    area: 'recognition',
    summary: 'Remove a detector of yours',
    rights,
    params: ownParam,
    answers: 'Nothing. What it found goes with it; what people decided stays.',
  }),
  switchOff: endpoint({
    id: 'switchDetectors',
    method: 'put',
    path: '/detectors-off',
    area: 'recognition',
    summary: 'Switch detectors off for the whole organisation, or on again',
    rights,
    body: Joi.object({
      ids: Joi.array().items(Joi.string().max(120)).min(1).max(1000).unique().required(),
      off: Joi.boolean().required(),
    }),
    answers: 'Nothing. What they found stays until the next scan of the source.',
  }),
  exported: endpoint({
    id: 'exportDetectors',
    method: 'get',
    path: '/detectors-file',
    area: 'recognition',
    summary: 'Your classes and detectors as JSON',
    answers: 'A file of the kind that the import takes.',
  }),
  imported: endpoint({
    id: 'importDetectors',
    method: 'post',
    path: '/detectors-file',
    area: 'recognition',
    summary: 'Take classes and detectors from JSON',
    rights,
    query: Joi.object({ preview: Joi.boolean().default(false) }),
    body: Joi.object({
      kind: Joi.valid('idrel detectors').required(),
      version: Joi.valid(1).required(),
      classes: Joi.array()
        .items(Joi.object({ key, ...classFields }))
        .max(1000)
        .required(),
      detectors: Joi.array()
        .items(Joi.object({ id: key, classKey: Joi.string().max(80).required(), spec: spec.required() }))
        .max(1000)
        .required(),
    }),
    bodyBytes: 64 << 20,
    heavy: true,
    answers: 'What is new, changed, or the same; with `preview` nothing is written.',
  }),
  exampleFile: endpoint({
    id: 'exampleFile',
    method: 'post',
    path: '/example-file',
    area: 'recognition',
    summary: 'Columns and values of an example file',
    rights,
    body: Joi.object({
      name: Joi.string().max(255).required(),
      content: Joi.string().base64().max(45_000_000).required(),
      rows: Joi.number().integer().min(1).max(1_000_000).default(2000),
    }),
    bodyBytes: 64 << 20,
    heavy: true,
    answers: 'Columns with the values of so many rows. Nothing of the file is kept.',
  }),
  columnValues: endpoint({
    id: 'columnValues',
    method: 'post',
    path: '/column-values',
    area: 'recognition',
    summary: 'Values of a catalogued column, or of an enumeration, as examples or as a list',
    rights: 'steward in any domain, and to read the column unmasked',
    body: Joi.object({
      assetId: id.required(),
      rows: Joi.number().integer().min(1).max(1_000_000).default(2000).description('Rows that are looked at'),
    }),
    heavy: true,
    answers: 'Different values as the source has them now. That they were read stands in the journal.',
  }),
  switchEffect: endpoint({
    id: 'switchEffect',
    method: 'get',
    path: '/detectors-off/effect',
    area: 'recognition',
    summary: 'What carries a class by detectors that are to be switched off',
    query: Joi.object({ ids: Joi.string().max(60_000).required().description('Ids with commas between') }),
    answers: 'Columns that you may see, and how many of them people have confirmed.',
  }),
  startTrial: endpoint({
    id: 'startTrial',
    method: 'post',
    path: '/detector-trials',
    area: 'recognition',
    summary: 'Try a draft of a detector on live samples of all sources',
    rights,
    body: Joi.object({
      classKey: Joi.string().max(80).required(),
      detectorId: Joi.string().max(120).allow(null).default(null),
      spec: spec.required(),
    }),
    bodyBytes: 64 << 20,
    heavy: true,
    answers: 'The trial; it goes on in the background.',
  }),
  trial: endpoint({
    id: 'trial',
    method: 'get',
    path: '/detector-trials/:id',
    area: 'recognition',
    summary: 'How far a trial is, and what it has found',
    params: idParam,
    answers: 'Columns that would gain the class, and that would lose it.',
  }),
  stopTrial: endpoint({
    id: 'stopTrial',
    method: 'post',
    path: '/detector-trials/:id/stopped',
    area: 'recognition',
    summary: 'Stop a trial',
    params: idParam,
    answers: 'The trial.',
  }),
};
