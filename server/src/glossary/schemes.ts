import { randomUUID } from 'node:crypto';
import type { SchemeAnswer, SchemeBody } from '@idrel/contract/glossary';
import { change, create, type Kept, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, forbidden, notFound } from '../platform/problems.ts';
import { SCHEME, type SchemeRow } from './models.ts';

/** Whether a person may agree to terms of a scheme `s`: its owner, with nobody stewards, administrators always. $1 the person, $2 and $3 whether they are one. */
export const MAY_APPROVE = '($3::boolean or coalesce(s.owner_id = $1, $2::boolean))';
export const approver = (who: Who): readonly unknown[] => [
  who.id,
  who.isAnywhere('steward'),
  who.isEverywhere('administrator'),
];

const SELECT = `
  select
    s.id, s.uri, s.name, s.language, s.description, s.owner_id as "ownerId", p.name as owner, s.version,
    coalesce(c.terms, 0)::int as terms, coalesce(c.proposed, 0)::int as proposed, ${MAY_APPROVE} as "mayApprove"
  from scheme s
  left join person p on p.id = s.owner_id
  left join (
    select scheme_id, count(*) as terms, count(*) filter (where status = 'proposed') as proposed
    from term
    where removed_at is null
    group by 1
  ) c on c.scheme_id = s.id`;

export const listSchemes = (db: Db, who: Who): Promise<SchemeAnswer[]> =>
  db.rows<SchemeAnswer>(`${SELECT} order by s.created_at, s.id`, approver(who));

export const SCHEMES: Kept<SchemeRow, SchemeAnswer> = {
  thing: 'scheme',
  model: SCHEME,
  async read(db, who, id) {
    const scheme = await db.one<SchemeAnswer>(`${SELECT} where s.id = $4`, [...approver(who), id]);
    if (!scheme) throw notFound('The scheme');
    return scheme;
  },
  told: (_db, { name, language, description, owner }) => ({ name, language, description, owner }),
};

/** The scheme of terms that name none: the oldest. */
export async function firstScheme(db: Db, who: Who): Promise<SchemeAnswer> {
  const [first] = await listSchemes(db, who);
  if (!first) throw notFound('A scheme for terms');
  return first;
}

export const addScheme = (tx: Db, who: Who, body: SchemeBody): Promise<SchemeAnswer> =>
  create(tx, who, SCHEMES, { ...body, uri: `urn:uuid:${randomUUID()}` });

function mayChange(scheme: SchemeAnswer): void {
  if (!scheme.mayApprove) throw forbidden(`the owner of the scheme, ${scheme.owner ?? 'or a steward'}`);
}

export async function changeScheme(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: SchemeBody,
): Promise<SchemeAnswer> {
  const { after } = await change(tx, who, SCHEMES, id, {
    version,
    values: (before) => {
      mayChange(before);
      return body;
    },
  });
  return after;
}

/** @throws 409 while it has terms, also ones that are removed and could be brought back, or is the only one */
export async function removeScheme(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, SCHEMES, id, {
    unless: async (scheme) => {
      mayChange(scheme);
      if (scheme.terms > 0)
        throw conflict(
          'still-used',
          `“${scheme.name}” has ${scheme.terms} terms.`,
          'Move them to another scheme first.',
        );
      const others = await tx.one('select 1 as yes from scheme where id <> $1 limit 1', [id]);
      if (!others)
        throw conflict('still-used', 'It is the only scheme, and terms need one.', 'Make another one first.');
    },
    // Terms that were removed from it cannot be brought back without it.
    parts: () => tx.run('delete from term where scheme_id = $1 and removed_at is not null', [id]),
  });
}
