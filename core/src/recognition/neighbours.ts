import { nameWords } from '../text/index.ts';
import { against, raise, WORTH_SETTLING } from './confidence.ts';
import { DETECTORS } from './detectors/index.ts';
import { recogniseAs } from './recognise.ts';
import type { ColumnSample, Detector, Finding, Setting } from './types.ts';

/** Classes that stand beside each other where a table is about persons. */
const OF_PERSONS =
  /^(person-name|date-of-birth|email|phone|postal-address|postcode|gender|nationality|marital-status|passport|driving-licence|age|national-id-.*|user-name|language|country)$/;
/** A claim this weak is worth nothing by itself, but may be raised by what stands beside it. */
const WEAK = 0.3;
const FEWEST = 2;
/** In log-odds: for two classes of persons beside it, and for more. */
const BESIDE = [1.2, 1.8] as const;
/** In log-odds: what a combination that an organisation named is worth. */
const COMBINED = 2;

type Lists = readonly (readonly Finding[])[];

const fewOf = (labels: Iterable<string>) => [...new Set(labels)].slice(0, 4).join(', ');

/** Raises claims of persons by what is certain of persons in the columns beside them. */
function raisePersons(lists: Lists, detectors: readonly Detector[]): Finding[][] {
  const sure = lists.map((findings) =>
    findings.filter((finding) => finding.state === 'certain' && OF_PERSONS.test(finding.classKey)),
  );
  const needing = new Set(detectors.filter((detector) => detector.needsName).map((detector) => detector.id));
  // What only a name can tell is not told by what stands beside it: any number beside a person would be an age.
  const mayRise = (finding: Finding) => finding.confidence >= WORTH_SETTLING || !needing.has(finding.detector);
  return lists.map((findings, at) => {
    const beside = new Map<string, string>();
    for (const [index, others] of sure.entries())
      if (index !== at) for (const other of others) beside.set(`${index}:${other.classKey}`, other.label);
    return findings.map((finding) =>
      finding.state !== 'certain' &&
      OF_PERSONS.test(finding.classKey) &&
      finding.name.verdict !== 'disagrees' &&
      beside.size >= FEWEST &&
      mayRise(finding)
        ? raise(finding, `beside it stand: ${fewOf(beside.values())}`, beside.size > FEWEST ? BESIDE[1] : BESIDE[0])
        : finding,
    );
  });
}

const PLACE = 'coordinates';
/** A column called `long` holds longitudes where latitudes stand beside it; alone it says how long something is. */
function pairDegrees(columns: readonly ColumnSample[], lists: Lists): Finding[][] {
  return lists.map((findings, at) =>
    findings.map((finding) => {
      const alone =
        finding.classKey === PLACE &&
        nameWords(columns[at]?.name ?? '').join(' ') === 'long' &&
        !lists.some((others, index) => index !== at && others.some((other) => other.classKey === PLACE));
      return alone
        ? {
            ...against(finding, 'no latitude stands beside it: it may say how long something is'),
            state: 'to-settle' as const,
          }
        : finding;
    }),
  );
}

/** Raises the claims of a combination where enough of its classes stand in other columns; what it claims by a name alone goes where they do not. */
function combine(lists: Lists, detector: Detector, least: number, classKeys: readonly string[]): Finding[][] {
  const group = new Set([detector.classKey, ...classKeys]);
  const own = (finding: Finding) => finding.detector === detector.id;
  return lists.map((findings, at) => {
    const beside = (finding: Finding) => {
      const labels = new Map<string, string>();
      for (const [index, others] of lists.entries())
        if (index !== at)
          for (const other of others)
            if (group.has(other.classKey) && other.classKey !== finding.classKey && !own(other))
              labels.set(other.classKey, other.label);
      return labels;
    };
    return findings.flatMap((finding) => {
      if (!group.has(finding.classKey)) return [finding];
      const labels = beside(finding);
      if (labels.size < least) return own(finding) ? [] : [finding];
      return [raise(finding, `beside it stand: ${fewOf(labels.values())} (${detector.id})`, COMBINED)];
    });
  });
}

/**
 * Recognises the columns of one table together: a weak claim of a class of persons is raised by others beside it (a given name beside a family name beside a date
 * of birth), and claims of a combination raise each other. What is certain stays as it is.
 *
 * @returns findings of each column, in their order, the most confident first
 */
export function recogniseTable(
  columns: readonly ColumnSample[],
  setting: Setting,
  detectors: readonly Detector[] = DETECTORS,
): Finding[][] {
  const alone = columns.map((column) => recogniseAs(column, setting, detectors, WEAK));
  let lists: Finding[][] = pairDegrees(columns, raisePersons(alone, detectors));
  for (const detector of detectors)
    if (detector.beside) lists = combine(lists, detector, detector.beside.least, detector.beside.classKeys);
  return lists.map((findings) =>
    findings.filter((finding) => finding.confidence >= WORTH_SETTLING).sort((a, b) => b.confidence - a.confidence),
  );
}
