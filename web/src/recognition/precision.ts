import type { DetectorAnswer } from '@idrel/contract/recognition';

/** How often people agreed, of what they decided; nothing while they decided nothing. */
export const precisionOf = ({
  confirmed,
  dismissed,
}: Pick<DetectorAnswer, 'confirmed' | 'dismissed'>): number | null =>
  confirmed + dismissed === 0 ? null : confirmed / (confirmed + dismissed);
