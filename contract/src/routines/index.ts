import { STANDINGS } from '@idrel/core/catalog';
import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

/** What a routine does to each asset that it finds. */
export type RoutineAction =
  | { readonly kind: 'standing'; readonly standing: string }
  | { readonly kind: 'owner' | 'steward' | 'term'; readonly id: string };

export interface RoutineBody {
  readonly name: string;
  readonly filter: string;
  readonly action: RoutineAction;
}
export interface RoutineAnswer extends RoutineBody {
  readonly id: string;
  readonly madeBy: string | null;
  readonly version: number;
  readonly mayChange: boolean;
  readonly lastRun: { readonly at: string; readonly changed: number } | null;
}
/** What a routine would do now, for the person who asks. */
export interface RoutinePreview {
  readonly found: number;
  readonly changes: number;
  /** Already as the action wants it. */
  readonly same: number;
  /** Found, but the person may not change them. */
  readonly refused: number;
  /** The first of those found, those that would change first. */
  readonly items: readonly {
    readonly id: string;
    readonly kind: string;
    readonly path: string;
    readonly source: string;
    readonly effect: 'changes' | 'same' | 'refused';
    readonly before: string | null;
  }[];
}
export interface RoutineRunAnswer {
  readonly id: string;
  readonly at: string;
  readonly person: string | null;
  readonly filter: string;
  readonly action: RoutineAction;
  readonly found: number;
  readonly changed: number;
  readonly same: number;
  readonly refused: number;
  readonly undoneAt: string | null;
  readonly restored: number | null;
}

const action = Joi.alternatives()
  .try(
    Joi.object({
      kind: Joi.string().valid('standing').required(),
      standing: Joi.string()
        .valid(...STANDINGS)
        .required(),
    }),
    Joi.object({ kind: Joi.string().valid('owner', 'steward', 'term').required(), id: id.required() }),
  )
  .required()
  .description('Set the standing, or add an owner, a steward or a term');
const filter = Joi.string()
  .trim()
  .min(1)
  .max(2000)
  .required()
  .description('Filter language: which assets the routine finds');
const body = Joi.object({ name: Joi.string().trim().min(1).max(120).required(), filter, action });
const rights = 'editor; steward to set the standing';

export const routineEndpoints = {
  list: endpoint({
    id: 'routines',
    method: 'get',
    path: '/routines',
    area: 'routines',
    summary: 'All routines',
    answers: 'Each with who made it and its last run.',
  }),
  create: endpoint({
    id: 'createRoutine',
    method: 'post',
    path: '/routines',
    area: 'routines',
    summary: 'Make a routine',
    rights: 'editor in at least one domain',
    body,
    answers: 'The routine.',
  }),
  change: endpoint({
    id: 'changeRoutine',
    method: 'put',
    path: '/routines/:id',
    area: 'routines',
    summary: 'Change a routine',
    rights: 'who made it; administrator',
    params: idParam,
    body,
    answers: 'The routine as it is now. Send If-Match with the version you saw.',
  }),
  remove: endpoint({
    id: 'removeRoutine',
    method: 'delete',
    path: '/routines/:id',
    area: 'routines',
    summary: 'Remove a routine; what it changed stays',
    rights: 'who made it; administrator',
    params: idParam,
    answers: 'Nothing.',
  }),
  bringBack: endpoint({
    id: 'bringBackRoutine',
    method: 'post',
    path: '/routines/:id/bring-back',
    area: 'routines',
    summary: 'Bring a removed routine back',
    rights: 'who made it; administrator',
    params: idParam,
    answers: 'The routine.',
  }),
  preview: endpoint({
    id: 'previewRoutine',
    method: 'post',
    path: '/routines/preview',
    area: 'routines',
    summary: 'What a routine would do now',
    body: Joi.object({ filter, action }),
    answers: 'How many assets it finds, would change, finds as they should be, may not change; and the first 200.',
  }),
  run: endpoint({
    id: 'runRoutine',
    method: 'post',
    path: '/routines/:id/runs',
    area: 'routines',
    summary: 'Run a routine now',
    rights,
    params: idParam,
    body: Joi.object({
      changes: Joi.number()
        .integer()
        .min(0)
        .required()
        .description('How many changes you saw in the preview: when it would be another number, nothing is done'),
    }),
    answers: 'The run: what it found, changed, left as it was, might not change.',
  }),
  runs: endpoint({
    id: 'routineRuns',
    method: 'get',
    path: '/routines/:id/runs',
    area: 'routines',
    summary: 'Runs of a routine',
    params: idParam,
    answers: 'The last 50, newest first.',
  }),
  undo: endpoint({
    id: 'undoRoutineRun',
    method: 'post',
    path: '/routine-runs/:id/undo',
    area: 'routines',
    summary: 'Take a run back',
    rights,
    params: idParam,
    answers: 'The run. What somebody changed again since is left as they made it.',
  }),
};
