import Joi from 'joi';

export const SOURCE_KINDS = ['postgresql', 'mariadb', 'sqlite', 'folder'] as const;
export type SourceKind = (typeof SOURCE_KINDS)[number];

const host = Joi.string().hostname().required().label('Host').description('Name or address of the server').meta({ example: 'db.example.org' });
const path = (label: string, help: string) => Joi.string().max(1000).pattern(/^\//, 'an absolute path').required().label(label).description(help);

/** What is the same about all sources of a kind. */
export interface KindFacts {
  readonly label: string;
  /** The fields of its address: the form and the checks are made from this. */
  readonly address: Joi.ObjectSchema;
  readonly credential: 'user and password' | 'none';
  /** Schemes of connection URLs that fill the fields. */
  readonly schemes: readonly string[];
  /** Between the names of a path. */
  readonly separator: '.' | '/';
  /** Whether paths begin below the top (the database's own name says nothing that the source's does not). */
  readonly topHidden: boolean;
}

export const KINDS: Record<SourceKind, KindFacts> = {
  postgresql: {
    label: 'PostgreSQL',
    address: Joi.object({
      host,
      port: Joi.number().port().default(5432).label('Port').description('Usually 5432'),
      database: Joi.string().max(63).required().label('Database').description('Its name on the server'),
    }),
    credential: 'user and password',
    schemes: ['postgres', 'postgresql'],
    separator: '.',
    topHidden: true,
  },
  mariadb: {
    label: 'MariaDB or MySQL',
    address: Joi.object({
      host,
      port: Joi.number().port().default(3306).label('Port').description('Usually 3306'),
      database: Joi.string().max(64).required().label('Database').description('Its name on the server'),
    }),
    credential: 'user and password',
    schemes: ['mysql', 'mariadb'],
    separator: '.',
    topHidden: true,
  },
  sqlite: {
    label: 'SQLite file',
    address: Joi.object({ path: path('File', 'As the server sees it, beginning with /') }),
    credential: 'none',
    schemes: ['sqlite'],
    separator: '.',
    topHidden: true,
  },
  folder: {
    label: 'Folder of files',
    address: Joi.object({ path: path('Folder', 'As the server sees it, beginning with /') }),
    credential: 'none',
    schemes: ['file'],
    separator: '/',
    topHidden: false,
  },
};

/** One field of a kind's address, as a form shows it. */
export interface KindField {
  readonly name: string;
  readonly label: string;
  readonly help: string;
  readonly type: 'text' | 'number';
  readonly required: boolean;
  readonly default: string | number | null;
}
/** A kind of source as the interface needs it. */
export interface KindAnswer {
  readonly kind: SourceKind;
  readonly label: string;
  readonly credential: KindFacts['credential'];
  readonly schemes: readonly string[];
  readonly fields: readonly KindField[];
}

/** The fields of a kind, read from the schema that checks them. */
export function describeKind(kind: SourceKind): KindAnswer {
  const { label, credential, schemes, address } = KINDS[kind];
  const fields = Object.entries(address.describe().keys as Record<string, Joi.Description>).map(([name, field]): KindField => {
    const flags = (field.flags ?? {}) as { label?: string; description?: string; presence?: string; default?: string | number };
    return {
      name,
      label: flags.label ?? name,
      help: flags.description ?? '',
      type: field.type === 'number' ? 'number' : 'text',
      required: flags.presence === 'required' || flags.default !== undefined,
      default: flags.default ?? null,
    };
  });
  return { kind, label, credential, schemes, fields };
}

/** Where a source is, in one line. */
export function addressLine(address: Readonly<Record<string, string | number>>): string {
  return address.path === undefined ? `${address.host}:${address.port}/${address.database}` : String(address.path);
}
