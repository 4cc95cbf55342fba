import { type Filter, FilterError, type FilterKey, parseFilter, someLeaf } from '../catalog/index.ts';

/**
 * Of each condition why no right rests on it: it changes by reading, scanning or the time of day, or would have to be followed through the whole catalog; null where
 * rights may. A key that comes to the language is decided on here, or this does not compile.
 */
const NOT_FOR_RIGHTS: Readonly<Record<FilterKey, string | null>> = {
  used: 'how often something is read',
  asked: 'when something was last read',
  fresh: 'when a source was last scanned',
  size: 'how much room something takes',
  lineage: 'what lies behind something',
  changed: 'when something was last changed',
  gone: 'whether something is still there',
  upstream: 'what lies behind something',
  downstream: 'what lies behind something',
  kind: null,
  domain: null,
  source: null,
  class: null,
  arrived: null,
  came: null,
  via: null,
  owner: null,
  steward: null,
  custodian: null,
  expert: null,
  person: null,
  term: null,
  tag: null,
  level: null,
  priority: null,
  standing: null,
  notice: null,
  described: null,
  missing: null,
  certified: null,
  created: null,
  name: null,
  path: null,
  under: null,
  type: null,
};

/** What rises from columns to the table that holds them. A column has these by itself. */
const RISES: ReadonlySet<FilterKey> = new Set(['class', 'arrived', 'via', 'level']);

/**
 * The filter of a policy.
 * @throws {FilterError} when it cannot be read, or asks for something that no right may rest on
 */
export function readPolicyFilter(text: string): Filter {
  const filter = parseFilter(text);
  const at = (word: string) => Math.max(0, text.toLowerCase().indexOf(word.toLowerCase()));
  someLeaf(filter, (leaf) => {
    if (leaf.type === 'word')
      throw new FilterError(
        `A policy does not hold by words: “${leaf.text}” can stand in any description.`,
        at(leaf.text),
        'Use conditions, such as tag:personal, name:pax_* or kind:table.',
      );
    const why = leaf.type === 'is' ? NOT_FOR_RIGHTS[leaf.key] : undefined;
    if (leaf.type === 'is' && why)
      throw new FilterError(
        `A policy does not hold by ${leaf.key}: rights do not hang on ${why}.`,
        at(`${leaf.key}`),
        'Use what people decide, such as tags, classes, levels, domains, owners and standings.',
      );
    return false;
  });
  if (filter.type === 'all' && filter.of.length === 0)
    throw new FilterError('The filter finds everything.', 0, 'Say what it is to find, or name the sources instead.');
  return filter;
}

/**
 * Whether a policy's filter is one of columns alone. A table carries the classes and the level of its columns: a policy by these means the columns that have them, not
 * all others of the table with them; unless the filter says by `kind` what it finds.
 */
export const isOfColumns = (filter: Filter): boolean =>
  someLeaf(filter, (leaf) => leaf.type === 'is' && RISES.has(leaf.key)) &&
  !someLeaf(filter, (leaf) => leaf.type === 'is' && leaf.key === 'kind');
