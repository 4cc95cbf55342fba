import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asksFor, both, hasWords, parseFilter, toggled, valuesOf, where } from './index.ts';

describe('filters are put together', () => {
  it('from conditions whose values are called anything', () => {
    expect(where('domain', 'Fleet')).toBe('domain:Fleet');
    expect(where('kind', 'view', 'materialised view')).toBe('kind:view,"materialised view"');
    fc.assert(
      fc.property(fc.string({ minLength: 1 }), (value) => {
        expect(parseFilter(where('source', value))).toEqual({
          type: 'is',
          key: 'source',
          comparison: '=',
          values: [value],
        });
      }),
    );
  });

  it.each([
    ['domain:Fleet', 'kind:table', 'domain:Fleet kind:table'],
    ['domain:Fleet or domain:Crewing', 'kind:table', '(domain:Fleet or domain:Crewing) kind:table'],
    ['', 'passenger', 'passenger'],
    ['not kind:view', '', 'not kind:view'],
  ])('both %s and %s', (one, other, told) => expect(both(one, other)).toBe(told));

  it('a filter that cannot be read keeps its words, so that its error is told', () =>
    expect(both('kind:(', 'gone:no')).toBe('kind:( gone:no'));

  it('a condition comes and goes; one that only begins alike is another', () => {
    expect(asksFor('domain:Fleet-ops', 'domain', 'Fleet')).toBe(false);
    expect(toggled('domain:Fleet-ops passenger', 'domain', 'Fleet')).toBe('domain:Fleet-ops passenger domain:Fleet');
    expect(toggled('domain:Fleet passenger domain:Fleet-ops', 'domain', 'Fleet')).toBe('passenger domain:Fleet-ops');
    expect(toggled('', 'source', 'The "old" one')).toBe('source:"The \\"old\\" one"');
    expect(toggled('source:"The \\"old\\" one"', 'source', 'The "old" one')).toBe('');
    // Within an “or” it is no condition of the whole.
    expect(asksFor('kind:view or kind:table', 'kind', 'view')).toBe(false);
  });

  it('back and forth leads where it began', () => {
    const value = fc.string({ minLength: 1, maxLength: 8 });
    fc.assert(
      fc.property(fc.uniqueArray(value, { maxLength: 4 }), value, (values, one) => {
        const filter = both(...values.filter((other) => other !== one).map((other) => where('term', other)));
        expect(toggled(toggled(filter, 'term', one), 'term', one)).toBe(filter);
      }),
    );
  });

  it('what a filter names under a key is found wherever it stands in it', () => {
    const filter = 'kind:column (class:email,"Own Class" or not (class:iban)) "class:phone"';
    expect(valuesOf(filter, 'class')).toEqual(new Set(['email', 'own class', 'iban']));
    expect(valuesOf(filter, 'kind')).toEqual(new Set(['column']));
    expect(valuesOf('class:email (', 'class')).toEqual(new Set());
  });

  it.each([
    ['passenger', true],
    ['kind:table (owner:none or "booking leg")', true],
    ['kind:table', false],
    ['not passenger', false],
    ['kind:(', false],
  ])('whether %s asks for words', (text, expected) => expect(hasWords(text)).toBe(expected));
});
