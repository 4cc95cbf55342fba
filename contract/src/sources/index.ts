import { endpoint, free, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';
import { CREDENTIAL_KINDS, type CredentialKind, KINDS, SOURCE_KINDS, type SourceKind } from './kinds.ts';

export {
  addressLine,
  CREDENTIAL_KINDS,
  type CredentialKind,
  describeKind,
  KINDS,
  type KindAnswer,
  type KindFacts,
  type KindField,
  SOURCE_KINDS,
  type SourceKind,
} from './kinds.ts';

export * from './push.ts';

export interface CredentialAnswer {
  readonly id: string;
  readonly name: string;
  readonly kind: CredentialKind;
  /** The user, or the public half of a key pair. */
  readonly username: string;
  readonly version: number;
  readonly rotatedAt: string;
  /** Sources that use it, of those one may see. */
  readonly usedBy: readonly { readonly id: string; readonly name: string }[];
  /** How many more use it that one may not see. */
  readonly usedElsewhere: number;
}
export interface SourceAnswer {
  readonly id: string;
  readonly name: string;
  readonly kind: SourceKind;
  readonly kindLabel: string;
  readonly address: Record<string, string | number>;
  /** Where it is, in one line. */
  readonly addressLine: string;
  /** What its credential holds; none when it needs no credential. */
  readonly credentialKind: CredentialKind | 'none';
  /** Between the names of its paths. */
  readonly separator: string;
  readonly domainId: string;
  readonly domain: string;
  readonly credentialId: string | null;
  readonly credential: string | null;
  /** The group of agents that reads it; null: Idrel itself. */
  readonly agentGroup: string | null;
  readonly description: string;
  readonly version: number;
  readonly assets: number;
  readonly lastRun: { readonly id: string; readonly state: string; readonly at: string } | null;
  /** When a plan scans it next. */
  readonly nextScan: string | null;
  readonly mayScan: boolean;
}
/** One step of a connection test. A failed step says why, and what mends it. */
export interface TestStep {
  readonly step: string;
  readonly state: 'passed' | 'failed' | 'not reached';
  readonly detail: string;
  readonly mend?: string;
  readonly milliseconds: number;
}

const secretFields = {
  username: Joi.string().allow('').max(200).default(''),
  password: Joi.string().allow('').max(8000).required(),
};
const fields = {
  name: Joi.string().trim().min(1).max(120),
  description: Joi.string().allow('').max(4000),
  domainId: id,
  credentialId: id.allow(null),
  agentGroup: Joi.string().trim().min(1).max(60).allow(null),
};
export const sourceBody = Joi.object({
  ...fields,
  name: fields.name.required(),
  domainId: fields.domainId.required(),
  kind: Joi.string()
    .valid(...SOURCE_KINDS)
    .required(),
  address: Joi.when('kind', {
    switch: SOURCE_KINDS.map((kind) => ({ is: kind, then: KINDS[kind].address.required() })),
  }),
});

export const sourceEndpoints = {
  kinds: endpoint({
    id: 'sourceKinds',
    method: 'get',
    path: '/source-kinds',
    area: 'sources',
    summary: 'Kinds of source',
    answers: 'What each kind needs: fields of its address, and whether a credential.',
  }),
  list: endpoint({
    id: 'sources',
    method: 'get',
    path: '/sources',
    area: 'sources',
    summary: 'Registered sources',
    answers: 'Sources in domains you may read, with asset counts and last run.',
  }),
  get: endpoint({
    id: 'source',
    method: 'get',
    path: '/sources/:id',
    area: 'sources',
    summary: 'One source',
    params: idParam,
    answers: 'The source.',
  }),
  register: endpoint({
    id: 'registerSource',
    method: 'post',
    path: '/sources',
    area: 'sources',
    summary: 'Register a source',
    rights: 'source administrator in its domain',
    body: sourceBody,
    answers: 'The source. No credential is needed to register it.',
  }),
  change: endpoint({
    id: 'changeSource',
    method: 'patch',
    path: '/sources/:id',
    area: 'sources',
    summary: 'Change a source',
    rights: 'source administrator in its domain',
    params: idParam,
    body: Joi.object({ ...fields, address: free() }).min(1),
    answers: 'The source as it is now. Send If-Match with its version.',
  }),
  remove: endpoint({
    id: 'removeSource',
    method: 'delete',
    path: '/sources/:id',
    area: 'sources',
    summary: 'Remove a source and its assets',
    rights: 'source administrator in its domain',
    params: idParam,
    query: Joi.object({
      assets: Joi.number()
        .integer()
        .min(0)
        .required()
        .description('How many assets you expect to go with it: it must be right'),
    }),
    answers: 'Nothing.',
  }),
  test: endpoint({
    id: 'testSource',
    method: 'post',
    path: '/sources/:id/test',
    area: 'sources',
    summary: 'Test the connection, step by step',
    rights: 'source administrator in its domain',
    params: idParam,
    answers: 'Steps in order; the first failed one says why and what mends it.',
  }),
  credentials: endpoint({
    id: 'credentials',
    method: 'get',
    path: '/credentials',
    area: 'sources',
    summary: 'Named credentials, without their secrets',
    rights: 'source administrator in any domain',
    answers: 'Credentials and what uses them.',
  }),
  addCredential: endpoint({
    id: 'addCredential',
    method: 'post',
    path: '/credentials',
    area: 'sources',
    summary: 'Store a credential, encrypted',
    rights: 'source administrator in any domain',
    body: Joi.object({
      name: Joi.string().trim().min(1).max(120).required(),
      kind: Joi.string()
        .valid(...CREDENTIAL_KINDS)
        .default('user and password'),
      ...secretFields,
    }),
    answers: 'The credential without its secret.',
  }),
  rotateCredential: endpoint({
    id: 'rotateCredential',
    method: 'put',
    path: '/credentials/:id/secret',
    area: 'sources',
    summary: 'Put a new secret in the place of the old one',
    rights: 'source administrator in any domain, and in those of all sources that use it',
    params: idParam,
    body: Joi.object(secretFields),
    answers:
      'The credential; its sources use the new secret from the next connection on. Send If-Match with its version.',
  }),
  removeCredential: endpoint({
    id: 'removeCredential',
    method: 'delete',
    path: '/credentials/:id',
    area: 'sources',
    summary: 'Remove a credential that nothing uses',
    rights: 'source administrator in any domain',
    params: idParam,
    answers: 'Nothing. Refused while a source uses it.',
  }),
};
