import { accessEndpoints } from '@idrel/contract/access';
import { catalogEndpoints } from '@idrel/contract/catalog';
import { coverageEndpoints } from '@idrel/contract/coverage';
import { curationEndpoints } from '@idrel/contract/curation';
import { glossaryEndpoints } from '@idrel/contract/glossary';
import type { Endpoint } from '@idrel/contract/http';
import { journalEndpoints } from '@idrel/contract/journal';
import { lineageEndpoints } from '@idrel/contract/lineage';
import { peopleEndpoints } from '@idrel/contract/people';
import { recognitionEndpoints } from '@idrel/contract/recognition';
import { routineEndpoints } from '@idrel/contract/routines';
import { agentEndpoints, planEndpoints, scanEndpoints } from '@idrel/contract/scanning';
import { pushEndpoints, sourceEndpoints } from '@idrel/contract/sources';
import { worklistEndpoints } from '@idrel/contract/worklist';
import type { Schema } from 'joi';
import * as joiToSwagger from 'joi-to-swagger';

/** Every operation of the API, by area. */
export const ENDPOINTS: readonly Endpoint[] = [
  peopleEndpoints,
  sourceEndpoints,
  planEndpoints,
  scanEndpoints,
  pushEndpoints,
  agentEndpoints,
  recognitionEndpoints,
  catalogEndpoints,
  curationEndpoints,
  glossaryEndpoints,
  lineageEndpoints,
  accessEndpoints,
  journalEndpoints,
  worklistEndpoints,
  coverageEndpoints,
  routineEndpoints,
].flatMap((area) => Object.values(area) as Endpoint[]);

// A CommonJS module: its function is the default export of the namespace.
const toSwagger = joiToSwagger.default as unknown as (schema: Schema) => { swagger: object };

type Described = { properties?: Record<string, object>; required?: string[] };
const described = (schema: Schema | undefined): Described => (schema ? (toSwagger(schema).swagger as Described) : {});

function parameters(endpoint: Endpoint): object[] {
  const of = (schema: Endpoint['params'], place: string) => {
    const { properties = {}, required = [] } = described(schema);
    return Object.entries(properties).map(([name, shape]) => ({
      name,
      in: place,
      required: place === 'path' || required.includes(name),
      schema: shape,
    }));
  };
  const version = endpoint.answers.includes('If-Match')
    ? [
        {
          name: 'If-Match',
          in: 'header',
          required: true,
          schema: { type: 'string', example: '"v3"' },
          description: 'The version you saw.',
        },
      ]
    : [];
  return [...of(endpoint.params, 'path'), ...of(endpoint.query, 'query'), ...version];
}

function operation(endpoint: Endpoint): object {
  const content = endpoint.stream
    ? { [endpoint.method === 'post' ? 'application/x-ndjson' : 'text/event-stream']: {} }
    : { 'application/json': {} };
  const problem = (description: string) => ({
    description,
    content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
  });
  return {
    operationId: endpoint.id,
    tags: [endpoint.area],
    summary: endpoint.summary,
    ...(endpoint.rights
      ? { description: endpoint.open ? `For ${endpoint.rights}.` : `Takes the role ${endpoint.rights}.` }
      : {}),
    parameters: parameters(endpoint),
    ...(endpoint.body
      ? { requestBody: { required: true, content: { 'application/json': { schema: described(endpoint.body) } } } }
      : {}),
    responses: {
      '200': { description: endpoint.answers, content },
      ...(endpoint.open ? {} : { '401': problem('Not signed in.') }),
      ...(endpoint.rights ? { '403': problem('Without the role.') } : {}),
      '422': problem('What was sent does not fit.'),
    },
    ...(endpoint.open ? { security: [] } : {}),
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
      securitySchemes: { session: { type: 'apiKey', in: 'cookie', name: 'idrel_session' } },
      schemas: {
        Problem: {
          type: 'object',
          required: ['title', 'status', 'code', 'detail'],
          properties: {
            type: text,
            title: text,
            status: { type: 'integer' },
            code: text,
            detail: text,
            mend: text,
            fields: { type: 'array', items: { type: 'object', properties: { field: text, message: text } } },
          },
        },
      },
    },
    security: [{ session: [] }],
  };
}
