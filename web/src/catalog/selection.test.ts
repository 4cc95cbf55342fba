import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  choiceOf,
  countOf,
  EVERYTHING,
  isEverything,
  isSelected,
  NOTHING_SELECTED,
  type Selection,
  withSelected,
} from './selection.ts';

const ROWS = ['a', 'b', 'c', 'd', 'e'];

describe('what is chosen of a list', () => {
  it('is what was pressed, in whatever order, and the server is told the same', () => {
    const step = fc.oneof(
      fc.constantFrom(EVERYTHING, NOTHING_SELECTED),
      fc.record({ these: fc.subarray(ROWS), chosen: fc.boolean() }),
    );
    fc.assert(
      fc.property(fc.array(step), (steps) => {
        let selection: Selection = NOTHING_SELECTED;
        let plain = new Set<string>();
        for (const next of steps) {
          if ('all' in next) {
            selection = next;
            plain = new Set(next.all ? ROWS : []);
            continue;
          }
          selection = withSelected(selection, next.these, next.chosen);
          for (const id of next.these) next.chosen ? plain.add(id) : plain.delete(id);
        }
        expect(ROWS.filter((id) => isSelected(selection, id))).toEqual(ROWS.filter((id) => plain.has(id)));
        expect(countOf(selection, ROWS.length)).toBe(plain.size);
        expect(isEverything(selection) && plain.size < ROWS.length).toBe(false);
        const choice = choiceOf(selection, 'kind:table', '');
        const told = 'ids' in choice ? choice.ids : ROWS.filter((id) => !choice.except?.includes(id));
        expect(new Set(told)).toEqual(plain);
      }),
    );
  });

  it('holds also what is not loaded yet, below what was asked for', () => {
    expect(choiceOf(withSelected(EVERYTHING, ['b'], false), 'pax', 'schema-id')).toEqual({
      filter: 'pax',
      under: 'schema-id',
      except: ['b'],
    });
    expect(choiceOf(EVERYTHING, '', '')).toEqual({ filter: '' });
    expect(countOf(EVERYTHING, 50_000)).toBe(50_000);
  });
});
