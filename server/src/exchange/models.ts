import type { Pace, Subscribed } from '@idrel/contract/exchange';
import { DataTypes } from 'sequelize';
import { flag, id, optionalText, reference, text, texts, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export interface WebhookRow {
  id: string;
  name: string;
  address: string;
  secret: Buffer;
  secretBefore?: Buffer | null;
  beforeEndsAt?: Date | null;
  kinds: readonly string[];
  domainId: string | null;
  filter: string | null;
  enabled: boolean;
  offWhy: string | null;
  personId: string | null;
  version: number;
}
export const WEBHOOK: ModelOf<WebhookRow> = {
  table: 'webhook',
  versioned: true,
  attributes: {
    id,
    name: text,
    address: text,
    secret: { type: DataTypes.BLOB, allowNull: false },
    secretBefore: { type: DataTypes.BLOB, allowNull: true },
    beforeEndsAt: { type: DataTypes.DATE, allowNull: true },
    kinds: texts,
    domainId: reference,
    filter: optionalText,
    enabled: flag,
    offWhy: optionalText,
    personId: reference,
    version,
  },
};

export interface SubscriptionRow {
  id: string;
  personId: string;
  what: Subscribed;
  assetId: string | null;
  domainId: string | null;
  termId: string | null;
  filter: string | null;
  below: boolean;
  pace: Pace;
  mail: boolean;
  chat: boolean;
  since: number;
  version: number;
}
export const SUBSCRIPTION: ModelOf<SubscriptionRow> = {
  table: 'subscription',
  versioned: true,
  attributes: {
    id,
    personId: { type: DataTypes.UUID, allowNull: false },
    what: text,
    assetId: reference,
    domainId: reference,
    termId: reference,
    filter: optionalText,
    below: flag,
    pace: text,
    mail: flag,
    chat: flag,
    since: { type: DataTypes.BIGINT, allowNull: false },
    version,
  },
};
