import { beforeAll, describe, expect, it } from 'vitest';
import { type CheckDialect, loadParser, permittedByCheck } from './index.ts';

beforeAll(() => loadParser());

const told = (definition: string, dialect: CheckDialect = 'postgresql') =>
  permittedByCheck(definition, dialect).map(({ column, values }) => `${column}: ${values.join('|')}`);

describe('the values that a check permits', () => {
  it.each([
    ["CHECK ((state = ANY (ARRAY['open'::text, 'closed'::text])))", ['state: open|closed']],
    [
      "CHECK (((state)::text = ANY ((ARRAY['open'::character varying, 'it''s'::character varying])::text[])))",
      ["state: open|it's"],
    ],
    ["CHECK (((state = 'a'::text) OR (state = 'b'::text) OR (state IS NULL))) NOT VALID", ['state: a|b']],
    ["CHECK (((state = 'a'::text) OR ('b'::text = state)))", ['state: a|b']],
    ['CHECK ((level = ANY (ARRAY[1, 2, (-3)])))', ['level: 1|2|-3']],
    [
      "CHECK (((state = ANY (ARRAY['a'::text, 'b'::text])) AND (level > 3) AND (side = 'x'::bpchar)))",
      ['state: a|b', 'side: x'],
    ],
    [
      "CHECK (((state = ANY (ARRAY['a'::text, 'b'::text, 'c'::text])) AND (state = ANY (ARRAY['b'::text, 'c'::text, 'd'::text]))))",
      ['state: b|c'],
    ],
    ["CHECK ((VALUE = ANY (ARRAY['de'::text, 'no'::text])))", ['value: de|no']],
  ])('%s', (definition, expected) => expect(told(definition)).toEqual(expected));

  it.each([
    ["CHECK ((lower(state) = ANY (ARRAY['a'::text])))"],
    ["CHECK ((state <> ALL (ARRAY['a'::text])))"],
    ["CHECK (((state = 'a'::text) OR (level > 3)))"],
    ["CHECK (((state = 'a'::text) OR (side = 'b'::text)))"],
    ["CHECK ((NOT (state = 'a'::text)))"],
    ['CHECK ((state = side))'],
    ['CHECK ((state = ANY (sides)))'],
    ['CHECK ((state IS NULL))'],
    ['CHECK ((state = '],
    ["CHECK (((length(state) > 1) OR (state = ANY (ARRAY['a'::text]))))"],
  ])('are not told where more, or others, are: %s', (definition) => expect(told(definition)).toEqual([]));

  it('are read as each database writes them', () => {
    expect(told('[state] in (\'a\', "b")', 'sqlite')).toEqual([]);
    expect(told("[state] in ('a', 'b') and rank == 1", 'sqlite')).toEqual(['state: a|b', 'rank: 1']);
    expect(told("`state` in ('a','it\\'s')", 'mariadb')).toEqual(["state: a|it's"]);
    expect(told("`state` = 'a' or `state` = 'b'", 'mariadb')).toEqual(['state: a|b']);
  });
});
