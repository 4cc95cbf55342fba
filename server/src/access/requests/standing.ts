import type { RequestAnswer } from '@idrel/contract/access';
import type { AssetKind } from '@idrel/contract/things';
import { FROM, PATH } from '../../catalog/index.ts';
import { isSeen, type Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';

/** For whom somebody answers: themselves, and those who are away and named them. */
export interface Standing {
  readonly personId: string;
  /** Their id, and those of the groups that they are in. */
  readonly parties: readonly string[];
}

/** Those for whom somebody answers now, themselves first. */
export async function standingFor(db: Db, who: Who): Promise<Standing[]> {
  return db.rows<Standing>(
    `
      select
        p.id as "personId",
        array(select p.id union all select m.group_id from group_member m where m.person_id = p.id) as parties
      from person p
      where p.left_at is null
        and (p.id = $1 or p.id in (select d.person_id from deputy d where d.deputy_id = $1 and now() between d.from_at and d.until_at))
      order by p.id <> $1, p.name`,
    [who.id],
  );
}

/**
 * SQL of whether somebody could answer for some of what is asked, by owning it, by standing in, or by their role: $1 is who, $2 the domains that they may read, $3 their
 * parties and those of whom they stand in for, $4 the domains of which they administer policies.
 * @param person SQL of whom it is about: nobody answers for themselves
 * @param among SQL of which assets `a` it is
 */
export const couldAnswer = (person: string, among: string): string => `${person} is distinct from $1 and exists (
  select from asset a
  where ${among} and ${isSeen('a', '$2')}
    and (a.domain_id = any($4::uuid[]) or answers_for(a.id) = any($3::uuid[])))`;

/** What is bound for {@link couldAnswer}. */
export async function standingBind(db: Db, who: Who): Promise<unknown[]> {
  const standing = await standingFor(db, who);
  return [
    who.id,
    who.domainsAs('reader'),
    [...new Set(standing.flatMap(({ parties }) => parties))],
    who.domainsAs('policy administrator'),
  ];
}

/** SQL of assets as they are told, with what decides who may answer for them, as far as they may be seen ($2). @param among SQL of which assets `a` they are */
export const assetsSql = (among: string): string => `coalesce(
  (
    select json_agg(
      json_build_object(
        'id', a.id, 'kind', a.kind, 'path', ${PATH}, 'source', s.name, 'domainId', a.domain_id, 'party', answers_for(a.id),
        'within', owners_within(a.id), 'domains', domains_within(a.id)
      )
      order by ${PATH}
    )
    from ${FROM}
    where ${among} and ${isSeen('a', '$2')}
  ),
  '[]'
)`;

/** An asset as {@link assetsSql} tells it. */
export interface ToldAsset {
  readonly id: string;
  readonly kind: AssetKind;
  readonly path: string;
  readonly source: string;
  readonly domainId: string;
  /** Of itself and of what lies in it. */
  readonly domains: readonly string[];
  readonly party: string | null;
  readonly within: readonly string[];
}

/** Parties by their ids, with who stands in for them now. */
export async function answerersOf(
  db: Db,
  ids: readonly string[],
): Promise<ReadonlyMap<string, RequestAnswer['answerers'][number]>> {
  const rows = await db.rows<RequestAnswer['answerers'][number]>(
    `
      select p.id, p.name, p.is_group as "group", s.name as deputy
      from party p
      left join deputy d on d.person_id = p.id and now() between d.from_at and d.until_at
      left join person s on s.id = d.deputy_id and s.left_at is null
      where p.id = any($1::uuid[])
      order by p.name`,
    [[...new Set(ids)]],
  );
  return new Map(rows.map((party) => [party.id, party]));
}

/** What decides who may answer a request: who asked, and what they asked for. */
export interface Asked {
  readonly personId: string;
  /** Of all that it names, as far as it may be seen. */
  readonly assets: readonly {
    readonly id: string;
    /** The domains of itself and of what lies in it. */
    readonly domains: readonly string[];
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
  const administers = (domains: readonly string[]) => domains.every((domain) => who.is('policy administrator', domain));
  if (assets.every(({ domains }) => administers(domains))) return { may: true, whyNot: null, instead: null };
  const others = standing.filter((one) => one.personId !== personId);
  const owning = (parties: readonly string[]) =>
    assets.every(
      ({ domains, party, within }) =>
        administers(domains) ||
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
