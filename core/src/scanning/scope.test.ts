import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compilePattern, describeScope, EVERYTHING, PatternError, type Scope, scopeCover } from './index.ts';

const scope = (parts: Partial<Scope>): Scope => ({ ...EVERYTHING, ...parts });

describe('a scope', () => {
  it('covers everything, also what comes later, but for what is excluded with all that is in it', () => {
    const covers = scopeCover(scope({ exclude: ['tmp_*', 'mart.old_*'] }), '.');
    expect(['mart', 'mart.sales', 'new_one.anything'].every(covers)).toBe(true);
    expect(['tmp_x', 'tmp_x.table', 'mart.old_sales'].some(covers)).toBe(false);
  });

  it('covers just what is chosen, with what is in it', () => {
    const covers = scopeCover(scope({ cover: 'chosen', chosen: ['mart', 'core.passenger'] }), '.');
    expect(['mart', 'mart.sales', 'core.passenger'].every(covers)).toBe(true);
    expect(['core', 'core.booking', 'martian', 'landing'].some(covers)).toBe(false);
  });

  it('covers what fits a pattern, also later; exclusion wins', () => {
    const covers = scopeCover(
      scope({ cover: 'chosen', include: ['**/2026/*.csv', 'logs'], exclude: ['**/private/**'] }),
      '/',
    );
    expect(covers('tides/2026/may.csv')).toBe(true);
    expect(covers('tides/2026/deep/may.csv')).toBe(false);
    expect(covers('logs/anything/at/all.json')).toBe(true);
    expect(covers('logs/private/x.csv')).toBe(false);
  });

  it('takes names with dots, brackets and stars of regular expressions as they are', () => {
    expect(compilePattern('a.b+(c)[d]', '/')('a.b+(c)[d]')).toBe(true);
    expect(compilePattern('a.b', '/')('axb')).toBe(false);
  });

  it.each(['', '  ', 'a***b', '*a*b*c*d*e*f*g*h*i'])('refuses the pattern “%s”', (pattern) => {
    expect(() => compilePattern(pattern, '.')).toThrow(PatternError);
  });

  it('agrees with a regular expression on what stars mean', () => {
    const piece = fc.constantFrom('a', 'b', '.', 'ab', '*', '**');
    fc.assert(
      fc.property(
        fc.array(piece, { minLength: 1, maxLength: 7 }),
        fc.string({ unit: fc.constantFrom('a', 'b', '.'), maxLength: 10 }),
        (pieces, path) => {
          const pattern = pieces.join('');
          fc.pre(!/\*{3,}/.test(pattern));
          const same = new RegExp(
            `^${pattern.replaceAll('.', '\\.').replace(/\*\*|\*/g, (star) => (star === '**' ? '.*' : '[^.]*'))}$`,
            's',
          );
          expect(compilePattern(pattern, '.')(path)).toBe(same.test(path));
        },
      ),
      { numRuns: 2000 },
    );
  });

  it('works through a pattern that would keep a backtracking engine for ever', () => {
    const fits = compilePattern('*a*a*a*a*a*a*a*b', '.');
    expect(fits('a'.repeat(20_000))).toBe(false);
  });

  it.each<[Partial<Scope>, string]>([
    [{}, 'Everything, now and later.'],
    [{ exclude: ['tmp_*'] }, 'Everything, now and later, except tmp_*.'],
    [{ cover: 'chosen', chosen: ['mart', 'core'] }, 'Only mart, core; new ones are not covered.'],
    [
      { cover: 'chosen', chosen: ['mart'], include: ['core.*'] },
      'Only mart, and whatever fits core.*, also later; other new ones are not covered.',
    ],
    [{ cover: 'chosen' }, 'Nothing: choose something, or write a pattern.'],
  ])('says what it covers: %#', (parts, sentence) => {
    expect(describeScope(scope(parts))).toBe(sentence);
  });

  it('counts what is chosen when the whole is known', () => {
    expect(
      describeScope(scope({ cover: 'chosen', chosen: ['a', 'b'] }), { chosen: 12, all: 43, noun: 'schemas' }),
    ).toBe('These 12 of 43 schemas; new ones are not covered.');
  });
});
