import { dataClass } from './classes.ts';
import { isBareName } from './columnName.ts';
import { against, WORTH_SETTLING } from './confidence.ts';
import type { Finding } from './types.ts';

/** Above this sum of shares two claims must speak of the same values. */
const OVERLAP = 1.1;
/** A claim this close to the better one is not certain either. */
const CLOSE = 0.03;

/** Classes that a value may have beside another one: what a text is about does not say what else it is. */
const BESIDE = new Set(['personal-text', 'health-text']);

const overlap = (one: Finding, other: Finding) =>
  one.share + other.share > OVERLAP && !BESIDE.has(one.classKey) && !BESIDE.has(other.classKey);
const isAnyName = ({ name }: Finding) => isBareName(name.words);
const nameOf = (finding: Finding) => dataClass(finding.classKey)?.label ?? finding.label;

/**
 * A value cannot be two things at once. Where two claims speak of the same values, the column's name decides; without it check digits do, and
 * then the confidence; what loses is dropped, unless it comes close: then both are to be settled.
 *
 * @param findings at most one for each class
 * @returns those that are left, the most confident first
 */
export function settleRivals(findings: readonly Finding[], checksDigits: (finding: Finding) => boolean): Finding[] {
  const rank = (finding: Finding) =>
    (finding.name.verdict === 'agrees' && !isAnyName(finding) ? 2 : 0) + (checksDigits(finding) ? 1 : 0);
  const ordered = [...findings].sort(
    (a, b) => rank(b) - rank(a) || b.confidence - a.confidence || (a.classKey < b.classKey ? -1 : 1),
  );
  const kept: Finding[] = [];
  for (const finding of ordered) {
    const winner = kept.find((other) => overlap(other, finding));
    if (!winner) {
      kept.push(finding);
      continue;
    }
    const decided = rank(winner) > rank(finding) || winner.confidence - finding.confidence > CLOSE;
    if (!decided) {
      kept.splice(kept.indexOf(winner), 1, {
        ...winner,
        state: 'to-settle',
        terms: [...winner.terms, { reason: `the values could be: ${nameOf(finding)}`, logOdds: 0 }],
      });
      continue;
    }
    const weaker = against(finding, `the values are rather: ${nameOf(winner)}`);
    if (weaker.confidence >= WORTH_SETTLING && rank(winner) === rank(finding))
      kept.push({ ...weaker, state: 'to-settle' });
  }
  return kept.sort((a, b) => b.confidence - a.confidence);
}
