import type { RoutineAction } from '@idrel/contract/routines';
import { PERSON } from '../people/index.ts';
import { facts, id, moment, reference, text, version } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export interface RoutineRow {
  id: string;
  name: string;
  filter: string;
  action: RoutineAction;
  madeBy: string | null;
  removedAt: Date | null;
  version: number;
}
export const ROUTINE: ModelOf<RoutineRow> = {
  table: 'routine',
  attributes: { id, name: text, filter: text, action: facts, madeBy: reference, removedAt: moment, version },
  versioned: true,
  belongsTo: { maker: { of: () => PERSON, by: 'madeBy' } },
};
