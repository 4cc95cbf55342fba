import {
  either,
  endpoint,
  flag,
  free,
  id,
  idParam,
  Joi,
  list,
  moment,
  needed,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  record,
  role,
  SOURCE_PROBLEMS,
  shape,
  text,
  typed,
  withDefault,
} from '../http/index.ts';
import { MoveEffect } from '../people/domains.ts';
import { CREDENTIAL_KINDS, KINDS, KindAnswer, SOURCE_KINDS } from './kinds.ts';

export * from './kinds.ts';

export * from './push.ts';

export const CredentialAnswer = shape({
  id: text,
  name: text,
  kind: oneOf(CREDENTIAL_KINDS),
  username: text.description('The user, or the public half of a key pair.'),
  version: number,
  rotatedAt: moment,
  usedBy: list(shape({ id: text, name: text })).description('Sources that use it, of those one may see.'),
  usedElsewhere: number.description('How many more use it that one may not see.'),
});
export type CredentialAnswer = Of<typeof CredentialAnswer>;
export const SourceAnswer = shape({
  id: text,
  name: text,
  kind: oneOf(SOURCE_KINDS),
  kindLabel: text,
  address: record(either(text, number)),
  addressLine: text.description('Where it is, in one line.'),
  credentialKind: either(oneOf(CREDENTIAL_KINDS), oneOf(['none'])).description(
    'What its credential holds; none when it needs no credential.',
  ),
  separator: text.description('Between the names of its paths.'),
  isRead: flag.description('Whether it is scanned; otherwise programs tell what it holds.'),
  domainId: text,
  domain: text,
  credentialId: nullable(text),
  credential: nullable(text),
  agentGroup: nullable(text).description('The group of agents that reads it; null: Idrel itself.'),
  description: text,
  version: number,
  assets: number,
  lastRun: nullable(shape({ id: text, state: text, at: moment })),
  nextScan: nullable(moment).description('When a plan scans it next.'),
  mayScan: flag,
});
export type SourceAnswer = Of<typeof SourceAnswer>;
/** One step of a connection test. A failed step says why, and what mends it. */
export const TestStep = shape({
  step: text,
  state: oneOf(['passed', 'failed', 'not reached']),
  detail: text,
  mend: optional(text),
  milliseconds: number,
});
export type TestStep = Of<typeof TestStep>;

const secretFields = {
  username: withDefault(Joi.string().allow('').max(200), ''),
  password: Joi.string().allow('').max(8000),
};
const fields = {
  name: optional(Joi.string().trim().min(1).max(120)),
  description: optional(Joi.string().allow('').max(4000)),
  domainId: optional(id),
  credentialId: optional(nullable(id)),
  agentGroup: optional(nullable(Joi.string().trim().min(1).max(60))),
};
export const SourceBody = shape({
  ...fields,
  name: needed(fields.name),
  domainId: needed(fields.domainId),
  kind: oneOf(SOURCE_KINDS),
  // Which fields it has depends on the kind.
  address: typed<Readonly<Record<string, string | number>>>(
    Joi.when('kind', { switch: SOURCE_KINDS.map((kind) => ({ is: kind, then: KINDS[kind].address.required() })) }),
  ),
});
export type SourceBody = Of<typeof SourceBody>;
export const SourceChange = shape({ ...fields, address: optional(free()) }).min(1);
export type SourceChange = Of<typeof SourceChange>;

export const sourceEndpoints = {
  kinds: endpoint({
    id: 'sourceKinds',
    method: 'get',
    path: '/source-kinds',
    area: 'sources',
    summary: 'Kinds of source',
    may: 'signed in',
    answer: list(KindAnswer),
    answers: 'What each kind needs: fields of its address, and whether a credential.',
  }),
  list: endpoint({
    id: 'sources',
    method: 'get',
    path: '/sources',
    area: 'sources',
    summary: 'Registered sources',
    may: 'signed in',
    answer: list(SourceAnswer),
    answers: 'Sources in domains you may read, with asset counts and last run.',
  }),
  get: endpoint({
    id: 'source',
    method: 'get',
    path: '/sources/:id',
    area: 'sources',
    summary: 'One source',
    may: 'signed in',
    params: idParam,
    answer: SourceAnswer,
    answers: 'The source.',
  }),
  register: endpoint({
    id: 'registerSource',
    method: 'post',
    path: '/sources',
    area: 'sources',
    summary: 'Register a source',
    may: role('source administrator', 'its domain'),
    body: SourceBody,
    problems: ['name-taken', 'not-found'],
    answer: SourceAnswer,
    answers: 'The source. No credential is needed to register it.',
  }),
  change: endpoint({
    id: 'changeSource',
    method: 'patch',
    path: '/sources/:id',
    area: 'sources',
    summary: 'Change a source',
    may: role('source administrator', 'its domain'),
    params: idParam,
    body: SourceChange,
    versioned: true,
    problems: ['name-taken'],
    answer: SourceAnswer,
    answers: 'The source as it is now.',
  }),
  moveEffect: endpoint({
    id: 'sourceMoveEffect',
    method: 'get',
    path: '/sources/:id/move',
    area: 'sources',
    summary: 'What putting a source into another domain would change: whose rights, and what is dismissed',
    may: role('source administrator', 'its domain'),
    params: idParam,
    query: shape({ to: id }),
    answer: MoveEffect,
    answers: 'What would change for what the source holds.',
  }),
  remove: endpoint({
    id: 'removeSource',
    method: 'delete',
    path: '/sources/:id',
    area: 'sources',
    summary: 'Remove a source and its assets',
    may: role('source administrator', 'its domain'),
    params: idParam,
    query: shape({
      assets: Joi.number().integer().min(0).description('How many assets you expect to go with it: it must be right'),
    }),
    problems: ['count-differs', 'still-used'],
    answers: 'Nothing.',
  }),
  test: endpoint({
    id: 'testSource',
    method: 'post',
    path: '/sources/:id/test',
    area: 'sources',
    summary: 'Test the connection, step by step',
    may: role('source administrator', 'its domain'),
    params: idParam,
    problems: [...SOURCE_PROBLEMS],
    answer: list(TestStep),
    answers: 'Steps in order; the first failed one says why and what mends it.',
  }),
  credentials: endpoint({
    id: 'credentials',
    method: 'get',
    path: '/credentials',
    area: 'sources',
    summary: 'Named credentials, without their secrets',
    may: role('source administrator', 'any domain'),
    answer: list(CredentialAnswer),
    answers: 'Credentials and what uses them.',
  }),
  addCredential: endpoint({
    id: 'addCredential',
    method: 'post',
    path: '/credentials',
    area: 'sources',
    summary: 'Store a credential, encrypted',
    may: role('source administrator', 'any domain'),
    body: shape({
      name: Joi.string().trim().min(1).max(120),
      kind: withDefault(oneOf(CREDENTIAL_KINDS), 'user and password'),
      ...secretFields,
    }),
    problems: ['name-taken'],
    answer: CredentialAnswer,
    answers: 'The credential without its secret.',
  }),
  rotateCredential: endpoint({
    id: 'rotateCredential',
    method: 'put',
    path: '/credentials/:id/secret',
    area: 'sources',
    summary: 'Put a new secret in the place of the old one',
    may: role('source administrator', 'any domain', 'and in those of all sources that use it'),
    params: idParam,
    body: shape(secretFields),
    versioned: true,
    answer: CredentialAnswer,
    answers: 'The credential; its sources use the new secret from the next connection on.',
  }),
  removeCredential: endpoint({
    id: 'removeCredential',
    method: 'delete',
    path: '/credentials/:id',
    area: 'sources',
    summary: 'Remove a credential that nothing uses',
    may: role('source administrator', 'any domain'),
    params: idParam,
    problems: ['still-used'],
    answers: 'Nothing. Refused while a source uses it.',
  }),
};
