import type { RoutineAnswer, RoutineStep } from '@idrel/contract/routines';
import { parseFilter } from '@idrel/core/catalog';
import { describe, expect, it } from 'vitest';
import { bodyOf, fieldsOf, freshStep, stepIn, stepsIn } from './fields.ts';
import { begunWith, readyMade } from './readyMade.ts';
import { startsInWords, whyInWords } from './words.ts';

const ID = '6f1b2f0e-7f1c-4d43-9a47-0c8a3f1f2a10';
const STEPS: readonly RoutineStep[] = [
  { do: 'act', action: { kind: 'tag', id: ID, value: 'x', remove: true } },
  { do: 'act', action: { kind: 'notice', notice: 'caution', text: 'Look out.', ends: '2027-01-31' } },
  { do: 'only', filter: 'owner:none' },
  { do: 'wait', days: 9 },
  { do: 'tell', to: 'steward', text: 'Look.' },
  { do: 'tell', to: { personId: ID }, text: 'Look.' },
  { do: 'ask', to: 'owner', text: 'Still?', days: 14, silence: 'keep' },
  { do: 'scan' },
  { do: 'ticket', title: 'Nobody owns', text: 'Since spring.' },
  { do: 'call', webhookId: ID, word: 'expired' },
];

describe('a routine as a form', () => {
  it('holds every kind of step, and sends what it was given', () => {
    const routine = { name: 'N', filter: 'kind:table', steps: STEPS, starts: null, guard: { most: 5, times: null } };
    const { steps, ...rest } = bodyOf(fieldsOf({ ...routine, enabled: true } as unknown as RoutineAnswer));
    expect(rest).toEqual({ name: 'N', filter: 'kind:table', starts: null, guard: routine.guard, enabled: true });
    // What is taken away has no value.
    expect(steps).toEqual([{ do: 'act', action: { kind: 'tag', id: ID, remove: true } }, ...STEPS.slice(1)]);
  });

  it('is not complete while something of a step is missing', () => {
    for (const kind of ['act', 'only', 'tell', 'ask', 'ticket', 'call'] as const)
      expect(stepIn(freshStep(kind))).toBeNull();
    expect(stepIn({ ...freshStep('wait'), days: 0 })).toBeNull();
    expect(stepsIn([])).toBeNull();
    expect(stepsIn([freshStep('scan'), freshStep('only')])).toBeNull();
    expect(stepsIn([freshStep('scan'), { ...freshStep('only'), only: ' owner:none ' }])).toEqual([
      { do: 'scan' },
      { do: 'only', filter: 'owner:none' },
    ]);
  });

  it('can begin with one that is ready-made: its search is read, and it says what is still missing', () => {
    for (const one of readyMade('Europe/Oslo')) {
      const draft = begunWith(one);
      expect(() => parseFilter(draft.filter), draft.filter).not.toThrow();
      expect(new Set(draft.steps.map(({ key }) => key)).size).toBe(draft.steps.length);
      expect(draft.starts).not.toBeNull();
    }
    const [retention, source] = readyMade('Europe/Oslo').map(begunWith);
    expect(stepsIn(retention?.steps ?? [])).toHaveLength(3);
    expect(stepsIn(source?.steps ?? [])).toBeNull();
  });

  it('says when it starts, and why a run began', () => {
    expect(startsInWords(null)).toBe('by hand');
    expect(startsInWords({ on: 'happening', what: ['new', 'failed'] })).toBe(
      'when a scan finds something new, or when its source cannot be read',
    );
    expect([whyInWords('asked', 'Maud'), whyInWords('asked', null), whyInWords('schedule', 'Maud')]).toEqual([
      'Maud asked',
      'somebody who left asked',
      'it was time',
    ]);
  });
});
