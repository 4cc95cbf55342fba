import type { RoutineAnswer, RoutineBody, RoutineGuard, RoutineStarts, RoutineStep } from '@idrel/contract/routines';
import { type ActionDraft, actionIn, draftOf } from '../curation/index.ts';

export type Do = RoutineStep['do'];
/** A step as it is typed: what another kind of step asks for stays while one chooses. */
export interface StepDraft extends ActionDraft {
  /** By which lists know it. */
  readonly key: string;
  do: Do;
  /** Goes on with what this finds. */
  only: string;
  days: number;
  /** Whom it writes to: a role, or the id of a person. */
  whom: string;
  /** What it writes, or asks. */
  letter: string;
  /** The webhook that it calls. */
  webhook: string | null;
  /** What a ticket says beside its title. */
  more: string;
  /** What no answer is taken for. */
  silence: 'go on' | 'keep';
}
export interface Draft {
  name: string;
  filter: string;
  steps: readonly StepDraft[];
  starts: RoutineStarts | null;
  guard: RoutineGuard;
  enabled: boolean;
}

let last = 0;
export function freshStep(kind: Do = 'act'): StepDraft {
  last += 1;
  return {
    key: `new ${last}`,
    do: kind,
    what: 'owner',
    to: '',
    value: '',
    only: '',
    days: 30,
    whom: 'owner',
    letter: '',
    more: '',
    webhook: null,
    silence: 'go on',
  };
}
const ROLES = ['owner', 'steward', 'custodian', 'keeper'] as const;
type ByRole = (typeof ROLES)[number];

function stepDraft(step: RoutineStep, nth: number): StepDraft {
  const draft = { ...freshStep(step.do), key: String(nth) };
  switch (step.do) {
    case 'act':
      return { ...draft, ...draftOf(step.action) };
    case 'only':
      return { ...draft, only: step.filter };
    case 'wait':
      return { ...draft, days: step.days };
    case 'tell':
      return { ...draft, whom: typeof step.to === 'string' ? step.to : step.to.personId, letter: step.text };
    case 'ask':
      return { ...draft, whom: step.to, letter: step.text, days: step.days, silence: step.silence };
    case 'ticket':
      return { ...draft, letter: step.title, more: step.text };
    case 'call':
      return { ...draft, webhook: step.webhookId, letter: step.word };
    case 'scan':
      return draft;
  }
}

/** The step that was typed; null while something is missing. */
export function stepIn(draft: StepDraft): RoutineStep | null {
  switch (draft.do) {
    case 'act': {
      const action = actionIn(draft);
      return action && { do: 'act', action };
    }
    case 'only':
      return draft.only.trim() ? { do: 'only', filter: draft.only.trim() } : null;
    case 'wait':
      return draft.days >= 1 ? { do: 'wait', days: draft.days } : null;
    case 'tell': {
      const role = ROLES.find((one) => one === draft.whom);
      if (!draft.letter.trim() || !draft.whom) return null;
      return { do: 'tell', to: (role as ByRole | undefined) ?? { personId: draft.whom }, text: draft.letter.trim() };
    }
    case 'ask': {
      const text = draft.letter.trim();
      if (!text || draft.days < 1) return null;
      return {
        do: 'ask',
        to: draft.whom === 'steward' ? 'steward' : 'owner',
        text,
        days: draft.days,
        silence: draft.silence,
      };
    }
    case 'ticket': {
      const title = draft.letter.trim();
      return title ? { do: 'ticket', title, text: draft.more.trim() } : null;
    }
    case 'call': {
      const word = draft.letter.trim();
      return word && draft.webhook ? { do: 'call', webhookId: draft.webhook, word } : null;
    }
    case 'scan':
      return { do: 'scan' };
  }
}

/** Steps that are all there; null while something is missing in one. */
export function stepsIn(drafts: readonly StepDraft[]): RoutineStep[] | null {
  const steps = drafts.map(stepIn);
  return steps.length > 0 && steps.every((step) => step !== null) ? steps : null;
}

export const fieldsOf = ({ name, filter, steps, starts, guard, enabled }: RoutineAnswer): Draft => ({
  name,
  filter,
  steps: steps.map(stepDraft),
  starts,
  guard,
  enabled,
});
export const freshDraft = (filter: string): Draft => ({
  name: '',
  filter,
  steps: [{ ...freshStep(), key: '0' }],
  starts: null,
  guard: { most: null, times: 3 },
  enabled: true,
});
export const bodyOf = ({ steps, ...rest }: Draft): RoutineBody => ({ ...rest, steps: stepsIn(steps) ?? [] });
