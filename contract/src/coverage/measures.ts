import { kindsThat } from '@idrel/core/things';
import { type Of, optional, shape, text } from '../http/index.ts';

/** What is counted of the assets: a share of all, told by a filter, so that each figure opens exactly the assets behind it. */
export const Measure = shape({
  key: text,
  label: text,
  filter: text,
  help: text,
  lack: optional(text).description('How those are said that lack it; absent where not every asset has to have it.'),
});
export type Measure = Of<typeof Measure>;

/** Days within which something was asked for that is in use. */
export const USED_DAYS = 90;

export const MEASURES: readonly Measure[] = [
  { key: 'owned', label: 'Owned', filter: 'owner:any', help: 'Somebody answers for it.', lack: 'without owner' },
  {
    key: 'described',
    label: 'Described',
    filter: 'described:yes',
    help: 'People wrote a description; the source’s own comment does not count.',
    lack: 'not described',
  },
  {
    key: 'terms',
    label: 'With terms',
    filter: 'term:any',
    help: 'It carries a term of the glossary.',
    lack: 'without a term',
  },
  {
    key: 'classified',
    label: 'Classified',
    filter: 'class:any',
    help: 'It, or one of its columns, carries a data class. Not every asset has to.',
  },
  {
    key: 'levelled',
    label: 'With a level',
    filter: 'level:any',
    help: 'It has a sensitivity level, by its classes or set by hand.',
  },
  {
    key: 'relied',
    label: 'Reviewed or trusted',
    filter: 'standing:reviewed,trusted',
    help: 'Its standing is reviewed or trusted.',
    lack: 'neither reviewed nor trusted',
  },
  {
    key: 'certified',
    label: 'Certified',
    filter: 'certified:any',
    help: 'Somebody certified it: all that its checklist asks for was so, and still is.',
  },
  {
    key: 'lineage',
    label: 'With lineage',
    filter: 'lineage:any',
    help: 'What it is made from is known, or something that is made from it.',
  },
  {
    key: 'fresh',
    label: 'Fresh',
    filter: 'fresh>=-7d',
    help: 'Its source was read within the last seven days.',
  },
  {
    key: 'used',
    label: 'In use',
    filter: `asked>=-${USED_DAYS}d`,
    help: `Somebody asked for it within ${USED_DAYS} days, at its source or through the gateway. Of sources that do not tell, only what goes through the gateway is known.`,
  },
];

/** What nobody asked for, though it has been here long enough and its source would tell; of what takes room of its own. */
export const UNUSED = `kind:${kindsThat('holdsRows')
  .map((kind) => (kind.includes(' ') ? `"${kind}"` : kind))
  .join(',')} not asked>=-${USED_DAYS}d not used:untold created<-${USED_DAYS}d`;

/** Levels as they are counted: each with the filter that finds what has it. */
export const LEVEL_MEASURES: readonly Measure[] = [
  { key: 'none', label: 'none', filter: 'level:none', help: 'No level: no class gives it one, and nobody set it.' },
  ...['open', 'internal', 'guarded', 'sealed'].map((key) => ({
    key,
    label: key,
    filter: `level:${key}`,
    help: `Assets whose level is this one; searches know it as level:${key}.`,
  })),
];
