import type { Facet } from '@idrel/contract/catalog';
import { type FilterKey, LACKS } from '@idrel/core/catalog';
import { count } from '../marks/index.tsx';

/** Values that every filter knows, of keys that are not counted. */
const YES_NO: readonly Known[] = [['yes'], ['no']];
const DAYS: readonly Known[] = [
  ['today'],
  ['-7d', 'a week ago'],
  ['-30d', '30 days ago'],
  ['-3m', 'three months ago'],
  ['-1y', 'a year ago'],
];
type Known = readonly [value: string, meaning?: string];
const KNOWN: Partial<Record<FilterKey, readonly Known[]>> = {
  gone: YES_NO,
  described: YES_NO,
  used: [...YES_NO, ['untold', 'its source does not say']],
  size: [['1MB'], ['100MB'], ['1GB'], ['100GB'], ['none', 'not known'], ['any', 'known']],
  lineage: [['in', 'what it is made from is known'], ['out', 'something is made from it'], ['both'], ['none'], ['any']],
  missing: LACKS.map((lack): Known => [lack]),
  priority: [
    ['ordinary'],
    ['important', 'itself, or by what is made from it'],
    ['critical', 'itself, or by what is made from it'],
  ],
  via: [['lineage', 'the classes and tags beside it came that way']],
  asked: [...DAYS, ['none', 'never'], ['any', 'ever']],
  changed: DAYS,
  created: DAYS,
  certified: [...DAYS, ['none', 'never, or no longer'], ['any', 'ever, and still']],
  fresh: [...DAYS, ['none', 'never'], ['any', 'ever']],
};
/** Keys that an asset can lack, or have whatever. */
const NONE_OR_ANY: readonly FilterKey[] = [
  'owner',
  'steward',
  'custodian',
  'expert',
  'person',
  'term',
  'class',
  'arrived',
  'tag',
  'came',
  'level',
  'type',
];
/** Whose values are those of others. */
const COUNTED_AS: Partial<Record<FilterKey, readonly FilterKey[]>> = {
  person: ['owner', 'steward', 'custodian', 'expert'],
  arrived: ['class'],
  came: ['tag'],
};

export interface KnownValue {
  readonly value: string;
  readonly told: string;
  /** How many assets have it, or what it means. */
  readonly beside: string;
}

/** Values that a condition of this key can have: those that assets have, with how many, then those that every filter knows. */
export function valuesFor(key: FilterKey, facets: readonly Facet[]): KnownValue[] {
  const keys = COUNTED_AS[key] ?? [key];
  const counted = facets
    .filter((facet) => keys.includes(facet.key))
    .flatMap((facet) => facet.values)
    .filter(({ value }, at, all) => all.findIndex((other) => other.value === value) === at);
  const others: KnownValue[] = [
    ...(KNOWN[key] ?? []).map(([value, meaning = '']) => ({ value, told: value, beside: meaning })),
    ...(NONE_OR_ANY.includes(key) ? ['none', 'any'] : []).map((value) => ({
      value,
      told: value,
      beside: value === 'none' ? 'has none' : 'has one',
    })),
  ];
  return [
    ...counted.map(({ value, label, count: found }) => ({
      value,
      told: label,
      // Counted is something else: those who have several roles, what carries a class in whatever way.
      beside: COUNTED_AS[key] ? '' : count(found),
    })),
    ...others.filter(({ value }) => !counted.some((entry) => entry.value === value)),
  ];
}
