import { describe, expect, it } from 'vitest';
import { placePasted } from './pasted.ts';

const entry = (name: string, description: string | null = null) => ({ id: `of ${name}`, name, description });
const COLUMNS = [entry('id'), entry('Email', 'Where to write to'), entry('phone'), entry('born')];
const texts = (rows: string[][], from = 0) => {
  const { placed, ...rest } = placePasted(rows, COLUMNS, from);
  return { placed: placed.map(({ name, after }) => [name, after]), ...rest };
};

describe('texts that are pasted over a list', () => {
  it('go one below the other, from the chosen one on; what has no place is told', () => {
    expect(texts([['A number'], ['Where to ring'], ['  '], ['Day of birth'], ['of nothing']], 2)).toEqual({
      placed: [
        ['phone', 'A number'],
        ['born', 'Where to ring'],
      ],
      same: 0,
      left: ['Day of birth', 'of nothing'],
      byName: false,
    });
  });
  it('go to what is called so, where names stand before them, in whatever order', () => {
    expect(
      texts([
        ['column', 'meaning'],
        ['born', 'Day of birth'],
        ['EMAIL', 'Where to write to'],
        ['phone', ''],
        ['fax', 'Long gone'],
      ]),
    ).toEqual({ placed: [['born', 'Day of birth']], same: 1, left: ['column', 'fax'], byName: true });
  });
  it('keep what stands there where a cell is empty, and count what is so already', () => {
    expect(texts([['x'], ['Where to write to']])).toMatchObject({ placed: [['id', 'x']], same: 1 });
    expect(placePasted([], COLUMNS, 0)).toEqual({ placed: [], same: 0, left: [], byName: false });
  });
  it('say what they replace', () => {
    expect(placePasted([['Mail']], COLUMNS, 1).placed).toEqual([
      { id: 'of Email', name: 'Email', before: 'Where to write to', after: 'Mail' },
    ]);
  });
});
