import { fold } from '../text/index.ts';
import { LEVELS } from '../things/index.ts';
import { type AssetFacts, wantedWords } from './facts.ts';
import type { Comparison, Filter } from './filter.ts';

/** The number of a level's name, or undefined for a name that is none. */
export const levelNumber = (name: string): number | undefined => {
  const index = (LEVELS as readonly string[]).indexOf(name.toLowerCase());
  return index < 0 ? undefined : index + 1;
};

export const compareLevel = (level: number, comparison: Comparison, wanted: number): boolean => {
  switch (comparison) {
    case '=':
      return level === wanted;
    case '>=':
      return level >= wanted;
    case '<=':
      return level <= wanted;
    case '>':
      return level > wanted;
    default:
      return level < wanted;
  }
};

const isYes = (value: string) => ['yes', 'true', '1'].includes(value.toLowerCase());

function oneOf(present: readonly string[], value: string): boolean {
  const wanted = fold(value);
  if (wanted === 'none') return present.length === 0;
  if (wanted === 'any') return present.length > 0;
  return present.some((entry) => fold(entry) === wanted);
}

function holds(
  facts: AssetFacts,
  key: Extract<Filter, { type: 'is' }>['key'],
  comparison: Comparison,
  value: string,
): boolean {
  switch (key) {
    case 'kind':
      return oneOf([facts.kind], value);
    case 'source':
      return oneOf([facts.source], value);
    case 'domain':
      return oneOf(facts.domains, value);
    case 'class':
      return oneOf(facts.classes, value);
    case 'owner':
      return oneOf(facts.owners, value);
    case 'steward':
      return oneOf(facts.stewards, value);
    case 'term':
      return oneOf(facts.terms, value);
    case 'standing':
      return oneOf([facts.standing], value);
    case 'described':
      return facts.described === isYes(value);
    case 'gone':
      return facts.gone === isYes(value);
    case 'level': {
      if (value.toLowerCase() === 'none') return facts.level === null;
      if (value.toLowerCase() === 'any') return facts.level !== null;
      const wanted = levelNumber(value);
      return facts.level !== null && wanted !== undefined && compareLevel(facts.level, comparison, wanted);
    }
  }
}

/** Whether an asset passes a filter. The SQL evaluator of the server must give the same answer for every asset and filter. */
export function passes(filter: Filter, facts: AssetFacts): boolean {
  switch (filter.type) {
    case 'all':
      return filter.of.every((part) => passes(part, facts));
    case 'any':
      return filter.of.some((part) => passes(part, facts));
    case 'not':
      return !passes(filter.of, facts);
    case 'word':
      return wantedWords(filter.text).every((wanted) =>
        facts.words.some((word) => (filter.whole ? word === wanted : word.startsWith(wanted))),
      );
    case 'is':
      return filter.values.some((value) => holds(facts, filter.key, filter.comparison, value));
  }
}
