import type {
  CertaintyRuleBody,
  DetectorSetBody,
  LevelRuleBody,
  LevelText,
  ThresholdBody,
} from '@idrel/contract/recognition';
import { DataTypes } from 'sequelize';
import {
  flag,
  id,
  moment,
  optionalFacts,
  optionalText,
  optionalTexts,
  reference,
  share,
  text,
  texts,
  version,
  whole,
} from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

const key = { ...text, primaryKey: true };
type Saved<Body> = { -readonly [K in keyof Body]: Body[K] } & { id: string; madeBy: string | null; version: number };

export type DetectorSetRow = Saved<DetectorSetBody>;
export const DETECTOR_SET: ModelOf<DetectorSetRow> = {
  table: 'detector_set',
  attributes: {
    id,
    name: text,
    description: text,
    leavesOut: texts,
    fileKinds: optionalTexts,
    sampling: optionalFacts,
    madeBy: reference,
    version,
  },
  versioned: true,
};

export type LevelRuleRow = Saved<LevelRuleBody>;
export const LEVEL_RULE: ModelOf<LevelRuleRow> = {
  table: 'level_rule',
  attributes: { id, name: text, classKeys: texts, level: whole, kinds: optionalTexts, madeBy: reference, version },
  versioned: true,
};

export type CertaintyRuleRow = Saved<CertaintyRuleBody>;
export const CERTAINTY_RULE: ModelOf<CertaintyRuleRow> = {
  table: 'certainty_rule',
  attributes: {
    id,
    name: text,
    classKeys: optionalTexts,
    checked: flag,
    named: flag,
    minShare: share,
    minConfidence: share,
    minDistinct: whole,
    madeBy: reference,
    version,
  },
  versioned: true,
};

export type ThresholdRow = { -readonly [K in keyof ThresholdBody]: ThresholdBody[K] } & {
  classKey: string;
  madeBy: string | null;
  madeAt: Date;
  version: number;
};
export const THRESHOLD: ModelOf<ThresholdRow> = {
  table: 'class_threshold',
  attributes: { classKey: key, certain: share, settle: share, madeBy: reference, madeAt: moment, version },
  versioned: true,
};

export type LevelTextRow = { -readonly [K in keyof LevelText]: LevelText[K] } & { level: number; version: number };
export const LEVEL_TEXT: ModelOf<LevelTextRow> = {
  table: 'level_text',
  attributes: {
    level: { type: DataTypes.SMALLINT, primaryKey: true },
    name: text,
    meaning: text,
    advice: text,
    version,
  },
  versioned: true,
};

export interface LevelKindsRow {
  one: boolean;
  kinds: readonly string[];
  version: number;
}
export const LEVEL_KINDS: ModelOf<LevelKindsRow> = {
  table: 'level_kinds',
  attributes: { one: { ...flag, primaryKey: true }, kinds: texts, version },
  versioned: true,
};

export interface ClassRow {
  key: string;
  own: boolean;
  parentKey: string | null;
  label: string;
  theme: string;
  level: number;
  meaning: string;
  legalBasis: string;
  synonyms: readonly string[];
  travels: readonly string[];
  retiredAt: Date | null;
  madeBy: string | null;
  version: number;
}
export const DATA_CLASS: ModelOf<ClassRow> = {
  table: 'data_class',
  attributes: {
    key,
    own: flag,
    parentKey: optionalText,
    label: text,
    theme: text,
    level: whole,
    meaning: text,
    legalBasis: text,
    synonyms: texts,
    travels: texts,
    retiredAt: moment,
    madeBy: reference,
    version,
  },
  versioned: true,
  belongsTo: { parent: { of: () => DATA_CLASS, by: 'parentKey' } },
};

/** A detector of the organisation: what it looks with stands in its versions. */
export interface DetectorRow {
  id: string;
  classKey: string;
  version: number;
}
export const DETECTOR: ModelOf<DetectorRow> = {
  table: 'detector',
  attributes: { id: { ...text, primaryKey: true }, classKey: text, version },
  versioned: true,
};
