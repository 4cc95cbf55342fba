import { glossaryEndpoints, type TermAnswer } from '@idrel/contract/glossary';
import type { BodyOf } from '@idrel/contract/http';
import type { Router } from 'express';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import type { Db } from '../platform/database.ts';
import { conflict, invalid, mustBeCurrent, notFound } from '../platform/problems.ts';

const SELECT = `select t.id, t.name, t.other_names as "otherNames", t.definition, t.broader_id as "broaderId", t.status, t.owner_id as "ownerId", p.name as owner, t.version,
  (select count(*)::int from asset_term at join asset a on a.id = at.asset_id where at.term_id = t.id and a.domain_id = any($1::uuid[])) as assets from term t left join person p on p.id = t.owner_id`;

async function getTerm(db: Db, who: Who, id: string): Promise<TermAnswer> {
  const term = await db.one<TermAnswer>(`${SELECT} where t.id = $2`, [who.domainsAs('reader'), id]);
  if (!term) throw notFound('The term');
  return term;
}

const spoken = (term: TermAnswer) => ({
  name: term.name,
  otherNames: term.otherNames,
  definition: term.definition,
  broaderId: term.broaderId,
  status: term.status,
  owner: term.owner,
});
const taken =
  (name: unknown) =>
  (error: unknown): never => {
    if ((error as { name?: string }).name === 'SequelizeUniqueConstraintError')
      throw conflict(
        'name-taken',
        `There already is a term “${String(name)}”.`,
        'Use that one, or choose another name.',
      );
    throw error;
  };

async function changeTerm(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: BodyOf<typeof glossaryEndpoints.change>,
): Promise<TermAnswer> {
  who.mustAnywhere('editor');
  await tx.rows('select 1 from term where id = $1 for update', [id]);
  const before = await getTerm(tx, who, id);
  mustBeCurrent(version, before);
  if (body.broaderId) {
    const circle = await tx.one(
      'with recursive up as (select id, broader_id from term where id = $1 union select t.id, t.broader_id from term t join up on up.broader_id = t.id) select 1 as yes from up where id = $2',
      [body.broaderId, id],
    );
    if (circle)
      throw invalid(
        'The broader term lies below this one already: that would be a circle.',
        'Choose another broader term.',
        [{ field: 'broaderId', message: 'makes a circle' }],
      );
  }
  const next = {
    name: before.name,
    otherNames: before.otherNames,
    definition: before.definition,
    broaderId: before.broaderId,
    status: before.status,
    ownerId: before.ownerId,
    ...body,
  };
  await tx
    .run(
      'update term set name = $2, other_names = $3, definition = $4, broader_id = $5, status = $6, owner_id = $7, version = version + 1 where id = $1',
      [id, next.name, next.otherNames, next.definition, next.broaderId, next.status, next.ownerId],
    )
    .catch(taken(next.name));
  const after = await getTerm(tx, who, id);
  await record(
    tx,
    who.id,
    'edited',
    { kind: 'term', id, name: after.name, domainId: null },
    spoken(before),
    spoken(after),
  );
  return after;
}

export function glossaryRoutes(router: Router, { db }: Context): void {
  serve(router, glossaryEndpoints.list, ({ who }) =>
    db.rows(`${SELECT} order by lower(t.name)`, [who.domainsAs('reader')]),
  );
  serve(router, glossaryEndpoints.create, ({ who, body }) => {
    who.mustAnywhere('editor');
    return db.transaction(async (tx) => {
      const [row] = await tx
        .rows<{ id: string }>(
          'insert into term (name, other_names, definition, broader_id, status, owner_id) values ($1, $2, $3, $4, $5, $6) returning id',
          [
            body.name,
            body.otherNames ?? [],
            body.definition ?? '',
            body.broaderId ?? null,
            body.status ?? 'draft',
            body.ownerId ?? null,
          ],
        )
        .catch(taken(body.name));
      const term = await getTerm(tx, who, row?.id ?? '');
      await record(
        tx,
        who.id,
        'created',
        { kind: 'term', id: term.id, name: term.name, domainId: null },
        null,
        spoken(term),
      );
      return term;
    });
  });
  serve(router, glossaryEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeTerm(tx, who, params.id, version, body)),
  );
}
