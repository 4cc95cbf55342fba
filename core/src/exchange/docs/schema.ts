import { STANDINGS } from '../../catalog/index.ts';

/** What the first line of a file of documentation says, so that another format is not taken for it. */
export const DOCS_FORMAT = 'idrel-docs/1';

/** What such a file can say of an asset. */
export const DOC_FIELDS = ['description', 'owner', 'stewards', 'custodians', 'terms', 'tags', 'standing'] as const;
export type DocField = (typeof DOC_FIELDS)[number];
/** Who is right where a file and somebody's decision by hand differ. */
export const WINNERS = ['people', 'file'] as const;

const text = (description: string) => ({ type: 'string', maxLength: 20_000, description });
const called = { type: 'string', minLength: 1, maxLength: 400 };
const names = (description: string, maxItems: number) => ({ type: 'array', items: called, maxItems, description });
const facts = {
  description: { ...text('What it is and means.'), type: ['string', 'null'] },
  owner: {
    ...called,
    type: ['string', 'null'],
    description: 'Who answers for it: a person or a group, by name or address.',
  },
  stewards: names('Who looks after its meaning and quality.', 20),
  custodians: names('Who runs the system that it lies in.', 20),
  terms: names('Terms of the glossary, by name or as scheme/name.', 50),
  tags: names('Tags, by name or as name/value.', 50),
  standing: { enum: [...STANDINGS], description: 'How far it can be relied on.' },
};

/** The form of such a file, as JSON Schema 2020-12: for editors, which complete and check by it. */
export const DOCS_SCHEMA = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'Documentation kept beside code',
  type: 'object',
  required: ['format', 'source', 'assets'],
  additionalProperties: false,
  properties: {
    format: { const: DOCS_FORMAT },
    source: { ...called, description: 'The source of the catalog in which the assets lie.' },
    wins: {
      type: 'object',
      additionalProperties: false,
      description: 'Who is right where somebody decided by hand, too; people, where nothing is said.',
      properties: Object.fromEntries(DOC_FIELDS.map((field) => [field, { enum: [...WINNERS] }])),
    },
    assets: {
      type: 'object',
      minProperties: 1,
      description: 'By their names from the top, with strokes between: mart/fares.',
      additionalProperties: {
        anyOf: [
          text('What it is and means.'),
          {
            type: 'object',
            additionalProperties: false,
            minProperties: 1,
            properties: {
              ...facts,
              columns: {
                type: 'object',
                minProperties: 1,
                description: 'Its columns by name.',
                additionalProperties: {
                  anyOf: [
                    text('What it means.'),
                    { type: 'object', additionalProperties: false, minProperties: 1, properties: facts },
                  ],
                },
              },
            },
          },
        ],
      },
    },
  },
} as const;
