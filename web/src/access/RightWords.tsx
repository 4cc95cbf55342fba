import type { BypassAnswer } from '@idrel/contract/access';
import { standingInWords } from '@idrel/core/access/rights';

type Right = Pick<BypassAnswer, 'how' | 'holder' | 'through'>;

/** A right at a source in words; names of roles stand as they are. */
export const RightWords = ({ right }: { right: Right & Pick<BypassAnswer, 'schema'> }) => (
  <>
    {right.holder === '' ? 'Everybody' : <span className="mono">{right.holder}</span>}, {standingInWords(right)}
  </>
);
