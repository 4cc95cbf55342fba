import {
  apiKeyEndpoints,
  clientKeyEndpoints,
  directoryEndpoints,
  domainEndpoints,
  manageEndpoints,
  openSessionEndpoints,
  type PersonBrief,
  partnerEndpoints,
  peopleEndpoints,
  type SessionAnswer,
} from '@idrel/contract/people';
import type { Response, Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { ApiProblem, notFound } from '../platform/problems.ts';
import { endApiKey, listApiKeys, makeApiKey, rotateApiKey } from './apiKeys.ts';
import { endClientKey, listClientKeys, makeClientKey } from './clientKeys.ts';
import { exportDirectory, importDirectory } from './directory.ts';
import { addDomain, changeDomain, listDomains, removeDomain } from './domains.ts';
import type { Held } from './holdings.ts';
import {
  addGroup,
  addPerson,
  attributesOfPeople,
  changeGroup,
  changePerson,
  comeBack,
  GROUPS_SQL,
  getPerson,
  holdingsOf,
  leave,
  removeGroup,
} from './manage.ts';
import { addPartner, addPartnerPerson, endPartnerPerson, listPartners } from './partners.ts';
import { personByPassword } from './passwords.ts';
import { domainMoveEffect, domainRights, moveEffect, personRights } from './rights.ts';
import {
  closeSession,
  endSessions,
  knownBrowser,
  listSessions,
  lookAs,
  openSession,
  rememberBrowser,
} from './sessions.ts';
import { mustTakePasswords, signInRoutes, waysOf } from './signInRoutes.ts';
import type { Who } from './who.ts';

/** The digest of the session that a request came in. */
const sessionIn = (response: Response): string => String(response.locals.session ?? '');

/** @param held what people can hold in each area */
export function peopleRoutes(router: Router, context: Context, held: readonly Held[]): void {
  const { db, config } = context;
  const demoPeople = () =>
    config.demo
      ? db.rows<PersonBrief>(
          'select id, name, job from person where demo and left_at is null order by created_at, name',
        )
      : Promise.resolve([]);
  const lookingAs = async (session: string): Promise<PersonBrief | null> =>
    (await db.one<PersonBrief>(
      'select p.id, p.name, p.job from session s join person p on p.id = s.as_person where s.token_hash = $1 and p.left_at is null',
      [Buffer.from(session, 'hex')],
    )) ?? null;
  const answer = async (who: Who | undefined, csrf: string | undefined, session = ''): Promise<SessionAnswer> => ({
    lookingAs: who && session ? await lookingAs(session) : null,
    person: who ? { id: who.id, name: who.name, job: who.job } : null,
    partner: who?.partner ?? null,
    csrf: csrf ?? null,
    grants: who?.grants ?? [],
    demo: config.demo,
    demoPeople: await demoPeople(),
    ways: waysOf(config),
  });

  serve(router, peopleEndpoints.session, ({ who, response }) =>
    answer(who, response.locals.csrf as string | undefined, sessionIn(response)),
  );

  serve(router, peopleEndpoints.lookAs, async ({ who, body, response }) => {
    await lookAs(db, who, sessionIn(response), body.personId);
    return answer(who, response.locals.csrf as string | undefined, sessionIn(response));
  });

  serve(router, peopleEndpoints.signIn, async ({ body, request, response }) => {
    if (body.demoPersonId) {
      const demo =
        config.demo &&
        (await db.one<{ id: string }>('select id from person where demo and left_at is null and id = $1', [
          body.demoPersonId,
        ]));
      if (!demo)
        throw new ApiProblem('wrong-sign-in', 'Signing in without a password is for the people of the demo only.');
      const session = await openSession(db, config, response, demo.id, request.get('user-agent'));
      return answer(session.who, session.csrf);
    }
    mustTakePasswords(config);
    const { email = '', password = '' } = body;
    const browser = await knownBrowser(db, request, email);
    const { id } = await personByPassword(db, email, password, browser);
    const session = await openSession(db, config, response, id, request.get('user-agent'));
    if (!browser) await rememberBrowser(db, config, response, id);
    return answer(session.who, session.csrf);
  });

  serve(router, peopleEndpoints.signOut, async ({ request, response }) => {
    await closeSession(db, request, response);
  });

  signInRoutes(router, context);
  serve(router, directoryEndpoints.exported, ({ who, query }) => exportDirectory(db, who, query.format));
  serve(router, directoryEndpoints.imported, ({ who, query, body }) =>
    importDirectory(db, config, who, body, query.preview),
  );

  serve(router, openSessionEndpoints.list, ({ who, response }) => listSessions(db, who, sessionIn(response)));
  serve(router, openSessionEndpoints.end, async ({ who, params }) => {
    if ((await db.transaction((tx) => endSessions(tx, who.id, params.id))) === 0) throw notFound('The session');
  });
  serve(router, openSessionEndpoints.endOthers, async ({ who, response }) => ({
    ended: await db.transaction((tx) => endSessions(tx, who.id, null, sessionIn(response))),
  }));

  serve(router, apiKeyEndpoints.list, ({ who, query }) => listApiKeys(db, who, query.all));
  serve(router, apiKeyEndpoints.make, ({ who, body }) => db.transaction((tx) => makeApiKey(tx, who, body)));
  serve(router, apiKeyEndpoints.rotate, ({ who, params, body }) =>
    db.transaction((tx) => rotateApiKey(tx, who, params.id, body.hours)),
  );
  serve(router, apiKeyEndpoints.end, ({ who, params }) => db.transaction((tx) => endApiKey(tx, who, params.id)));
  serve(router, clientKeyEndpoints.list, async ({ who }) => ({
    items: await listClientKeys(db, who),
    user: (await db.one<{ email: string }>('select email from person where id = $1', [who.id]))?.email ?? '',
    port: config.clients?.port ?? null,
    encrypted: config.clients?.tls ? 'require' : null,
  }));
  serve(router, clientKeyEndpoints.make, ({ who, body }) => db.transaction((tx) => makeClientKey(tx, who, body)));
  serve(router, clientKeyEndpoints.end, ({ who, params }) => db.transaction((tx) => endClientKey(tx, who, params.id)));

  serve(router, peopleEndpoints.people, () =>
    db.rows('select id, name, job from person where left_at is null and partner_id is null order by name'),
  );
  serve(router, peopleEndpoints.groups, () => db.rows(`${GROUPS_SQL} group by g.id order by g.name`));
  serve(router, manageEndpoints.all, () =>
    db.rows(
      'select id, name, job, left_at as "leftAt" from person where partner_id is null order by left_at is not null, name',
    ),
  );
  serve(router, manageEndpoints.person, ({ who, params }) => getPerson(db, who, params.id));
  serve(router, manageEndpoints.attributes, ({ who }) => attributesOfPeople(db, who));
  serve(router, manageEndpoints.addPerson, ({ who, body }) => db.transaction((tx) => addPerson(tx, who, body)));
  serve(router, manageEndpoints.changePerson, ({ who, params, body, version }) =>
    db.transaction((tx) => changePerson(tx, who, params.id, version, body)),
  );
  serve(router, manageEndpoints.holds, ({ who, params }) => holdingsOf(db, who, held, params.id));
  serve(router, manageEndpoints.leave, ({ who, params, body }) =>
    db.transaction((tx) => leave(tx, who, held, params.id, body)),
  );
  serve(router, manageEndpoints.comeBack, ({ who, params }) => db.transaction((tx) => comeBack(tx, who, params.id)));
  serve(router, manageEndpoints.addGroup, ({ who, body }) => db.transaction((tx) => addGroup(tx, who, body)));
  serve(router, manageEndpoints.changeGroup, ({ who, params, body, version }) =>
    db.transaction((tx) => changeGroup(tx, who, params.id, version, body)),
  );
  serve(router, partnerEndpoints.list, () => listPartners(db));
  serve(router, partnerEndpoints.add, ({ who, body }) => db.transaction((tx) => addPartner(tx, config, who, body)));
  serve(router, partnerEndpoints.addPerson, ({ who, body }) =>
    db.transaction((tx) => addPartnerPerson(tx, config, who, body)),
  );
  serve(router, partnerEndpoints.endPerson, ({ who, params }) =>
    db.transaction((tx) => endPartnerPerson(tx, who, params.id)),
  );
  serve(router, manageEndpoints.removeGroup, ({ who, params }) =>
    db.transaction((tx) => removeGroup(tx, who, params.id)),
  );
  serve(router, domainEndpoints.all, () => listDomains(db));
  serve(router, domainEndpoints.add, ({ who, body }) => db.transaction((tx) => addDomain(tx, who, body)));
  serve(router, domainEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeDomain(tx, who, params.id, version, body)),
  );
  serve(router, domainEndpoints.remove, ({ who, params }) => db.transaction((tx) => removeDomain(tx, who, params.id)));
  serve(router, domainEndpoints.moveEffect, ({ who, params, query }) =>
    domainMoveEffect(db, who, params.id, query.to ?? null),
  );
  serve(router, domainEndpoints.arrival, ({ who, params, query }) => {
    for (const domain of [query.from, params.id]) who.must('source administrator', domain);
    return moveEffect(db, query.from, params.id);
  });
  serve(router, domainEndpoints.rights, ({ params }) => domainRights(db, params.id));
  serve(router, domainEndpoints.personRights, ({ who, params }) => personRights(db, who, params.id));
}
