import type { glossaryEndpoints, TermAnswer } from '@idrel/contract/glossary';
import type { BodyOf } from '@idrel/contract/http';
import { change, create, type Kept } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { TERM, type TermRow } from './models.ts';

const SELECT = `
  select t.id, t.name, t.other_names as "otherNames", t.definition, t.broader_id as "broaderId", t.status,
         t.owner_id as "ownerId", p.name as owner, t.version,
         (select count(*)::int
          from asset_term at
          join asset a on a.id = at.asset_id
          where at.term_id = t.id and a.domain_id = any($1::uuid[])) as assets
  from term t
  left join person p on p.id = t.owner_id`;

export const listTerms = (db: Db, who: Who): Promise<TermAnswer[]> =>
  db.rows<TermAnswer>(`${SELECT} order by lower(t.name)`, [who.domainsAs('reader')]);

const TERMS: Kept<TermRow, TermAnswer> = {
  thing: 'term',
  model: TERM,
  async read(db, who, id) {
    const term = await db.one<TermAnswer>(`${SELECT} where t.id = $2`, [who.domainsAs('reader'), id]);
    if (!term) throw notFound('The term');
    return term;
  },
  told: (_db, { name, otherNames, definition, broaderId, status, owner }) => ({
    name,
    otherNames,
    definition,
    broaderId,
    status,
    owner,
  }),
};

/** @throws 422 when the broader term lies below the term */
async function checkBroader(tx: Db, id: string, broaderId: string): Promise<void> {
  const circle = await tx.one(
    `with recursive up as (
       select id, broader_id from term where id = $1
       union
       select t.id, t.broader_id from term t join up on up.broader_id = t.id
     )
     select 1 as yes from up where id = $2`,
    [broaderId, id],
  );
  if (circle)
    throw invalid(
      'The broader term lies below this one already: that would be a circle.',
      'Choose another broader term.',
      [{ field: 'broaderId', message: 'makes a circle' }],
    );
}

export const addTerm = (tx: Db, who: Who, body: BodyOf<typeof glossaryEndpoints.create>): Promise<TermAnswer> =>
  create(tx, who, TERMS, body);

export async function changeTerm(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: BodyOf<typeof glossaryEndpoints.change>,
): Promise<TermAnswer> {
  // A circle could come about by two changes at once: they are made in turn.
  if (body.broaderId) await tx.run("select pg_advisory_xact_lock(hashtext('term.broader'))");
  const { after } = await change(tx, who, TERMS, id, {
    version,
    values: async () => {
      if (body.broaderId) await checkBroader(tx, id, body.broaderId);
      return body;
    },
  });
  return after;
}
