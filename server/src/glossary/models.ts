import { PERSON } from '../people/index.ts';
import { id, reference, text, texts, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export interface TermRow {
  id: string;
  name: string;
  otherNames: readonly string[];
  definition: string;
  broaderId: string | null;
  status: string;
  ownerId: string | null;
  version: number;
}
export const TERM: ModelOf<TermRow> = {
  table: 'term',
  attributes: {
    id,
    name: text,
    otherNames: { ...texts, defaultValue: [] },
    definition: { ...text, defaultValue: '' },
    broaderId: reference,
    status: { ...text, defaultValue: 'draft' },
    ownerId: reference,
    version,
  },
  versioned: true,
  belongsTo: { broader: { of: () => TERM, by: 'broaderId' }, owner: { of: () => PERSON, by: 'ownerId' } },
};
