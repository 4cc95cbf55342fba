import { ApiProblem } from '../platform/problems.ts';

/** Statements that one person, and all together, may have under way at one server: so that nobody takes it from the others. */
const ONE = 4;
const ALL = 24;
const underWay = new Map<string, number>();

/**
 * Takes a turn for a statement of a person.
 * @returns gives the turn back
 * @throws 429 when too many are under way
 */
export function takeTurn(personId: string): () => void {
  const mine = underWay.get(personId) ?? 0;
  const all = [...underWay.values()].reduce((sum, count) => sum + count, 0);
  if (mine >= ONE)
    throw new ApiProblem('too-many-queries', `You have ${ONE} queries under way already.`, {
      mend: 'Wait until one of them has ended.',
    });
  if (all >= ALL)
    throw new ApiProblem('too-many-queries', 'The gateway is busy with queries of others.', {
      mend: 'Try again in a moment.',
    });
  underWay.set(personId, mine + 1);
  return () => {
    const now = (underWay.get(personId) ?? 1) - 1;
    if (now > 0) underWay.set(personId, now);
    else underWay.delete(personId);
  };
}
