import type { Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';

/** For whom somebody answers: themselves, and those who are away and named them. */
interface Standing {
  readonly personId: string;
  readonly name: string;
  /** Their id, and those of the groups that they are in. */
  readonly parties: readonly string[];
}

/** Those for whom somebody answers now, themselves first. */
export async function standingFor(db: Db, who: Who): Promise<Standing[]> {
  return db.rows<Standing>(
    `
      select
        p.id as "personId", p.name,
        array(select p.id union all select m.group_id from group_member m where m.person_id = p.id) as parties
      from person p
      where p.left_at is null
        and (p.id = $1 or p.id in (select d.person_id from deputy d where d.deputy_id = $1 and now() between d.from_at and d.until_at))
      order by p.id <> $1, p.name`,
    [who.id],
  );
}

/** What decides who may answer a request: who asked, and what they asked for. */
export interface Asked {
  readonly personId: string;
  /** Of all that it names, as far as it may be seen. */
  readonly assets: readonly {
    readonly id: string;
    readonly domainId: string;
    /** The party that answers for it; null where nobody does. */
    readonly party: string | null;
    /** Parties that own something in it. */
    readonly within: readonly string[];
  }[];
  readonly hidden: number;
}

/** By what right somebody answers a request. */
export interface MayAnswer {
  readonly may: boolean;
  readonly whyNot: string | null;
  /** The one for whom they answer, who is away; null where they answer themselves. */
  readonly instead: string | null;
}
const not = (whyNot: string): MayAnswer => ({ may: false, whyNot, instead: null });

/**
 * Whether somebody may answer a request: they own all that it names with everything in it, stand in for who does, or administer the policies there. Nobody answers what
 * they asked for themselves, nor for somebody who asked.
 */
export function mayAnswer(who: Who, standing: readonly Standing[], { personId, assets, hidden }: Asked): MayAnswer {
  if (personId === who.id) return not('Nobody answers what they asked for themselves.');
  if (assets.length === 0) return not('What it asked for is not in the catalog any more, or is not yours to see.');
  if (hidden > 0) return not('It names more than you may see.');
  if (assets.every(({ domainId }) => who.is('policy administrator', domainId)))
    return { may: true, whyNot: null, instead: null };
  const others = standing.filter((one) => one.personId !== personId);
  const owning = (parties: readonly string[]) =>
    assets.every(
      ({ domainId, party, within }) =>
        who.is('policy administrator', domainId) ||
        (party !== null && parties.includes(party) && within.every((one) => parties.includes(one))),
    );
  const mine = others.find(({ personId: id }) => id === who.id);
  if (mine && owning(mine.parties)) return { may: true, whyNot: null, instead: null };
  const away = others.find(({ personId: id, parties }) => id !== who.id && owning(parties));
  if (away) return { may: true, whyNot: null, instead: away.personId };
  const all = new Set(others.flatMap(({ parties }) => parties));
  const top = assets.every(({ party }) => party !== null && all.has(party));
  return not(
    top
      ? 'Some of what lies in it is owned by somebody else: a policy administrator answers it.'
      : 'You do not answer for all that it names.',
  );
}
