import { dataClass } from './classes.ts';
import { readColumnName } from './columnName.ts';
import { CERTAIN, CERTAIN_SHARE, confidence, WORTH_SETTLING } from './confidence.ts';
import { DETECTORS } from './detectors/index.ts';
import { maskExample } from './mask.ts';
import { settleRivals } from './rivals.ts';
import type { ColumnSample, Detector, Finding, Setting } from './types.ts';

/** Longer values are cut before they are tested: personal data in a text shows well before that. */
const LONGEST = 4000;

/** Values counted, so that each different one is tested once; dates already in the form the detectors read. */
function countValues(values: ColumnSample['values']): { counts: Map<string, number>; present: number } {
  const counts = new Map<string, number>();
  let present = 0;
  for (const raw of values) {
    const value = raw?.trim().slice(0, LONGEST);
    if (!value) continue;
    present += 1;
    counts.set(value, (counts.get(value) ?? 0) + 1);
  }
  return { counts, present };
}

function claim(detector: Detector, column: ColumnSample, counts: ReadonlyMap<string, number>, present: number, setting: Setting): Finding | undefined {
  const name = readColumnName(column.name, detector.namesFor, detector.namesAgainst);
  const asked = name.verdict === 'agrees' ? detector.minShareNamed : detector.minShare;
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
  if (matched === 0 || matched < asked * present) return undefined;
  const share = matched / present;
  const { value, terms } = confidence(detector, share, distinct, name.verdict);
  if (value < WORTH_SETTLING) return undefined;
  return {
    classKey: detector.classKey,
    label: dataClass(detector.classKey)?.label ?? detector.classKey,
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
    ...(Object.keys(inside).length > 0 ? { inside } : {}),
  };
}

/**
 * Runs detectors over a sample of one column.
 *
 * @param column name, type and sampled values (a missing one is null)
 * @param setting the day the sample was taken, and the countries whose national phone formats count
 * @returns findings worth showing, the most confident first; one per class
 */
export function recognise(column: ColumnSample, setting: Setting, detectors: readonly Detector[] = DETECTORS): Finding[] {
  const { counts, present } = countValues(column.values);
  if (present === 0) return [];
  const best = new Map<string, Finding>();
  for (const detector of detectors) {
    if (!detector.types.includes(column.type)) continue;
    const finding = claim(detector, column, counts, present, setting);
    const known = finding && best.get(finding.classKey);
    if (finding && (!known || known.confidence < finding.confidence)) best.set(finding.classKey, finding);
  }
  const checking = new Set(detectors.filter((detector) => detector.checkDigits).map((detector) => detector.id));
  return settleRivals([...best.values()], (finding) => checking.has(finding.detector));
}
