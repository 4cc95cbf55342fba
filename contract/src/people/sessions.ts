import { endpoint, flag, idParam, list, moment, type Of, shape, text, whole } from '../http/index.ts';

export const OpenSession = shape({
  id: text,
  since: moment,
  seenAt: moment.description('When something was last asked in it, to five minutes.'),
  browser: text,
  here: flag.description('The one that asks.'),
});
export type OpenSession = Of<typeof OpenSession>;

export const openSessionEndpoints = {
  list: endpoint({
    id: 'sessions',
    inSession: true,
    method: 'get',
    path: '/sessions',
    area: 'people',
    summary: 'Where you are signed in',
    may: 'signed in',
    partners: true,
    answer: list(OpenSession),
    answers: 'Your sessions, the latest first.',
  }),
  end: endpoint({
    id: 'endSession',
    inSession: true,
    method: 'delete',
    path: '/sessions/:id',
    area: 'people',
    summary: 'End a session of yours',
    may: 'signed in',
    partners: true,
    params: idParam,
    answers: 'Nothing. Whoever goes on in it is asked to sign in.',
  }),
  endOthers: endpoint({
    id: 'endOtherSessions',
    inSession: true,
    method: 'delete',
    path: '/sessions',
    area: 'people',
    summary: 'End all sessions of yours but this one',
    may: 'signed in',
    partners: true,
    answer: shape({ ended: whole }),
    answers: 'How many were ended.',
  }),
};
