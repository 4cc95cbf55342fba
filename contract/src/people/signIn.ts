import { endpoint, idParam, Joi, type Of, optional, shape, text, whole } from '../http/index.ts';

/** The least and the most that a password may be long, in characters. */
export const PASSWORD_LENGTH = { least: 12, most: 200 } as const;

const secret = Joi.string().max(200);
const administrator = { words: 'administrator everywhere' } as const;

/** Whom a link to set a password is for. */
export const LinkAnswer = shape({ name: text, email: text, minutes: whole.description('How long it holds yet.') });
export type LinkAnswer = Of<typeof LinkAnswer>;

export const signInEndpoints = {
  askLink: endpoint({
    id: 'askPasswordLink',
    method: 'post',
    path: '/password-links',
    area: 'people',
    summary: 'Have a link sent with which one sets a new password',
    may: 'anybody',
    body: shape({ email: Joi.string().email({ tlds: false }).max(200) }),
    problems: ['too-many-tries', 'no-mail'],
    answers: 'Nothing, whether there is somebody of that address or not.',
  }),
  readLink: endpoint({
    id: 'readPasswordLink',
    method: 'post',
    path: '/password-links/read',
    area: 'people',
    summary: 'Whom a link is for, and how long it holds',
    may: 'anybody',
    body: shape({ token: secret }),
    problems: ['link-ended', 'too-many-tries'],
    answer: LinkAnswer,
    answers: 'Whom it is for. The link stays as it is.',
  }),
  useLink: endpoint({
    id: 'usePasswordLink',
    method: 'post',
    path: '/password-links/use',
    area: 'people',
    summary: 'Set a password by a link',
    may: 'anybody',
    body: shape({ token: secret, password: secret }),
    problems: ['link-ended', 'too-many-tries'],
    answer: LinkAnswer,
    answers: 'Whose password it is. All sessions of theirs are ended, and all links; they sign in with it.',
  }),
  changePassword: endpoint({
    id: 'changePassword',
    inSession: true,
    method: 'put',
    path: '/password',
    area: 'people',
    summary: 'Change your own password',
    may: 'signed in',
    partners: true,
    body: shape({ now: secret, password: secret }),
    problems: ['wrong-sign-in', 'too-many-tries'],
    answer: shape({ ended: whole }),
    answers: 'How many other sessions of yours were ended.',
  }),
  invite: endpoint({
    id: 'invite',
    method: 'post',
    path: '/people/:id/password-link',
    area: 'people',
    summary: 'Send a person a link with which they set a password',
    may: administrator,
    params: idParam,
    problems: ['no-mail', 'too-many-tries'],
    answers: 'Nothing. The link holds for three days.',
  }),
  outside: endpoint({
    id: 'signInOutside',
    method: 'get',
    path: '/sign-in/outside',
    area: 'people',
    summary: 'Go to the identity provider of the organisation to sign in (OpenID Connect)',
    may: 'anybody',
    query: shape({ to: optional(Joi.string().max(2000).description('The path to come back to.')) }),
    stream: 'redirect',
    answers: 'A redirect to the provider; back to the page of signing in where none is set up or it does not answer.',
  }),
  outsideBack: endpoint({
    id: 'signedInOutside',
    method: 'get',
    path: '/sign-in/outside/back',
    area: 'people',
    summary: 'Where the identity provider sends people back to',
    may: 'anybody',
    query: shape({
      code: optional(Joi.string().max(4000)),
      state: optional(Joi.string().max(1000)),
      error: optional(Joi.string().max(200)),
    }).unknown(true),
    stream: 'redirect',
    answers:
      'A redirect: to where they wanted to go, with a session; or to the page of signing in, which says what went wrong.',
  }),
};
