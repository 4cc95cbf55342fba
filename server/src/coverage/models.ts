import { DataTypes, literal } from 'sequelize';
import { id, reference, share, text, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export interface TargetRow {
  id: string;
  domainId: string;
  measure: string;
  share: number;
  byDay: string;
  since?: string | undefined;
  madeBy: string | null;
  version: number;
}
export const TARGET: ModelOf<TargetRow> = {
  table: 'coverage_target',
  attributes: {
    id,
    domainId: { type: DataTypes.UUID, allowNull: false },
    measure: text,
    share,
    byDay: { type: DataTypes.DATEONLY, allowNull: false },
    since: { type: DataTypes.DATEONLY, allowNull: false, defaultValue: literal('current_date') },
    madeBy: reference,
    version,
  },
  versioned: true,
};

export interface PriceRow {
  id: string;
  price: number | null;
  currency: string;
  version: number;
}
export const PRICE: ModelOf<PriceRow> = {
  table: 'room_price',
  attributes: { id, price: { type: DataTypes.DOUBLE, allowNull: true }, currency: text, version },
  versioned: true,
};
