import type { AgentLimits, ScanOptions, Schedule, Scope } from '@idrel/contract/scanning';
import { DataTypes } from 'sequelize';
import { DOMAIN } from '../people/index.ts';
import { facts, flag, id, moment, optionalFacts, reference, text, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';
import { SOURCE } from '../sources/index.ts';

const needed = { ...reference, allowNull: false };

export interface AgentRow {
  id: string;
  name: string;
  groupName: string;
  domainId: string;
  /** A digest: the key itself is nowhere kept. */
  keyHash: Buffer;
  limits: AgentLimits;
  createdBy: string | null;
  version: number;
}
export const AGENT: ModelOf<AgentRow> = {
  table: 'agent',
  attributes: {
    id,
    name: text,
    groupName: text,
    domainId: needed,
    keyHash: { type: DataTypes.BLOB, allowNull: false },
    limits: facts,
    createdBy: reference,
    version,
  },
  versioned: true,
  belongsTo: { domain: { of: () => DOMAIN, by: 'domainId' } },
};

export interface PlanRow {
  id: string;
  sourceId: string;
  name: string;
  scope: Scope;
  options: ScanOptions;
  schedule: Schedule | null;
  enabled: boolean;
  nextAt: string | null;
  /** Objects that are left out knowingly, and those that wait for a decision. */
  leftOut: readonly string[] | null;
  uncovered: readonly string[];
  createdBy: string | null;
  version: number;
}
export const PLAN: ModelOf<PlanRow> = {
  table: 'scan_plan',
  attributes: {
    id,
    sourceId: needed,
    name: text,
    scope: facts,
    options: facts,
    schedule: optionalFacts,
    enabled: flag,
    nextAt: moment,
    leftOut: optionalFacts,
    uncovered: { ...facts, defaultValue: [] },
    createdBy: reference,
    version,
  },
  versioned: true,
  belongsTo: { source: { of: () => SOURCE, by: 'sourceId' } },
};
