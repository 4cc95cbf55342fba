import { id, moment, optionalText, reference, text, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export interface PersonRow {
  id: string;
  name: string;
  email: string;
  job: string;
  leftAt: Date | null;
  version: number;
}
export const PERSON: ModelOf<PersonRow> = {
  table: 'person',
  attributes: { id, name: text, email: text, job: text, leftAt: moment, version },
  versioned: true,
};

export interface GroupRow {
  id: string;
  name: string;
  claim: string | null;
  version: number;
}
export const GROUP: ModelOf<GroupRow> = {
  table: 'person_group',
  attributes: { id, name: text, claim: optionalText, version },
  versioned: true,
};

export const DOMAIN: ModelOf<{ id: string; parentId: string | null; name: string }> = {
  table: 'domain',
  attributes: { id, parentId: reference, name: text },
  belongsTo: { parent: { of: () => DOMAIN, by: 'parentId' } },
};
