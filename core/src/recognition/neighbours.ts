import { raise, WORTH_SETTLING } from './confidence.ts';
import { DETECTORS } from './detectors/index.ts';
import { recognise } from './recognise.ts';
import type { ColumnSample, Detector, Finding, Setting } from './types.ts';

/** Classes that stand beside each other where a table is about persons. */
const OF_PERSONS = /^(person-name|date-of-birth|email|phone|postal-address|postcode|gender|nationality|marital-status|passport|driving-licence|age|national-id-.*|user-name|language|country)$/;
/** A claim this weak is worth nothing by itself, but may be raised by what stands beside it. */
const WEAK = 0.3;
const FEWEST = 2;
/** In log-odds: for two classes of persons beside it, and for more. */
const BESIDE = [1.2, 1.8] as const;

/**
 * Recognises the columns of one table together: a weak claim of a class of persons is raised by others beside it (a given name beside a family name beside a date
 * of birth). What is certain stays as it is.
 *
 * @returns findings of each column, in their order, the most confident first
 */
export function recogniseTable(columns: readonly ColumnSample[], setting: Setting, detectors: readonly Detector[] = DETECTORS): Finding[][] {
  const alone = columns.map((column) => recognise(column, setting, detectors, WEAK));
  const sure = alone.map((findings) => findings.filter((finding) => finding.state === 'certain' && OF_PERSONS.test(finding.classKey)));
  const needing = new Set(detectors.filter((detector) => detector.needsName).map((detector) => detector.id));
  // What only a name can tell is not told by what stands beside it: any number beside a person would be an age.
  const mayRise = (finding: Finding) => finding.confidence >= WORTH_SETTLING || !needing.has(finding.detector);
  return alone.map((findings, at) => {
    const beside = new Map<string, string>();
    for (const [index, others] of sure.entries()) if (index !== at) for (const other of others) beside.set(`${index}:${other.classKey}`, other.label);
    const raised = findings.map((finding) =>
      finding.state !== 'certain' && OF_PERSONS.test(finding.classKey) && beside.size >= FEWEST && mayRise(finding)
        ? raise(finding, `beside it stand: ${[...new Set(beside.values())].slice(0, 4).join(', ')}`, beside.size > FEWEST ? BESIDE[1] : BESIDE[0])
        : finding,
    );
    return raised.filter((finding) => finding.confidence >= WORTH_SETTLING).sort((a, b) => b.confidence - a.confidence);
  });
}
