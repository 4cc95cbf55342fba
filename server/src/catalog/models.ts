import { PERSON } from '../people/index.ts';
import { flag, id, moment, reference, text, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export interface SearchRow {
  id: string;
  personId: string;
  name: string;
  filter: string;
  shared: boolean;
  removedAt: Date | null;
  version: number;
}
export const SEARCH: ModelOf<SearchRow> = {
  table: 'saved_search',
  attributes: { id, personId: reference, name: text, filter: text, shared: flag, removedAt: moment, version },
  versioned: true,
  belongsTo: { keeper: { of: () => PERSON, by: 'personId' } },
};

export interface LinkRow {
  id: string;
  assetId: string;
  kind: string;
  url: string;
  title: string;
  madeBy: string | null;
  removedAt: Date | null;
  version: number;
}
export const LINK: ModelOf<LinkRow> = {
  table: 'asset_link',
  attributes: {
    id,
    assetId: { ...reference, allowNull: false },
    kind: text,
    url: text,
    title: text,
    madeBy: reference,
    removedAt: moment,
    version,
  },
  versioned: true,
  belongsTo: { maker: { of: () => PERSON, by: 'madeBy' } },
};
