import type { RoutineGuard, RoutineStarts, RoutineStep } from '@idrel/contract/routines';
import { PERSON } from '../people/index.ts';
import { facts, flag, id, moment, optionalFacts, reference, text, version, whole } from '../platform/columns.ts';
import type { ModelOf } from '../platform/models.ts';

export interface RoutineRow {
  id: string;
  name: string;
  filter: string;
  steps: readonly RoutineStep[];
  starts: RoutineStarts | null;
  guard: RoutineGuard;
  enabled: boolean;
  /** Who keeps it: it acts with their rights, from when they agreed to it. */
  madeBy: string | null;
  agreedAt: Date | null;
  /** How many changes were seen when it was saved. */
  expected: number;
  nextAt: Date | null;
  removedAt: Date | null;
  version: number;
}
export const ROUTINE: ModelOf<RoutineRow> = {
  table: 'routine',
  attributes: {
    id,
    name: text,
    filter: text,
    steps: facts,
    starts: optionalFacts,
    guard: facts,
    enabled: flag,
    madeBy: reference,
    agreedAt: moment,
    expected: whole,
    nextAt: moment,
    removedAt: moment,
    version,
  },
  versioned: true,
  belongsTo: { maker: { of: () => PERSON, by: 'madeBy' } },
};
