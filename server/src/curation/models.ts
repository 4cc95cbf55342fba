import type { NoticeKind, Standing } from '@idrel/core/catalog';
import { DataTypes } from 'sequelize';
import { PERSON } from '../people/index.ts';
import { flag, id, moment, optionalText, optionalTexts, reference, text, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

/** What people say of an asset, of its row; what its source says stands beside it and is the scans' to write. */
export interface AssetRow {
  id: string;
  description: string | null;
  standing: Standing;
  levelSet: number | null;
  levelReason: string | null;
  prioritySet: number | null;
  priorityReason: string | null;
  version: number;
}
export const ASSET: ModelOf<AssetRow> = {
  table: 'asset',
  attributes: {
    id,
    description: optionalText,
    standing: text,
    levelSet: { type: DataTypes.SMALLINT, allowNull: true },
    levelReason: optionalText,
    prioritySet: { type: DataTypes.SMALLINT, allowNull: true },
    priorityReason: optionalText,
    version,
  },
  versioned: true,
};

export interface PriorityRuleRow {
  id: string;
  name: string;
  filter: string;
  priority: number;
  enabled: boolean;
  madeBy: string | null;
  version: number;
}
export const PRIORITY_RULE: ModelOf<PriorityRuleRow> = {
  table: 'priority_rule',
  attributes: {
    id,
    name: text,
    filter: text,
    priority: { type: DataTypes.SMALLINT, allowNull: false },
    enabled: flag,
    madeBy: reference,
    version,
  },
  versioned: true,
  belongsTo: { maker: { of: () => PERSON, by: 'madeBy' } },
};

export interface NoticeRow {
  id: string;
  assetId: string;
  kind: NoticeKind;
  text: string;
  starts: string;
  ends: string | null;
  holds: boolean;
  madeBy: string | null;
  removedAt: Date | null;
  version: number;
}
export const NOTICE: ModelOf<NoticeRow> = {
  table: 'notice',
  attributes: {
    id,
    assetId: { ...reference, allowNull: false },
    kind: text,
    text,
    starts: { type: DataTypes.DATEONLY, allowNull: false },
    ends: { type: DataTypes.DATEONLY, allowNull: true },
    holds: flag,
    madeBy: reference,
    removedAt: moment,
    version,
  },
  versioned: true,
  belongsTo: { maker: { of: () => PERSON, by: 'madeBy' } },
};

export interface TagRow {
  id: string;
  name: string;
  description: string;
  permitted: readonly string[] | null;
  kinds: readonly string[] | null;
  groupIds: readonly string[];
  travels: readonly string[];
  madeBy: string | null;
  removedAt: Date | null;
  version: number;
}
export const TAG: ModelOf<TagRow> = {
  table: 'tag',
  attributes: {
    id,
    name: text,
    description: text,
    permitted: optionalTexts,
    kinds: optionalTexts,
    groupIds: { type: DataTypes.ARRAY(DataTypes.UUID), allowNull: false },
    travels: { type: DataTypes.ARRAY(DataTypes.TEXT), allowNull: false },
    madeBy: reference,
    removedAt: moment,
    version,
  },
  versioned: true,
  belongsTo: { maker: { of: () => PERSON, by: 'madeBy' } },
};
