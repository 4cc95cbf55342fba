import {
  type Endpoint,
  isByKey,
  type May,
  PROBLEMS,
  type ProblemCode,
  problemsOf,
  SCOPE_WORDS,
  SCOPES,
  scopeOf,
  statusOf,
} from '@idrel/contract/http';
import { ENDPOINTS } from '@idrel/contract/operations';
import type { Schema } from 'joi';
import parse from 'joi-to-json';

// A CommonJS module whose types name its function `default`, where Node gives the function itself.
const jsonSchema = parse as unknown as (schema: Schema, form: string) => object;

interface Described {
  readonly properties?: Record<string, object>;
  readonly required?: readonly string[];
}
/** Objects with keys of any name, told by their values alone: the patterns that names keep are no matter of clients. */
function withoutPatterns(node: unknown): unknown {
  if (Array.isArray(node)) return node.map(withoutPatterns);
  if (node === null || typeof node !== 'object') return node;
  const { patternProperties, properties, ...rest } = node as Record<string, Record<string, unknown> | undefined>;
  if (!patternProperties)
    return Object.fromEntries(Object.entries(node).map(([key, value]) => [key, withoutPatterns(value)]));
  return { ...rest, additionalProperties: withoutPatterns(Object.values(patternProperties)[0]) };
}

/** A schema as JSON Schema (2020-12), which OpenAPI 3.1 is made of. */
const described = (schema: Schema | undefined): Described =>
  schema ? (withoutPatterns(jsonSchema(schema, 'open-api-3.1')) as Described) : {};

/** Who may call an operation, as a sentence. */
export function mayInWords(may: May): string {
  if (may === 'anybody') return 'For anybody, also without a session.';
  if (may === 'an agent') return 'For agents, by their key as a bearer token.';
  if (may === 'a chat') return 'For the chat that the operator has named, by its secret as a bearer token.';
  if (may === 'a tracker') return 'For the tracker that the operator has named, by its secret as a bearer token.';
  if (may === 'a pipeline') return 'For pipelines, by the key of the source that takes their events as a bearer token.';
  if (may === 'signed in') return 'For everybody who is signed in.';
  if (!('roles' in may)) return `For ${may.words}.`;
  const where = may.in === 'any domain' ? 'in at least one domain' : 'in the domain of what it is about';
  return `Takes the role ${may.roles.join(' or ')} ${where}${may.words ? `: ${may.words}` : ''}.`;
}

function parameters(endpoint: Endpoint): object[] {
  const of = (schema: Schema | undefined, within: 'path' | 'query') => {
    const { properties = {}, required = [] } = described(schema);
    return Object.entries(properties).map(([name, shape]) => ({
      name,
      in: within,
      required: within === 'path' || required.includes(name),
      schema: shape,
    }));
  };
  const version = {
    name: 'If-Match',
    in: 'header',
    required: true,
    schema: { type: 'string', example: '"v3"' },
    description: 'The version you saw. It is in the answer, and in its ETag.',
  };
  const as = {
    name: 'X-Idrel-As',
    in: 'header',
    schema: { type: 'string', format: 'uuid' },
    description: 'The person as whom you said that you look at the catalog (lookAs): it is answered as they see it.',
  };
  return [
    ...of(endpoint.params, 'path'),
    ...of(endpoint.query, 'query'),
    ...(endpoint.versioned ? [version] : []),
    ...(endpoint.asOther ? [as] : []),
  ];
}

const STREAMS = { events: 'text/event-stream', lines: 'application/x-ndjson', bytes: 'image/*' } as const;
/** Problems of an operation by their status: what each means, and which codes it can have. */
function problems(endpoint: Endpoint): object {
  const byStatus = new Map<number, ProblemCode[]>();
  for (const code of problemsOf(endpoint)) {
    const status = statusOf(code);
    byStatus.set(status, [...(byStatus.get(status) ?? []), code]);
  }
  return Object.fromEntries(
    [...byStatus]
      .sort(([a], [b]) => a - b)
      .map(([status, codes]) => {
        const schema = {
          allOf: [
            { $ref: '#/components/schemas/Problem' },
            { type: 'object', properties: { code: { type: 'string', enum: codes } } },
          ],
        };
        return [
          String(status),
          {
            description: codes.map((code) => `\`${code}\`: ${PROBLEMS[code][1]}`).join('\n\n'),
            content: { 'application/problem+json': { schema } },
          },
        ];
      }),
  );
}

function responses(endpoint: Endpoint): object {
  const { answer, answers, stream, media } = endpoint;
  const done = () => {
    if (stream === 'redirect') return { '302': { description: answers } };
    if (stream)
      return {
        '200': {
          description: answers,
          content: Object.fromEntries(
            (media ?? [STREAMS[stream]]).map((type) => [
              type,
              { schema: answer ? described(answer) : { type: 'string' } },
            ]),
          ),
        },
      };
    return answer
      ? { '200': { description: answers, content: { 'application/json': { schema: described(answer) } } } }
      : { '204': { description: answers } };
  };
  return { ...done(), ...problems(endpoint) };
}

/** What a key of a program needs for it, in words. */
function scopeInWords(endpoint: Endpoint): string {
  if (endpoint.may === 'anybody' || isByKey(endpoint.may)) return '';
  const needs = scopeOf(endpoint);
  if (!needs) return ' No key of a program opens it.';
  return ` Keys of programs need the scope “${needs.scope}”${needs.whole ? ', and must hold for all domains' : ''}.`;
}

function operation(endpoint: Endpoint): object {
  const security =
    endpoint.may === 'anybody'
      ? []
      : isByKey(endpoint.may)
        ? [{ key: [] }]
        : scopeOf(endpoint)
          ? undefined
          : [{ session: [] }];
  return {
    operationId: endpoint.id,
    tags: [endpoint.area],
    summary: endpoint.summary,
    description: `${mayInWords(endpoint.may)}${scopeInWords(endpoint)}`,
    parameters: parameters(endpoint),
    ...(endpoint.body
      ? { requestBody: { required: true, content: { 'application/json': { schema: described(endpoint.body) } } } }
      : {}),
    ...(endpoint.lines
      ? { requestBody: { required: true, content: { [STREAMS.lines]: { schema: described(endpoint.lines) } } } }
      : {}),
    responses: responses(endpoint),
    ...(security ? { security } : {}),
  };
}

/** The description of the API in OpenAPI 3.1, made from the same schemas that check what comes in. */
export function openApi(): object {
  const paths: Record<string, Record<string, object>> = {};
  for (const endpoint of ENDPOINTS) {
    const path = `/api/v1${endpoint.path.replace(/:(\w+)/g, '{$1}')}`;
    paths[path] = { ...paths[path], [endpoint.method]: operation(endpoint) };
  }
  const text = { type: 'string' };
  return {
    openapi: '3.1.0',
    info: {
      title: 'Idrel',
      version: '1',
      description:
        'Everything that the interface does. Changes carry the token of the session (GET /session) as X-Idrel-Token.',
    },
    paths,
    components: {
      securitySchemes: {
        session: { type: 'apiKey', in: 'cookie', name: 'idrel_session' },
        key: { type: 'http', scheme: 'bearer', description: 'The key of an agent, or of a source that takes events.' },
        program: {
          type: 'http',
          scheme: 'bearer',
          description: `The key that a person made for a program, by its scopes: ${SCOPES.map((scope) => `${scope} ${SCOPE_WORDS[scope]}`).join('; ')}.`,
        },
      },
      schemas: {
        Problem: {
          type: 'object',
          required: ['title', 'status', 'code', 'detail'],
          properties: {
            type: text,
            title: text,
            status: { type: 'integer' },
            code: { type: 'string', enum: Object.keys(PROBLEMS) },
            detail: text,
            mend: text,
            fields: { type: 'array', items: { type: 'object', properties: { field: text, message: text } } },
            current: { description: 'Of an edit that met another one: what stands there now.' },
          },
        },
      },
    },
    security: [{ session: [] }, { program: [] }],
  };
}
