import type { Label, Match, Note, TermStatus } from '@idrel/core/glossary';
import { PERSON } from '../people/index.ts';
import { facts, id, moment, reference, text, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export interface SchemeRow {
  id: string;
  uri: string;
  name: string;
  language: string;
  description: string;
  ownerId: string | null;
  version: number;
}
export const SCHEME: ModelOf<SchemeRow> = {
  table: 'scheme',
  attributes: {
    id,
    uri: text,
    name: text,
    language: text,
    description: { ...text, defaultValue: '' },
    ownerId: reference,
    version,
  },
  versioned: true,
  belongsTo: { owner: { of: () => PERSON, by: 'ownerId' } },
};

export interface TermRow {
  id: string;
  uri: string;
  schemeId: string;
  name: string;
  language: string;
  labels: readonly Label[];
  definition: string;
  notes: readonly Note[];
  matches: readonly Match[];
  status: TermStatus;
  ownerId: string | null;
  removedAt: Date | null;
  version: number;
}
export const TERM: ModelOf<TermRow> = {
  table: 'term',
  attributes: {
    id,
    uri: text,
    schemeId: { ...reference, allowNull: false },
    name: text,
    language: text,
    labels: { ...facts, defaultValue: [] },
    definition: { ...text, defaultValue: '' },
    notes: { ...facts, defaultValue: [] },
    matches: { ...facts, defaultValue: [] },
    status: { ...text, defaultValue: 'draft' },
    ownerId: reference,
    removedAt: moment,
    version,
  },
  versioned: true,
  belongsTo: { scheme: { of: () => SCHEME, by: 'schemeId' }, owner: { of: () => PERSON, by: 'ownerId' } },
};
