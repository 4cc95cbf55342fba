import { flag, id, reference, text } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export const PERSON: ModelOf<{ id: string; name: string; email: string; job: string; demo: boolean }> = {
  table: 'person',
  attributes: { id, name: text, email: text, job: text, demo: flag },
};

export const GROUP: ModelOf<{ id: string; name: string }> = {
  table: 'person_group',
  attributes: { id, name: text },
};

export const DOMAIN: ModelOf<{ id: string; parentId: string | null; name: string }> = {
  table: 'domain',
  attributes: { id, parentId: reference, name: text },
  belongsTo: { parent: { of: () => DOMAIN, by: 'parentId' } },
};
