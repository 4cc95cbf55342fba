import type { Standing } from '@idrel/core/catalog';
import { DataTypes } from 'sequelize';
import { id, optionalText, text, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

/** What people say of an asset, of its row; what its source says stands beside it and is the scans' to write. */
export interface AssetRow {
  id: string;
  description: string | null;
  standing: Standing;
  levelSet: number | null;
  levelReason: string | null;
  version: number;
}
export const ASSET: ModelOf<AssetRow> = {
  table: 'asset',
  attributes: {
    id,
    description: optionalText,
    standing: text,
    levelSet: { type: DataTypes.SMALLINT, allowNull: true },
    levelReason: optionalText,
    version,
  },
  versioned: true,
};
