import { flag, id, moment, optionalText, reference, text, version } from '../platform/columns.ts';
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

export interface DomainRow {
  id: string;
  parentId: string | null;
  name: string;
  purpose: string;
  ownerId: string | null;
  shownOutside: boolean;
  version: number;
}
export const DOMAIN: ModelOf<DomainRow> = {
  table: 'domain',
  attributes: { id, parentId: reference, name: text, purpose: text, ownerId: reference, shownOutside: flag, version },
  versioned: true,
  belongsTo: { parent: { of: () => DOMAIN, by: 'parentId' } },
};
