import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { composeChanges, mergeSteps, type RunChange } from './compose.ts';

const of = (id: string, change: RunChange['change'], ...what: string[]): RunChange => ({
  id,
  path: id,
  kind: 'column',
  change,
  what,
});
const told = (...runs: RunChange[][]) => composeChanges(runs).map((entry) => [entry.id, entry.change, ...entry.what]);

describe('changes of several runs', () => {
  it.each([
    ['what came and went', [[of('a', 'new')], [of('a', 'gone')]], []],
    ['what came and changed', [[of('a', 'new')], [of('a', 'changed', 'type: int → text')]], [['a', 'new']]],
    [
      'what changed twice',
      [[of('a', 'changed', 'type: int → text')], [of('a', 'changed', 'type: text → date')]],
      [['a', 'changed', 'type: int → date']],
    ],
    [
      'what changed and changed back',
      [[of('a', 'changed', 'type: int → text')], [of('a', 'changed', 'type: text → int')]],
      [],
    ],
    ['what changed and went', [[of('a', 'changed', 'type: int → text')], [of('a', 'gone')]], [['a', 'gone']]],
    ['what went and came back as it was', [[of('a', 'gone')], [of('a', 'back')]], []],
    [
      'what went and came back different',
      [[of('a', 'gone')], [of('a', 'back', 'nullable: true → false')]],
      [['a', 'changed', 'nullable: true → false']],
    ],
    ['what was gone, came back and went again', [[of('a', 'back')], [of('a', 'gone')]], []],
    [
      'what was gone and is back',
      [[of('a', 'back', 'comment')], [of('a', 'changed', 'comment')]],
      [['a', 'back', 'comment']],
    ],
    [
      'two things',
      [[of('a', 'new'), of('b', 'gone')]],
      [
        ['a', 'new'],
        ['b', 'gone'],
      ],
    ],
  ])('%s', (_, runs, expected) => {
    expect(told(...runs)).toEqual(expected);
  });

  it('names facts whose values are not told once', () => {
    expect(mergeSteps(['comment', 'definition', 'comment', 'type: a: b → c', 'type: c → d → e'])).toEqual([
      'comment',
      'definition',
      'type: a: b → d → e',
    ]);
  });

  it('says of any history what a look at its ends says', () => {
    // A history: at each run the thing is there with a value, or not.
    const history = fc.array(fc.option(fc.integer({ min: 0, max: 3 }), { nil: null }), { minLength: 2, maxLength: 12 });
    fc.assert(
      fc.property(history, (states) => {
        let known = states[0] !== null;
        let value = states[0];
        let gone = false;
        const runs = states.slice(1).map((next): RunChange[] => {
          const before = value;
          const wasThere = known && before !== null;
          const step =
            before !== undefined && before !== null && next !== null && before !== next
              ? [`type: ${before} → ${next}`]
              : [];
          if (next === null) {
            if (!wasThere || gone) return [];
            gone = true;
            return [of('a', 'gone')];
          }
          value = next;
          if (!known) {
            known = true;
            return [of('a', 'new')];
          }
          if (gone) {
            gone = false;
            return [of('a', 'back', ...step)];
          }
          return step.length > 0 ? [of('a', 'changed', ...step)] : [];
        });
        const [first, last] = [states[0], states.at(-1)];
        const expected =
          first === null
            ? last === null
              ? []
              : ['new']
            : last === null
              ? ['gone']
              : first === last
                ? []
                : ['changed'];
        expect(composeChanges(runs).map((entry) => entry.change)).toEqual(expected);
      }),
    );
  });
});
