import type { Mention } from '@idrel/core/writing';
import { DataTypes } from 'sequelize';
import { PERSON } from '../people/index.ts';
import { facts, flag, id, moment, reference, text, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export interface GuideRow {
  assetId: string;
  text: string;
  mentions: readonly Mention[];
  begins: string;
  personId: string | null;
  at: Date;
  version: number;
}
export const GUIDE: ModelOf<GuideRow> = {
  table: 'guide',
  attributes: {
    assetId: { type: DataTypes.UUID, primaryKey: true },
    text,
    mentions: facts,
    begins: text,
    personId: reference,
    at: { ...moment, allowNull: false },
    version,
  },
  versioned: true,
  belongsTo: { writer: { of: () => PERSON, by: 'personId' } },
};

export interface DiscussionRow {
  id: string;
  assetId: string;
  question: boolean;
  begunBy: string | null;
  settledAt: Date | null;
  settledBy: string | null;
  answerId: string | null;
  version: number;
}
export const DISCUSSION: ModelOf<DiscussionRow> = {
  table: 'discussion',
  attributes: {
    id,
    assetId: { ...reference, allowNull: false },
    question: flag,
    begunBy: reference,
    settledAt: moment,
    settledBy: reference,
    answerId: reference,
    version,
  },
  versioned: true,
};

export interface RemarkRow {
  id: string;
  discussionId: string;
  text: string;
  mentions: readonly Mention[];
  plain: string;
  personId: string | null;
  editedAt: Date | null;
  removedAt: Date | null;
  version: number;
}
export const REMARK: ModelOf<RemarkRow> = {
  table: 'remark',
  attributes: {
    id,
    discussionId: { ...reference, allowNull: false },
    text,
    mentions: facts,
    plain: text,
    personId: reference,
    editedAt: moment,
    removedAt: moment,
    version,
  },
  versioned: true,
};
