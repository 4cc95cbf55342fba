/** What a value is generalised to. */
export const GENERAL = {
  year: 'the year of a date',
  month: 'the year and the month of a date',
  age: 'a band of ages, of a date of birth or of a number of years',
  district: 'the first characters of a postcode',
  host: 'what follows the @ of an e-mail address',
  rounded: 'a multiple of a step, of a number',
} as const;
export type General = keyof typeof GENERAL;
/** What is generalised by a step. */
export type Stepped = 'age' | 'district' | 'rounded';

/** How a value is hidden. */
export type Mask =
  | { readonly kind: 'blank' }
  /** The same text for every value, also where there is none. */
  | { readonly kind: 'fixed'; readonly text: string }
  /** So many characters from the start and from the end; never both none. */
  | { readonly kind: 'partial'; readonly first: number; readonly last: number }
  /** Equal values stay equal: wherever this installation shows them, or only for readers of one organisation. */
  | { readonly kind: 'digest'; readonly keyed: Keyed }
  /** Another value of the same shape, the same one for the same value. */
  | { readonly kind: 'substitute'; readonly keyed: Keyed }
  | { readonly kind: 'general'; readonly to: Exclude<General, Stepped>; readonly step: null }
  /** `step`: width of a band of ages in years, characters of a postcode, or what numbers are rounded to. */
  | { readonly kind: 'general'; readonly to: Stepped; readonly step: number }
  /** A number within so much of the true one, in its own unit or in percent of it: for the same number of a column always the same. */
  | { readonly kind: 'noise'; readonly spread: number; readonly of: 'unit' | 'percent' };
export type MaskKind = Mask['kind'];
/** For whom equal values stay equal. */
export type Keyed = 'installation' | 'organisation';

/** So many characters of a value may be shown from its start, and from its end. */
export const PART_MOST = 6;

/** The attribute of people by which digests of different organisations differ. */
export const ORGANISATION = 'organisation';

export const MASK_KINDS: Readonly<Record<MaskKind, string>> = {
  blank: 'left out, shown as empty',
  fixed: 'replaced by one text',
  partial: 'a few characters, the rest hidden',
  digest: 'replaced by a digest: equal values stay equal',
  substitute: 'replaced by another value of the same shape, the same one each time',
  general: 'only roughly: a year, a band, a district',
  noise: 'a number, off by as much as is said',
};

/** Steps that each generalisation may have; those that do not stand here have none. */
export const STEPS: Readonly<Record<Stepped, { readonly least: number; readonly most: number }>> = {
  age: { least: 2, most: 50 },
  district: { least: 1, most: 6 },
  rounded: { least: 0.01, most: 1e12 },
};

const characters = (which: 'first' | 'last', n: number) =>
  n === 1 ? `${which} character` : `${which} ${n} characters`;

/** What a mask does, in words that go on from "shown as" or stand alone. */
export function maskInWords(mask: Mask): string {
  const keyed = (words: string, by: Keyed) =>
    by === 'organisation' ? `${words}, another for each organisation` : words;
  switch (mask.kind) {
    case 'blank':
      return 'empty';
    case 'fixed':
      return `“${mask.text}”`;
    case 'partial':
      if (mask.last === 0) return `its ${characters('first', mask.first)}`;
      return `its ${mask.first === 0 ? '' : `first ${mask.first} and `}${characters('last', mask.last)}`;
    case 'digest':
      return keyed('a digest', mask.keyed);
    case 'substitute':
      return keyed('a substitute of the same shape', mask.keyed);
    case 'general':
      switch (mask.to) {
        case 'year':
          return 'its year';
        case 'month':
          return 'its year and month';
        case 'age':
          return `an age within ${mask.step} years`;
        case 'district':
          return `its ${characters('first', mask.step)}, as a district`;
        case 'host':
          return 'what follows its @';
        case 'rounded':
          return `rounded to ${mask.step}`;
      }
      break;
    case 'noise':
      return mask.of === 'percent' ? `off by up to ${mask.spread} %` : `off by up to ${mask.spread}`;
  }
}

/** Whether what one mask tells is nothing: no value can be told from another. */
const tellsNothing = ({ kind }: Mask) => kind === 'blank' || kind === 'fixed';

/** Of two masks the one that tells no more than either; null where each tells something that the other hides. */
function lesser(a: Mask, b: Mask): Mask | null {
  if (tellsNothing(a) || tellsNothing(b)) return a.kind === 'blank' || (b.kind !== 'blank' && tellsNothing(a)) ? a : b;
  if (a.kind === 'partial' && b.kind === 'partial') {
    const [first, last] = [Math.min(a.first, b.first), Math.min(a.last, b.last)];
    return first + last === 0 ? null : { kind: 'partial', first, last };
  }
  if (a.kind === 'noise' && b.kind === 'noise') return a.of === b.of ? (a.spread >= b.spread ? a : b) : null;
  if (a.kind === 'general' && b.kind === 'general') {
    if (a.to === b.to) {
      if (a.step === null || b.step === null || a.step === b.step) return a;
      const [fine, coarse] = a.step < b.step ? [a, b] : [b, a];
      // Of a district fewer characters tell less; of bands the wider one does, where it is made of whole bands of the other.
      if (a.to === 'district') return fine;
      return isMultiple(coarse.step ?? 1, fine.step ?? 1) ? coarse : null;
    }
    const tos = [a.to, b.to];
    return tos.includes('year') && tos.includes('month') ? (a.to === 'year' ? a : b) : null;
  }
  // A digest tells which values are equal; a substitute tells their shape as well.
  if ((a.kind === 'digest' || a.kind === 'substitute') && (b.kind === 'digest' || b.kind === 'substitute')) {
    const keyed = a.keyed === 'organisation' || b.keyed === 'organisation' ? 'organisation' : 'installation';
    return { kind: a.kind === 'digest' || b.kind === 'digest' ? 'digest' : 'substitute', keyed };
  }
  return null;
}

/** Whether one number is a whole multiple of another, as numbers are written. */
const isMultiple = (large: number, small: number): boolean =>
  Math.abs(large / small - Math.round(large / small)) < 1e-9;

const BLANK: Mask = { kind: 'blank' };

/**
 * What holds where several masks meet on one column: the one that tells least, and nothing at all where each tells something that another hides, so that
 * no policy can weaken what another protects.
 * @returns null for no masks; `clash` where they could not be reconciled
 */
export function masksTogether(masks: readonly Mask[]): { readonly mask: Mask | null; readonly clash: boolean } {
  let [mask = null, ...others] = masks;
  for (const other of others) {
    const together: Mask | null = mask === null ? other : lesser(mask, other);
    if (together === null) return { mask: BLANK, clash: true };
    mask = together;
  }
  return { mask, clash: false };
}

/** Whether two masks are the same. */
export const isSameMask = (a: Mask | null, b: Mask | null): boolean =>
  a === b || (a !== null && b !== null && maskKey(a) === maskKey(b));
const maskKey = (mask: Mask): string => JSON.stringify(Object.entries(mask).sort(([x], [y]) => (x < y ? -1 : 1)));
