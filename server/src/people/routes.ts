import { type PersonBrief, peopleEndpoints, type SessionAnswer } from '@idrel/contract/people';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { ApiProblem } from '../platform/problems.ts';
import { DOMAIN_FIELDS, showOutside } from './domains.ts';
import { closeSession, openSession, personByPassword } from './sessions.ts';
import type { Who } from './who.ts';

export function peopleRoutes(router: Router, { db, config }: Context): void {
  const demoPeople = () =>
    config.demo
      ? db.rows<PersonBrief>('select id, name, job from person where demo order by created_at, name')
      : Promise.resolve([]);
  const answer = async (who: Who | undefined, csrf: string | undefined): Promise<SessionAnswer> => ({
    person: who ? { id: who.id, name: who.name, job: who.job } : null,
    csrf: csrf ?? null,
    grants: who?.grants ?? [],
    demo: config.demo,
    demoPeople: await demoPeople(),
  });

  serve(router, peopleEndpoints.session, ({ who, response }) =>
    answer(who, response.locals.csrf as string | undefined),
  );

  serve(router, peopleEndpoints.signIn, async ({ body, response }) => {
    let personId: string;
    if (body.demoPersonId) {
      const demo =
        config.demo &&
        (await db.one<{ id: string }>('select id from person where demo and id = $1', [body.demoPersonId]));
      if (!demo)
        throw new ApiProblem('wrong-sign-in', 'Signing in without a password is for the people of the demo only.');
      personId = demo.id;
    } else personId = await personByPassword(db, body.email ?? '', body.password ?? '');
    const session = await openSession(db, config, response, personId);
    return answer(session.who, session.csrf);
  });

  serve(router, peopleEndpoints.signOut, async ({ request, response }) => {
    await closeSession(db, request, response);
  });

  serve(router, peopleEndpoints.people, () => db.rows('select id, name, job from person order by name'));
  serve(router, peopleEndpoints.groups, () =>
    db.rows(
      `
        select g.id, g.name, coalesce(array_agg(m.person_id) filter (where m.person_id is not null), '{}') as members
        from person_group g
        left join group_member m on m.group_id = g.id
        group by g.id
        order by g.name`,
    ),
  );
  serve(router, peopleEndpoints.domains, () => db.rows(`select ${DOMAIN_FIELDS} from domain order by name`));
  serve(router, peopleEndpoints.showOutside, ({ who, params, body }) =>
    db.transaction((tx) => showOutside(tx, who, params.id, body.shown)),
  );
}
