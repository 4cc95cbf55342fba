import type { Description, ObjectSchema } from 'joi';
import { either, flag, Joi, list, nullable, number, type Of, oneOf, optional, shape, text } from '../http/index.ts';

export const SOURCE_KINDS = [
  'postgresql',
  'mariadb',
  'sqlite',
  'folder',
  'scripts',
  'objects',
  'reports',
  'orchestrator',
  'dcat',
  'events',
  'drawn',
  'pushed',
] as const;
export type SourceKind = (typeof SOURCE_KINDS)[number];

const host = Joi.string()
  .hostname()
  .required()
  .label('Host')
  .description('Name or address of the server')
  .meta({ example: 'db.example.org' });
/** How the connection is encrypted, and whose word for the server's certificate counts. */
const encryption = {
  tls: Joi.string()
    .valid('no', 'yes', 'checked')
    .default('no')
    .label('Encryption')
    .description('“Checked” refuses a server whose certificate does not name it')
    .meta({ options: { no: 'none', yes: 'encrypted', checked: 'encrypted, certificate checked' } }),
  authority: Joi.string()
    .trim()
    .allow('')
    .max(100_000)
    .pattern(/^-----BEGIN CERTIFICATE-----[\s\S]+-----END CERTIFICATE-----$/, 'a certificate in PEM form')
    .default('')
    .label('Certificate authority')
    .description('In PEM form, when it is one of your own; else those that this machine knows count')
    .meta({ lines: true }),
};
const url = (label: string, help: string, example: string) =>
  Joi.string()
    .uri({ scheme: ['https', 'http'] })
    .max(1000)
    // What stands before the @ is a secret, and an address is shown to everybody.
    .pattern(/^[^:]+:\/\/[^/?#]*@/, { invert: true })
    .pattern(/[?#]/, { invert: true })
    .messages({
      'string.pattern.invert.base':
        '{{#label}} holds a name, a password or a question: the address alone stands here, a secret belongs into the credential',
    })
    .required()
    .label(label)
    .description(help)
    .meta({ example });
const path = (label: string, help: string) =>
  Joi.string().max(1000).pattern(/^\//, 'an absolute path').required().label(label).description(help);

/** What a credential holds. */
export const CREDENTIAL_KINDS = ['user and password', 'key pair', 'token'] as const;
export type CredentialKind = (typeof CREDENTIAL_KINDS)[number];

/** What is the same about all sources of a kind. */
export interface KindFacts {
  readonly label: string;
  /** The fields of its address: the form and the checks are made from this. */
  readonly address: ObjectSchema;
  readonly credential: CredentialKind | 'none';
  /** Not every such source asks who is there: it is read without a credential, too. */
  readonly openToAll?: true;
  /** Schemes of connection URLs that fill the fields. */
  readonly schemes: readonly string[];
  /** Between the names of a path. */
  readonly separator: '.' | '/';
  /** Whether paths begin below the top (the database's own name says nothing that the source's does not). */
  readonly topHidden: boolean;
  /** It is a path on the machine that reads it. */
  readonly onDisk?: true;
  /** Programs tell what it holds: nothing of it is read. */
  readonly told?: true;
  /** Statements can be asked of it through the gateway: they run there, or here over its rows, which are laid out for that. */
  readonly asked?: 'there' | 'here';
}

export const KINDS: Record<SourceKind, KindFacts> = {
  postgresql: {
    label: 'PostgreSQL',
    address: Joi.object({
      host,
      port: Joi.number().port().default(5432).label('Port').description('Usually 5432'),
      database: Joi.string().max(63).required().label('Database').description('Its name on the server'),
      ...encryption,
    }),
    credential: 'user and password',
    schemes: ['postgres', 'postgresql'],
    separator: '.',
    topHidden: true,
    asked: 'there',
  },
  mariadb: {
    label: 'MariaDB or MySQL',
    address: Joi.object({
      host,
      port: Joi.number().port().default(3306).label('Port').description('Usually 3306'),
      database: Joi.string().max(64).required().label('Database').description('Its name on the server'),
      ...encryption,
    }),
    credential: 'user and password',
    schemes: ['mysql', 'mariadb'],
    separator: '.',
    topHidden: true,
    asked: 'here',
  },
  sqlite: {
    label: 'SQLite file',
    address: Joi.object({ path: path('File', 'As the server sees it, beginning with /') }),
    credential: 'none',
    schemes: ['sqlite'],
    separator: '.',
    topHidden: true,
    onDisk: true,
    asked: 'here',
  },
  folder: {
    label: 'Folder of files',
    address: Joi.object({ path: path('Folder', 'As the server sees it, beginning with /') }),
    credential: 'none',
    schemes: ['file'],
    separator: '/',
    topHidden: false,
    onDisk: true,
    asked: 'here',
  },
  scripts: {
    label: 'Folder of SQL scripts',
    address: Joi.object({
      path: path('Folder', 'As the server sees it, beginning with /'),
      system: Joi.string()
        .valid('postgresql', 'mariadb')
        .default('postgresql')
        .label('They run at')
        .description('The database whose SQL they are written in')
        .meta({ options: { postgresql: 'PostgreSQL', mariadb: 'MariaDB or MySQL' } }),
      host,
      port: Joi.number().port().default(5432).label('Port').description('Of that server'),
      database: Joi.string().max(64).required().label('Database').description('Its name on the server'),
      schema: Joi.string()
        .allow('')
        .max(63)
        .default('')
        .label('Schema')
        .description('In which names without one are looked for first; “public” when left empty'),
    }),
    credential: 'none',
    schemes: [],
    separator: '/',
    topHidden: false,
    onDisk: true,
  },
  objects: {
    label: 'Object store (S3)',
    address: Joi.object({
      url: url('Address', 'Of the store, without the bucket', 'https://store.example.org'),
      bucket: Joi.string()
        .pattern(
          /^[a-z0-9][a-z0-9.-]{1,61}[a-z0-9]$/,
          'the name of a bucket: 3 to 63 small letters, digits, dots and hyphens',
        )
        .required()
        .label('Bucket')
        .description('One source reads one bucket'),
      prefix: Joi.string().allow('').max(1000).default('').label('Below').description('Only keys that begin so'),
      region: Joi.string().max(60).default('us-east-1').label('Region').description('As signatures name it'),
    }),
    credential: 'key pair',
    schemes: ['s3'],
    separator: '/',
    topHidden: false,
    asked: 'here',
  },
  reports: {
    label: 'Report server (REST)',
    address: Joi.object({
      url: url('Address', 'Below which its interface lies', 'https://reports.example.org/reports'),
    }),
    credential: 'token',
    schemes: [],
    separator: '/',
    topHidden: true,
  },
  orchestrator: {
    label: 'Orchestrator (OpenLineage)',
    address: Joi.object({ url: url('Address', 'Below which its interface lies', 'https://jobs.example.org/flows') }),
    credential: 'token',
    schemes: [],
    separator: '/',
    topHidden: true,
  },
  dcat: {
    label: 'Catalog that others publish (DCAT)',
    address: Joi.object({
      url: url('Address', 'Of the catalog’s data: Turtle, JSON-LD or RDF/XML', 'https://data.example.org/catalog.ttl'),
      query: Joi.string()
        .allow('')
        .max(500)
        .pattern(/#/, { invert: true })
        .default('')
        .label('Question')
        .description(
          'What stands behind the question mark of its address, where there is one; no secrets: those belong into the credential',
        ),
    }),
    credential: 'token',
    openToAll: true,
    schemes: [],
    separator: '/',
    topHidden: true,
  },
  events: {
    label: 'Pipelines that send events (OpenLineage)',
    address: Joi.object({
      system: Joi.string()
        .allow('')
        .max(300)
        .default('')
        .label('Pipelines')
        .description('Which ones send their events here, in your words'),
    }),
    credential: 'none',
    schemes: [],
    separator: '/',
    topHidden: true,
    told: true,
  },
  drawn: {
    label: 'Drawn by hand',
    address: Joi.object({
      system: Joi.string()
        .allow('')
        .max(300)
        .default('')
        .label('What')
        .description('What is drawn here, in your words'),
    }),
    credential: 'none',
    schemes: [],
    separator: '/',
    topHidden: true,
    told: true,
  },
  pushed: {
    label: 'Pushed by a program',
    address: Joi.object({
      system: Joi.string()
        .allow('')
        .max(300)
        .default('')
        .label('System')
        .description('What the program speaks for, in your words'),
    }),
    credential: 'none',
    schemes: [],
    separator: '/',
    topHidden: false,
    told: true,
  },
};

/** One field of a kind's address, as a form shows it. */
export const KindField = shape({
  name: text,
  label: text,
  help: text,
  type: oneOf(['text', 'number', 'choice', 'lines']),
  options: optional(list(shape({ value: text, label: text }))).description(
    'Of a choice: what can be chosen, and how it is called.',
  ),
  required: flag,
  default: nullable(either(text, number)),
});
export type KindField = Of<typeof KindField>;
/** A kind of source as the interface needs it. */
export const KindAnswer = shape({
  kind: oneOf(SOURCE_KINDS),
  label: text,
  credential: oneOf([...CREDENTIAL_KINDS, 'none']),
  openToAll: flag.description('Whether it may be read without a credential, where it does not ask for one.'),
  schemes: list(text),
  asked: flag.description('Whether statements can be asked of such a source through the gateway.'),
  fields: list(KindField),
});
export type KindAnswer = Of<typeof KindAnswer>;

/** The kinds of source of which statements can be asked through the gateway. @param where they run; of both, where it is not said */
export const kindsAsked = (where?: KindFacts['asked']): SourceKind[] =>
  SOURCE_KINDS.filter(
    (kind) => KINDS[kind].asked !== undefined && (where === undefined || KINDS[kind].asked === where),
  );

/** The fields of a kind, read from the schema that checks them. */
export function describeKind(kind: SourceKind): KindAnswer {
  const { label, credential, openToAll = false, schemes, address, asked } = KINDS[kind];
  const fields = Object.entries(address.describe().keys as Record<string, Description>).map(
    ([name, field]): KindField => {
      const flags = (field.flags ?? {}) as {
        label?: string;
        description?: string;
        presence?: string;
        default?: string | number;
      };
      const meta = Object.assign({}, ...((field.metas ?? []) as object[])) as {
        options?: Record<string, string>;
        lines?: boolean;
      };
      return {
        name,
        label: flags.label ?? name,
        help: flags.description ?? '',
        type: meta.options ? 'choice' : meta.lines ? 'lines' : field.type === 'number' ? 'number' : 'text',
        ...(meta.options ? { options: Object.entries(meta.options).map(([value, label]) => ({ value, label })) } : {}),
        required: flags.presence === 'required' || (flags.default !== undefined && flags.default !== ''),
        default: flags.default ?? null,
      };
    },
  );
  return { kind, label, credential, openToAll, schemes, asked: asked !== undefined, fields };
}

/** Where a source is, in one line. */
export function addressLine(address: Readonly<Record<string, string | number>>): string {
  if (address.host === undefined && address.url === undefined && address.path === undefined)
    return address.system ? String(address.system) : 'pushed';
  if (address.path !== undefined) return String(address.path);
  if (address.url !== undefined)
    return [String(address.url).replace(/\/$/, ''), address.bucket, address.prefix]
      .filter((part) => part !== undefined && part !== '')
      .join('/');
  return `${address.host}:${address.port}/${address.database}`;
}
