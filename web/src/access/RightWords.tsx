import type { BypassAnswer } from '@idrel/contract/access';
import { standingInWords } from '@idrel/core/access/rights';

type Right = Pick<BypassAnswer, 'how' | 'holder' | 'through'>;

/** A right at a source in words; names of roles stand as they are. */
export const RightWords = ({ right }: { right: Right & Pick<BypassAnswer, 'schema'> }) => (
  <>
    {right.holder === '' ? 'Everybody' : <span className="mono">{right.holder}</span>}, {standingInWords(right)}
  </>
);

/** By what right a login reads, as part of a sentence: `by a right of reporting, of which it is a member`. */
export function rightBySentence({ how, holder, through, login }: Right & { readonly login: string }): string {
  if (how === 'grant' && holder === '') return 'since everybody may';
  const member = login === holder ? null : `${holder}, of which it is a member`;
  if (how === 'grant') return `by a right of ${member ?? 'its own'}`;
  if (how === 'owner') return member ? `since the owner is ${member}` : 'as the owner';
  if (how === 'superuser') return member ? `since it can become the superuser ${holder}` : 'as a superuser';
  return member ? `by ${through}, through ${member}` : `by ${through}, of which it is a member`;
}
