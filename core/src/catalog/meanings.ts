import type { Filter } from './filter.ts';
import { dayOf } from './when.ts';

type Condition = Extract<Filter, { type: 'is' }>;
/** Keys that say in short what others say. */
export type ShortKey = 'missing' | 'person' | 'via';

const ROLES = ['owner', 'steward', 'custodian', 'expert'] as const;
const is = (key: Condition['key'], ...values: string[]): Condition => ({ type: 'is', key, comparison: '=', values });

/** What a condition means that says in short what others say: `missing:owner` is `owner:none`, `person:X` that they have some role. Undefined for any other. */
export function meaningOf({ key, values }: Condition): Filter | undefined {
  if (key === 'missing')
    return {
      type: 'any',
      of: values.map((value) => {
        const lack = value.toLowerCase();
        return lack === 'description' ? is('described', 'no') : is(lack as 'owner', 'none');
      }),
    };
  if (key === 'person')
    return {
      type: 'any',
      of: values.map((value): Filter => {
        const roles = ROLES.map((role) => is(role, value));
        return value.toLowerCase() === 'none' ? { type: 'all', of: roles } : { type: 'any', of: roles };
      }),
    };
  if (key === 'via') return { type: 'any', of: [is('arrived', 'any'), is('came', 'any')] };
  return undefined;
}

/** What asks for a class or a tag that came along lineage. */
const CAME = { class: 'arrived', tag: 'came' } as const;
/** Conditions that are asked for together, as they are meant: beside `via:lineage` a class or a tag is one that came along lineage. */
export function meantTogether(of: readonly Filter[]): readonly Filter[] {
  const asksFor = (key: Condition['key']) => of.some((part) => part.type === 'is' && part.key === key);
  if (!asksFor('via') || !(asksFor('class') || asksFor('tag'))) return of;
  return of.flatMap((part): Filter[] => {
    if (part.type !== 'is') return [part];
    if (part.key === 'via') return [];
    return [part.key === 'class' || part.key === 'tag' ? { ...part, key: CAME[part.key] } : part];
  });
}

/** Keys whose values are dates. */
export const DATED: readonly Condition['key'][] = ['asked', 'changed', 'created', 'certified', 'fresh'];
/** A filter whose dates count back from today, as it is on a day: with dates that stand. @param now milliseconds since 1970 */
export function asOf(filter: Filter, now: number): Filter {
  switch (filter.type) {
    case 'all':
    case 'any':
      return { type: filter.type, of: filter.of.map((part) => asOf(part, now)) };
    case 'not':
      return { type: 'not', of: asOf(filter.of, now) };
    case 'word':
      return filter;
    case 'is':
      return DATED.includes(filter.key)
        ? { ...filter, values: filter.values.map((value) => dayOf(value, now)) }
        : filter;
  }
}
