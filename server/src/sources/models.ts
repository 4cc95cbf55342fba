import type { CredentialKind, SourceAnswer, SourceKind } from '@idrel/contract/sources';
import { DataTypes } from 'sequelize';
import { DOMAIN } from '../people/index.ts';
import { facts, id, moment, optionalText, reference, text, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export interface CredentialRow {
  id: string;
  name: string;
  kind: CredentialKind;
  username: string;
  /** Encrypted. */
  secret: Buffer;
  createdBy: string | null;
  rotatedAt: Date;
  version: number;
}
export const CREDENTIAL: ModelOf<CredentialRow> = {
  table: 'credential',
  attributes: {
    id,
    name: text,
    kind: text,
    username: text,
    secret: { type: DataTypes.BLOB, allowNull: false },
    createdBy: reference,
    rotatedAt: { ...moment, defaultValue: DataTypes.NOW },
    version,
  },
  versioned: true,
};

export interface SourceRow {
  id: string;
  name: string;
  kind: SourceKind;
  address: SourceAnswer['address'];
  domainId: string;
  credentialId: string | null;
  agentGroup: string | null;
  description: string;
  createdBy: string | null;
  version: number;
}
export const SOURCE: ModelOf<SourceRow> = {
  table: 'source',
  attributes: {
    id,
    name: text,
    kind: text,
    address: facts,
    domainId: { ...reference, allowNull: false },
    credentialId: reference,
    agentGroup: optionalText,
    description: text,
    createdBy: reference,
    version,
  },
  versioned: true,
  belongsTo: {
    domain: { of: () => DOMAIN, by: 'domainId' },
    credential: { of: () => CREDENTIAL, by: 'credentialId' },
  },
};
