import type { StatementsAnswer } from '@idrel/contract/lineage';
import { count, plural } from '../marks/index.tsx';

/** How much of what a source runs is understood, in words. */
export const understood = ({ statements, lost }: Pick<StatementsAnswer, 'statements' | 'lost'>): string => {
  if (statements === 0) return 'no statements';
  // What is not whole is never told as whole.
  const share = lost === 0 ? 100 : Math.min(99, Math.floor((100 * (statements - lost)) / statements));
  return `${count(statements - lost)} of ${plural(statements, 'statement')} understood, ${share} %`;
};
