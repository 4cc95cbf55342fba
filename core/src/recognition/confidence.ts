import type { ConfidenceTerm, Detector, Finding, NameVerdict } from './types.ts';

const logit = (probability: number) => Math.log(probability / (1 - probability));
const round = (value: number) => Math.round(value * 100) / 100;

/** At or above: certain. Between the two: to settle. Below: not shown. */
export const CERTAIN = 0.95;
/** A column in which fewer values match is mixed: a person looks at it, however sure the test is. */
export const CERTAIN_SHARE = 0.7;
export const WORTH_SETTLING = 0.5;

/** What needs the column's name to be certain reaches no more without it. */
const NAMELESS = 0.45;

/** Where values and name contradict each other a person looks, however sure the values are. */
const CONTRADICTED = 0.94;
/** Check digits that nearly all of many values pass are no chance, whatever the column is called: from a share of 80 % on the name counts less and less, at 95 % half. */
const misnamed = (share: number) => -4 + 2 * Math.min(1, Math.max(0, (share - 0.8) / 0.15));

/** Few different values prove little, unless the class has few at all. */
const enough = (distinct: number, fewValues?: number) =>
  fewValues
    ? Math.max(-2, Math.min(0.5, 1.5 * Math.log(distinct / fewValues)))
    : Math.max(-2.5, Math.min(1, Math.log(distinct / 8)));

/**
 * Combines the signals into one probability, as a sum of log-odds so that each part can be named:
 * what the detector proves alone, how far the share lies from what it asks, how many different values were seen, what the name says.
 */
export function confidence(
  detector: Detector,
  share: number,
  distinct: number,
  verdict: NameVerdict,
  together: readonly ConfidenceTerm[] = [],
): { value: number; terms: ConfidenceTerm[] } {
  const freeText = detector.minShare < 0.1;
  const terms: ConfidenceTerm[] = [
    {
      reason: `the test alone proves ${Math.round(detector.strength * 100)} %`,
      logOdds: round(logit(detector.strength)),
    },
    // A text column holds personal data even when one row in a hundred does; elsewhere stray values speak against the class.
    {
      reason: `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} % of the values match`,
      logOdds: round(freeText ? Math.min(1, share * 4) : 4 * (share - 0.85)),
    },
    { reason: `${distinct} different values match`, logOdds: round(enough(distinct, detector.fewValues)) },
    ...together,
  ];
  if (verdict === 'agrees') terms.push({ reason: "the column's name agrees", logOdds: detector.needsName ? 3.4 : 2.4 });
  if (verdict === 'disagrees')
    terms.push({
      reason: "the column's name speaks against it",
      logOdds: round(detector.checkDigits && distinct >= 20 ? misnamed(share) : -4),
    });
  const total = terms.reduce((sum, term) => sum + term.logOdds, 0);
  const value = 1 / (1 + Math.exp(-total));
  const alone = detector.needsName && verdict !== 'agrees';
  // What only a name can make certain is shown without one when the values together speak for it.
  const most =
    verdict === 'disagrees'
      ? CONTRADICTED
      : alone
        ? together.some((term) => term.logOdds > 0) && verdict === 'neutral'
          ? 0.8
          : NAMELESS
        : 0.999;
  return { value: Math.round(Math.min(value, most) * 1000) / 1000, terms };
}

const AGAINST = -3;

/** Of which version the rules are by which signals are combined; samples that were judged by others are judged again. */
export const RULES = '7';

function withTerm(finding: Finding, reason: string, logOdds: number): Finding {
  const value = 1 / (1 + Math.exp(-(logit(Math.min(0.999, Math.max(0.001, finding.confidence))) + logOdds)));
  return {
    ...finding,
    confidence: Math.round(Math.min(0.999, value) * 1000) / 1000,
    terms: [...finding.terms, { reason, logOdds }],
  };
}

/** A finding with one more reason against it. */
export const against = (finding: Finding, reason: string): Finding => withTerm(finding, reason, AGAINST);

/** A finding with one more reason for it; certain when that is enough. */
export function raise(finding: Finding, reason: string, logOdds: number): Finding {
  const raised = withTerm(finding, reason, logOdds);
  return {
    ...raised,
    state:
      raised.confidence >= CERTAIN && raised.share >= CERTAIN_SHARE && raised.name.verdict !== 'disagrees'
        ? 'certain'
        : 'to-settle',
  };
}
