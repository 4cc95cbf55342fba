import type { KeptView } from '@idrel/contract/lineage';
import { DataTypes } from 'sequelize';
import { PERSON } from '../people/index.ts';
import { flag, id, moment, reference, text, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export interface KeptViewRow {
  id: string;
  personId: string;
  assetId: string;
  name: string;
  shared: boolean;
  shows: KeptView['shows'];
  removedAt: Date | null;
  version: number;
}
export const KEPT_VIEW: ModelOf<KeptViewRow> = {
  table: 'kept_view',
  attributes: {
    id,
    personId: reference,
    assetId: { ...reference, allowNull: false },
    name: text,
    shared: flag,
    shows: { type: DataTypes.JSONB, allowNull: false },
    removedAt: moment,
    version,
  },
  versioned: true,
  belongsTo: { keeper: { of: () => PERSON, by: 'personId' } },
};
