import type { BypassAnswer } from '@idrel/contract/access';
import { standingInWords } from '@idrel/core/access/rights';

/** A right at a source in words; names of roles stand as they are. */
export const RightWords = ({ right }: { right: Pick<BypassAnswer, 'how' | 'holder' | 'through' | 'schema'> }) => (
  <>
    {right.holder === '' ? 'Everybody' : <span className="mono">{right.holder}</span>}, {standingInWords(right)}
  </>
);
