import type { PolicyBody } from '@idrel/contract/access';
import { PERSON } from '../people/index.ts';
import {
  flag,
  id,
  moment,
  optionalFacts,
  optionalText,
  optionalTexts,
  reference,
  text,
  texts,
  version,
} from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

/** A policy without the rows that say for whom it is and what it holds for. */
export interface PolicyRow {
  id: string;
  name: string;
  effect: PolicyBody['effect'];
  everyone: boolean;
  filter: string | null;
  carried: boolean;
  columns: readonly string[] | null;
  columnsBut: boolean;
  mask: PolicyBody['mask'];
  rows: PolicyBody['rows'];
  until: Date | null;
  hours: PolicyBody['hours'];
  purposes: readonly string[];
  opens: PolicyBody['opens'];
  passesOn: boolean;
  givenBy: string | null;
  enabled: boolean;
  createdBy: string | null;
  requestId: string | null;
  shareId: string | null;
  version: number;
}
export const POLICY: ModelOf<PolicyRow> = {
  table: 'policy',
  attributes: {
    id,
    name: text,
    effect: text,
    everyone: flag,
    filter: optionalText,
    carried: flag,
    columns: optionalTexts,
    columnsBut: flag,
    mask: optionalFacts,
    rows: optionalFacts,
    until: moment,
    hours: optionalFacts,
    purposes: texts,
    opens: text,
    passesOn: flag,
    givenBy: reference,
    enabled: flag,
    createdBy: reference,
    requestId: reference,
    shareId: reference,
    version,
  },
  versioned: true,
  belongsTo: { maker: { of: () => PERSON, by: 'createdBy' } },
};
