import type { ShareAnswer, ShareBody } from '@idrel/contract/access';
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

/** A share without the rows that say what it is of. */
export interface ShareRow {
  id: string;
  name: string;
  note: string;
  partnerId: string;
  sourceId: string;
  columns: readonly string[] | null;
  columnsBut: boolean;
  masked: ShareBody['masked'];
  rows: ShareBody['rows'];
  until: Date | null;
  state: ShareAnswer['state'];
  offeredBy: string | null;
  answeredBy: string | null;
  answeredAt: Date | null;
  answer: string;
  localName: string | null;
  endedBy: string | null;
  endedAt: Date | null;
  endedBecause: string;
  version: number;
}
export const SHARE: ModelOf<ShareRow> = {
  table: 'share',
  attributes: {
    id,
    name: text,
    note: text,
    partnerId: reference,
    sourceId: reference,
    columns: optionalTexts,
    columnsBut: flag,
    masked: optionalFacts,
    rows: optionalFacts,
    until: moment,
    state: { ...text, defaultValue: 'offered' },
    offeredBy: reference,
    answeredBy: reference,
    answeredAt: moment,
    answer: { ...text, defaultValue: '' },
    localName: optionalText,
    endedBy: reference,
    endedAt: moment,
    endedBecause: { ...text, defaultValue: '' },
    version,
  },
  versioned: true,
};
