import { dataClass } from './classes.ts';
import { isBareName, readColumnName } from './columnName.ts';
import { CERTAIN, CERTAIN_SHARE, confidence, WORTH_SETTLING } from './confidence.ts';
import { DETECTORS } from './detectors/index.ts';
import { maskExample } from './mask.ts';
import { columnsInside } from './nested.ts';
import { settleRivals } from './rivals.ts';
import type { ColumnSample, ConfidenceTerm, Detector, Finding, Setting } from './types.ts';

/** Longer values are cut before they are tested: personal data in a text shows well before that. */
const LONGEST = 4000;

/** What stands where nothing is known: such a value is missing, whatever the class. */
const PLACEHOLDER =
  /^(n\/?a|n\.a\.|null|nil|none|unknown|undefined|tbd|tbc|not (available|applicable|given|known|provided|set)|missing|empty|[?\-–—.*_]+|x{2,}|#n\/a|unbekannt|ukjent|inconnu|desconocido|sconosciuto|onbekend|okänd|keine angabe|k\. ?a\.)$/i;

/** Values counted, so that each different one is tested once; dates already in the form the detectors read. */
function countValues({ values, permitted = [] }: ColumnSample): {
  counts: Map<string, number>;
  present: number;
  added: number;
} {
  const counts = new Map<string, number>();
  let present = 0;
  for (const raw of values) {
    const value = raw?.trim().slice(0, LONGEST);
    if (!value || PLACEHOLDER.test(value)) continue;
    present += 1;
    counts.set(value, (counts.get(value) ?? 0) + 1);
  }
  const drawn = present;
  for (const value of permitted) {
    const trimmed = value.trim().slice(0, LONGEST);
    if (!trimmed || counts.has(trimmed)) continue;
    present += 1;
    counts.set(trimmed, 1);
  }
  return { counts, present, added: present - drawn };
}

/** Where there are many different values and none weighs much, a look at some of them, evenly drawn, tells that a detector has no hope. */
const MANY = 5000;
const LOOKED_AT = 400;
/** The same with fewer: of so many drawn none passes. */
const SOME = 80;
const GLANCED_AT = 48;

/** Of long texts so many are looked at, evenly drawn: what a hundredth of a column holds shows in them. */
const TEXTS = 1000;
const LONG = 200;

/** The values that a detector of texts looks at: all, unless they are many and long. */
function fewTexts(detector: Detector, { counts, present }: Counted): Pick<Counted, 'counts' | 'present'> {
  if (detector.minShare >= 0.1 || counts.size <= TEXTS) return { counts, present };
  let letters = 0;
  for (const value of counts.keys()) letters += value.length;
  if (letters < LONG * counts.size) return { counts, present };
  const step = counts.size / TEXTS;
  const some = [...counts].filter((_, index) => Math.floor(index / step) !== Math.floor((index - 1) / step));
  return { counts: new Map(some), present: some.reduce((sum, [, count]) => sum + count, 0) };
}

/** The different values of a column with how often they stand, and what every detector first looks at. */
interface Counted {
  readonly counts: ReadonlyMap<string, number>;
  readonly present: number;
  /** How often the most frequent one stands. */
  readonly heaviest: number;
  /** {@link GLANCED_AT} of them, evenly drawn; none where they are few. */
  readonly glance: readonly string[];
}

function toCounted(counts: ReadonlyMap<string, number>, present: number): Counted {
  const glance: string[] = [];
  const step = counts.size / GLANCED_AT;
  let [heaviest, index, next] = [0, 0, 0];
  for (const [value, count] of counts) {
    heaviest = Math.max(heaviest, count);
    if (counts.size >= SOME && index >= next) {
      glance.push(value);
      next += step;
    }
    index += 1;
  }
  return { counts, present, heaviest, glance };
}

/**
 * Whether a detector has no hope. Where none of the values weighs more than a fiftieth, a share of three tenths shows nothing among 48 drawn by chance once in ten
 * thousand at most, and mostly far more seldom.
 */
function hopeless(
  detector: Detector,
  asked: number,
  { counts, present, heaviest, glance }: Counted,
  setting: Setting,
): boolean {
  if (
    glance.length > 0 &&
    asked >= 0.3 &&
    heaviest <= present / 50 &&
    !glance.some((value) => detector.test(value, setting))
  )
    return true;
  if (counts.size < MANY || asked < 0.1 || heaviest >= present / 1000) return false;
  const step = Math.floor(counts.size / LOOKED_AT);
  let [seen, passed, index] = [0, 0, 0];
  for (const value of counts.keys()) {
    if (index % step === 0) {
      seen += 1;
      if (detector.test(value, setting)) passed += 1;
    }
    index += 1;
  }
  // Of 400 drawn, fewer than a quarter of the share that is asked: by chance once in far more than a million.
  return passed / seen < asked / 4;
}

function claim(
  detector: Detector,
  column: ColumnSample,
  all: Counted,
  setting: Setting,
  least: number,
  weakToo: boolean,
): Finding | undefined {
  const name = detector.readName
    ? ({ verdict: detector.readName(column.name) ? 'agrees' : 'neutral', words: [] } as const)
    : readColumnName(column.name, detector.namesFor, detector.namesAgainst);
  // What only a name can tell stays too weak without it to be shown, or to be raised by anything but a combination.
  if (detector.needsName && !detector.together && name.verdict !== 'agrees' && !weakToo) return undefined;
  const asked = name.verdict === 'agrees' && !isBareName(name.words) ? detector.minShareNamed : detector.minShare;
  if (hopeless(detector, asked, all, setting)) return undefined;
  const { counts, present } = fewTexts(detector, all);
  const inside: Record<string, number> = {};
  const examples: string[] = [];
  let matched = 0;
  let distinct = 0;
  let left = present;
  for (const [value, count] of counts) {
    const passes = detector.test(value, setting);
    left -= count;
    if (passes) {
      matched += count;
      distinct += 1;
      if (examples.length < 5) examples.push(maskExample(value));
      if (typeof passes === 'string') for (const kind of passes.split(', ')) inside[kind] = (inside[kind] ?? 0) + count;
    } else if (matched + left < asked * present) {
      return undefined; // even if all that is left passed, the share would be too small
    }
  }
  if (matched === 0 || matched < asked * present || distinct < (detector.minDistinct ?? 1)) return undefined;
  const share = matched / present;
  const { value, terms } = confidence(
    detector,
    share,
    distinct,
    name.verdict,
    seenTogether(detector, counts, present, setting),
  );
  if (value < least) return undefined;
  const texts = detector.texts?.(counts.keys());
  return {
    classKey: detector.classKey,
    label: detector.label ?? dataClass(detector.classKey)?.label ?? detector.classKey,
    ...(detector.level ? { level: detector.level } : {}),
    detector: detector.id,
    version: detector.version,
    share: Math.round(share * 10_000) / 10_000,
    matched,
    sampled: present,
    distinct,
    confidence: value,
    state: value >= CERTAIN && (share >= CERTAIN_SHARE || detector.minShare < 0.1) ? 'certain' : 'to-settle',
    name,
    terms,
    examples,
    ...(detector.checkDigits ? { checked: true as const } : {}),
    ...(Object.keys(inside).length > 0 ? { inside } : {}),
    ...(texts ? { texts } : {}),
  };
}

/** What the values say together: for the class, and against it. */
function seenTogether(
  { contrary, together, test }: Detector,
  counts: ReadonlyMap<string, number>,
  present: number,
  setting: Setting,
): ConfidenceTerm[] {
  const terms: ConfidenceTerm[] = [];
  const told = together?.(
    [...counts.keys()].filter((value) => test(value, setting)),
    setting,
  );
  if (told) terms.push(told);
  if (contrary) {
    let against = 0;
    for (const [value, count] of counts) if (contrary.test(value)) against += count;
    const share = against / present;
    if (share >= 0.1)
      terms.push({
        reason: `${Math.round(share * 100)} % of the values ${contrary.reason}`,
        logOdds: share >= 0.5 ? -6 : -3,
      });
  }
  return terms;
}

/**
 * Runs detectors over a sample of one column.
 *
 * @param column name, type and sampled values (a missing one is null)
 * @param setting the day the sample was taken, and the countries whose national phone formats count
 * @param least confidence below which a claim is not told
 * @returns findings worth showing, the most confident first; one per class
 */
export function recognise(
  column: ColumnSample,
  setting: Setting,
  detectors: readonly Detector[] = DETECTORS,
  least = WORTH_SETTLING,
): Finding[] {
  return recogniseAs(
    column,
    setting,
    detectors.filter((detector) => !detector.beside),
    least,
  );
}

/** The same with detectors that look at what stands beside: their claims are weak until that is known. */
export function recogniseAs(
  column: ColumnSample,
  setting: Setting,
  detectors: readonly Detector[],
  least: number,
): Finding[] {
  const inside = columnsInside(column);
  if (inside) return recogniseInside(inside, setting, detectors);
  const { counts, present, added } = countValues(column);
  if (present === 0) return [];
  const counted = toCounted(counts, present);
  const best = new Map<string, Finding>();
  const weakToo = detectors.some((detector) => detector.beside);
  for (const detector of detectors) {
    if (!detector.types.includes(column.type) || (detector.beside && !detector.readName?.(column.name))) continue;
    const claimed = claim(detector, column, counted, setting, least, weakToo);
    const finding =
      claimed && added > 0
        ? {
            ...claimed,
            terms: [
              ...claimed.terms,
              {
                reason: `${added} of the values stand in no row that was drawn: the column's type or a check permits them`,
                logOdds: 0,
              },
            ],
          }
        : claimed;
    const known = finding && best.get(finding.classKey);
    if (finding && (!known || known.confidence < finding.confidence)) best.set(finding.classKey, finding);
  }
  const checking = new Set(detectors.filter((detector) => detector.checkDigits).map((detector) => detector.id));
  // What stands beside a column says nothing of what else it could be.
  const waiting = new Set(detectors.filter((detector) => detector.beside).map((detector) => detector.id));
  const [beside, own] = [true, false].map((is) =>
    [...best.values()].filter((finding) => waiting.has(finding.detector) === is),
  ) as [Finding[], Finding[]];
  return [...settleRivals(own, (finding) => checking.has(finding.detector)), ...beside];
}

/** What stands inside of JSON: of each class the strongest claim, with every path that holds it and how many values match there. */
function recogniseInside(
  columns: readonly (ColumnSample & { readonly path: string })[],
  setting: Setting,
  detectors: readonly Detector[],
): Finding[] {
  const best = new Map<string, Finding>();
  const inside = new Map<string, Record<string, number>>();
  for (const column of columns)
    for (const finding of recognise(column, setting, detectors)) {
      const known = best.get(finding.classKey);
      if (!known || known.confidence < finding.confidence) best.set(finding.classKey, finding);
      inside.set(finding.classKey, { ...inside.get(finding.classKey), [column.path]: finding.matched });
    }
  return [...best.values()]
    .map((finding) => ({ ...finding, inside: inside.get(finding.classKey) ?? {} }))
    .sort((a, b) => b.confidence - a.confidence);
}
