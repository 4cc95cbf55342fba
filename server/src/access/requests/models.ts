import type { GrantBody, REQUEST_STATES } from '@idrel/contract/access';
import {
  flag,
  id,
  moment,
  optionalFacts,
  optionalText,
  optionalTexts,
  reference,
  text,
  version,
} from '../../platform/columns.ts';
import type { ModelOf } from '../../platform/models.ts';

/** A request without the rows that say what it is for. */
export interface RequestRow {
  id: string;
  personId: string;
  purpose: string;
  note: string;
  columns: readonly string[] | null;
  until: Date | null;
  state: (typeof REQUEST_STATES)[number];
  answeredAt: Date | null;
  answeredBy: string | null;
  answeredFor: string | null;
  answer: string | null;
  granted: GrantBody | null;
  answerSeen: boolean;
  endSeen: boolean;
  version: number;
}
export const REQUEST: ModelOf<RequestRow> = {
  table: 'access_request',
  attributes: {
    id,
    personId: reference,
    purpose: text,
    note: text,
    columns: optionalTexts,
    until: moment,
    state: { ...text, defaultValue: 'waiting' },
    answeredAt: moment,
    answeredBy: reference,
    answeredFor: reference,
    answer: optionalText,
    granted: optionalFacts,
    answerSeen: { ...flag, defaultValue: false },
    endSeen: { ...flag, defaultValue: false },
    version,
  },
  versioned: true,
};
