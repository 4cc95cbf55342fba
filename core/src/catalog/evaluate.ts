import { fold } from '../text/index.ts';
import { LEVELS } from '../things/index.ts';
import { type AssetFacts, PRIORITIES, wantedWords } from './facts.ts';
import type { Comparison, Filter, FilterKey } from './filter.ts';
import { meaningOf, meantTogether, type ShortKey } from './meanings.ts';
import { fits, isCalled } from './pattern.ts';
import { sizeOf } from './size.ts';
import { stretchOf } from './when.ts';

/** The number of a level's name, or undefined for a name that is none. */
export const levelNumber = (name: string): number | undefined => {
  const index = (LEVELS as readonly string[]).indexOf(name.toLowerCase());
  return index < 0 ? undefined : index + 1;
};

/** The grade of a priority's name; of a name that is none one that nothing has. */
export const priorityGrade = (name: string): number => {
  const grade = (PRIORITIES as readonly string[]).indexOf(name.toLowerCase());
  return grade < 0 ? Number.NaN : grade;
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

/** Compares with all that lies from one value up to, not including, another: a day is a stretch of time, a number up to the next. */
function compare(value: number, comparison: Comparison, from: number, to: number): boolean {
  const [least, most] = rangeOf(comparison, from, to);
  return value >= least && value < most;
}

/** The values that pass a comparison with a stretch: from, and up to but not including. */
export function rangeOf(comparison: Comparison, from: number, to: number): readonly [number, number] {
  switch (comparison) {
    case '=':
      return [from, to];
    case '>=':
      return [from, Number.POSITIVE_INFINITY];
    case '>':
      return [to, Number.POSITIVE_INFINITY];
    case '<':
      return [Number.NEGATIVE_INFINITY, from];
    default:
      return [Number.NEGATIVE_INFINITY, to];
  }
}

function isWithin(at: number, comparison: Comparison, date: string): boolean {
  const stretch = stretchOf(date);
  return stretch !== undefined && compare(at, comparison, stretch.from, stretch.to);
}

/** The same of what may never have been: `none` asks for that, `any` for the rest. */
function isWhenever(at: number | null, comparison: Comparison, value: string): boolean {
  const word = value.toLowerCase();
  if (word === 'none' || word === 'any') return (at === null) === (word === 'none');
  return at !== null && isWithin(at, comparison, value);
}

/** Whether a value asks for what its source tells no uses of. */
export const isUntold = (value: string): boolean => value.toLowerCase() === 'untold';

/** Whether lineage is as a value of `lineage` asks. @param isMade from something @param isUsed something is made from it */
export function isLineage(value: string, isMade: boolean, isUsed: boolean): boolean {
  switch (value.toLowerCase()) {
    case 'in':
      return isMade;
    case 'out':
      return isUsed;
    case 'both':
      return isMade && isUsed;
    case 'none':
      return !isMade && !isUsed;
    case 'any':
      return isMade || isUsed;
    default:
      return false;
  }
}

/** Whether a value says yes; any other says no. */
export const isYes = (value: string): boolean => ['yes', 'true', '1'].includes(value.toLowerCase());

function oneOf(present: readonly string[], value: string): boolean {
  const wanted = fold(value);
  if (wanted === 'none') return present.length === 0;
  if (wanted === 'any') return present.length > 0;
  return present.some((entry) => fold(entry) === wanted);
}

function holds(
  facts: AssetFacts,
  key: Exclude<Extract<Filter, { type: 'is' }>['key'], ShortKey>,
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
    case 'arrived':
      return oneOf(facts.arrived, value);
    case 'owner':
      return oneOf(facts.owners, value);
    case 'steward':
      return oneOf(facts.stewards, value);
    case 'custodian':
      return oneOf(facts.custodians, value);
    case 'expert':
      return oneOf(facts.experts, value);
    case 'term':
      return oneOf(facts.terms, value);
    case 'tag':
      return oneOf(facts.tags, value);
    case 'came':
      return oneOf(facts.came, value);
    case 'standing':
      return oneOf([facts.standing], value);
    case 'notice':
      return oneOf(facts.notices, value);
    case 'described':
      return facts.described === isYes(value);
    case 'gone':
      return facts.gone === isYes(value);
    case 'name':
      return fits(value, facts.name);
    case 'type': {
      const wanted = fold(value);
      if (wanted === 'none' || wanted === 'any') return (facts.type === null) === (wanted === 'none');
      return facts.type !== null && fits(value, facts.type);
    }
    case 'used':
      if (/^\d+$/.test(value)) return compare(facts.uses, comparison, Number(value), Number(value) + 1);
      if (isUntold(value)) return !facts.usesTold;
      return facts.uses > 0 === isYes(value);
    case 'size': {
      const word = value.toLowerCase();
      if (word === 'none' || word === 'any') return (facts.bytes === null) === (word === 'none');
      const size = sizeOf(value);
      return facts.bytes !== null && size !== undefined && compare(facts.bytes, comparison, size, size + 1);
    }
    case 'lineage':
      return isLineage(value, facts.isMade, facts.makesOthers);
    case 'asked':
      return isWhenever(facts.asked, comparison, value);
    case 'certified':
      return isWhenever(facts.certified, comparison, value);
    case 'fresh':
      return isWhenever(facts.read, comparison, value);
    case 'path':
      return fits(value, facts.path);
    case 'under':
      return facts.above.some((one) => isCalled(value, one));
    case 'upstream':
      return facts.upstreamOf.some((one) => isCalled(value, one));
    case 'downstream':
      return facts.downstreamOf.some((one) => isCalled(value, one));
    case 'changed':
      return isWithin(facts.changed, comparison, value);
    case 'created':
      return isWithin(facts.created, comparison, value);
    case 'priority':
      return compareLevel(facts.priority, comparison, priorityGrade(value));
    case 'level': {
      if (value.toLowerCase() === 'none') return facts.level === null;
      if (value.toLowerCase() === 'any') return facts.level !== null;
      const wanted = levelNumber(value);
      return facts.level !== null && wanted !== undefined && compareLevel(facts.level, comparison, wanted);
    }
  }
}

/** Whether an asset passes a filter, whose dates stand ({@link asOf}). The SQL evaluator of the server must give the same answer for every asset and filter. */
export function passes(filter: Filter, facts: AssetFacts): boolean {
  switch (filter.type) {
    case 'all':
      return meantTogether(filter.of).every((part) => passes(part, facts));
    case 'any':
      return filter.of.some((part) => passes(part, facts));
    case 'not':
      return !passes(filter.of, facts);
    case 'word':
      return wantedWords(filter.text).every((wanted) =>
        [facts.words, facts.wordsCarried].some((words) =>
          words.some((word) => (filter.whole ? word === wanted : word.startsWith(wanted))),
        ),
      );
    case 'is': {
      const meant = meaningOf(filter);
      if (meant) return passes(meant, facts);
      const key = filter.key as Exclude<FilterKey, ShortKey>;
      return filter.values.some((value) => holds(facts, key, filter.comparison, value));
    }
  }
}
