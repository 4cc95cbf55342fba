import fc from 'fast-check';
import type { Filter, FilterKey } from '../catalog/index.ts';

const COMPARISONS = fc.constantFrom('=' as const, '>=' as const, '<=' as const, '>' as const, '<' as const);
const DATES = fc.constantFrom('2026', '2026-01-01', '2026-02', '2025-12-31', '2026-11-27');

const named = (...list: string[]) => fc.constantFrom(...list, 'none', 'any', 'nothing of the sort');
const is = (
  key: FilterKey,
  values: fc.Arbitrary<string>,
  comparisons: typeof COMPARISONS | fc.Arbitrary<'='> = fc.constant('='),
) =>
  fc.record({
    type: fc.constant('is' as const),
    key: fc.constant(key),
    comparison: comparisons,
    values: fc.array(values, { minLength: 1, maxLength: 2 }),
  });

/**
 * Filters that ask for whatever can be asked for, for the tests that hold those who evaluate them together. Their values are those of the assets that these
 * tests make.
 * @param sources names of sources; @param words what is asked for beside conditions
 */
export function anyFilter(sources: readonly string[], words: fc.Arbitrary<Filter>): fc.Arbitrary<Filter> {
  const leaf: fc.Arbitrary<Filter> = fc.oneof(
    is('kind', named('table', 'VIEW', 'materialised view')),
    is('domain', named('travel', 'Wake Card')),
    is('source', named(...sources)),
    is('class', named('email', 'iban')),
    is('arrived', named('email', 'iban')),
    is('via', fc.constant('lineage')),
    is('owner', named('ida holm', 'BJØRN ÅSE', 'bjorn ase')),
    is('steward', named('Ida Holm')),
    is('custodian', named('Ida Holm')),
    is('expert', named('Ida Holm')),
    is('person', named('Ida Holm')),
    is('missing', fc.constantFrom('owner', 'description', 'class', 'custodian', 'level', 'term', 'tag')),
    is('name', fc.constantFrom('*', 'passenger', 'book*', '*ADDRESS', 'gr*e', 'arsak', "o'*", '%')),
    is('type', named('text', 'varchar*', '*(*)', '*')),
    is('used', fc.constantFrom('0', '1', '100', '2500'), COMPARISONS),
    is('used', fc.constantFrom('yes', 'no', 'untold')),
    is('size', fc.constantFrom('0', '20MB', '1.5gb', '20000000'), COMPARISONS),
    is('size', fc.constantFrom('none', 'any')),
    is('lineage', fc.constantFrom('in', 'out', 'both', 'none', 'any')),
    is('asked', DATES, COMPARISONS),
    is('asked', fc.constantFrom('none', 'any')),
    is('created', DATES, COMPARISONS),
    is('changed', DATES, COMPARISONS),
    is('certified', DATES, COMPARISONS),
    is('certified', fc.constantFrom('none', 'any')),
    is('fresh', DATES, COMPARISONS),
    is('fresh', fc.constantFrom('none', 'any')),
    is('under', fc.constantFrom('*', 'booking', 'pass*', 'x', '*e*', 'ÅRSAK', 'booking.*', 'booking/passenger')),
    is('path', fc.constantFrom('*', 'booking.*', '*.passenger', 'booking*.x', '*e*.*e', 'x', 'booking/*')),
    is('upstream', fc.constantFrom('*', 'passenger', 'booking', '*_*', 'booking.passenger', 'x')),
    is('downstream', fc.constantFrom('*', 'passenger', 'booking', 'gr*', 'booking.*.x', 'x')),
    is('term', named('traveller', 'fare band')),
    is('tag', named('retention', 'Retention/short', 'pilot', 'retention/')),
    is('came', named('retention', 'Retention/short', 'pilot')),
    is('standing', named('trusted', 'retiring')),
    is('notice', named('stop', 'Note')),
    is('described', fc.constantFrom('yes', 'no')),
    is('gone', fc.constantFrom('yes', 'no')),
    is('priority', fc.constantFrom('ordinary', 'important', 'critical'), COMPARISONS),
    is('level', fc.constantFrom('open', 'guarded', 'sealed', 'none', 'any', 'deep'), COMPARISONS),
    words,
  );
  return fc.letrec<{ filter: Filter }>((tie) => ({
    filter: fc.oneof(
      { maxDepth: 3 },
      leaf,
      fc.record({ type: fc.constant('not' as const), of: tie('filter') }),
      fc.record({
        type: fc.constantFrom('all' as const, 'any' as const),
        of: fc.array(tie('filter'), { minLength: 1, maxLength: 3 }),
      }),
    ),
  })).filter;
}

/** Words that a filter asks for. @param whole whether they are in quotation marks */
export const anyWord = (texts: fc.Arbitrary<string>, whole: fc.Arbitrary<boolean>): fc.Arbitrary<Filter> =>
  fc.record({ type: fc.constant('word' as const), text: texts, whole });
