import { execFile } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { PROBLEMS, type ProblemCode, problemsOf, statusOf } from '@idrel/contract/http';
import { ENDPOINTS } from '@idrel/contract/operations';
import { Validator } from '@seriousme/openapi-schema-validator';
import { generate } from 'openapi-typescript-codegen';
import { describe, expect, it } from 'vitest';
import { openApi } from '../src/exchange/openapi.ts';

interface Operation {
  readonly operationId: string;
  readonly parameters: readonly { readonly name: string; readonly in: string }[];
  readonly responses: Readonly<Record<string, { readonly content?: Readonly<Record<string, { schema: object }>> }>>;
}
const document = JSON.parse(JSON.stringify(openApi())) as {
  paths: Record<string, Record<string, Operation>>;
};
const operations = Object.values(document.paths).flatMap((methods) => Object.values(methods));
const operation = (id: string) => operations.find(({ operationId }) => operationId === id);

describe('the description of the API', () => {
  it('is OpenAPI, by the word of the standard’s own schema', async () => {
    const found = await new Validator().validate(structuredClone(document));
    expect(found.errors ?? []).toEqual([]);
    expect(found.valid).toBe(true);
  });

  it('would not pass with an operation that says nothing of its answers', async () => {
    const paths = { '/api/v1/terms': { get: { operationId: 'terms', parameters: 'none' } } };
    const broken = { ...structuredClone(document), paths };
    expect((await new Validator().validate(broken)).valid).toBe(false);
  });

  it('tells of every operation which problems it can be answered with, under their status', () => {
    for (const endpoint of ENDPOINTS) {
      const responses = operation(endpoint.id)?.responses ?? {};
      const told = Object.entries(responses).flatMap(([status, { content }]) => {
        const schema = content?.['application/problem+json']?.schema as
          | { allOf: [object, { properties: { code: { enum: string[] } } }] }
          | undefined;
        return (schema?.allOf[1].properties.code.enum ?? []).map((code) => `${status} ${code}`);
      });
      expect(told.sort(), endpoint.id).toEqual(
        [...problemsOf(endpoint)].map((code) => `${statusOf(code)} ${code}`).sort(),
      );
      // What follows from its kind is not told again.
      const { problems = [], ...bare } = endpoint;
      for (const code of problems) expect(problemsOf(bare).has(code), `${endpoint.id} names ${code}`).toBe(false);
    }
    const named = new Set(ENDPOINTS.flatMap((endpoint) => [...problemsOf(endpoint)]));
    expect(Object.keys(PROBLEMS).filter((code) => !named.has(code as ProblemCode))).toEqual([]);
  });

  it('tells of every answer what it holds', () => {
    expect(operations).toHaveLength(ENDPOINTS.length);
    for (const endpoint of ENDPOINTS) {
      const responses = operation(endpoint.id)?.responses;
      const done = responses?.['200'] ?? responses?.['204'] ?? responses?.['302'];
      expect(done, endpoint.id).toBeDefined();
      if (endpoint.answer)
        expect(
          Object.keys(
            done?.content?.[endpoint.stream === 'lines' ? 'application/x-ndjson' : 'application/json']?.schema ?? {},
          ),
          endpoint.id,
        ).not.toEqual([]);
    }
    expect(operation('changeTerm')?.parameters).toContainEqual(
      expect.objectContaining({ name: 'If-Match', in: 'header', required: true }),
    );
    expect(operation('term')?.responses['200']?.content?.['application/json']?.schema).toMatchObject({
      type: 'object',
      required: expect.arrayContaining(['id', 'name', 'labels', 'ownerId']),
      properties: {
        ownerId: { type: ['string', 'null'] },
        labels: { type: 'array', items: { type: 'object' } },
      },
    });
  });

  it('makes a client that compiles, and that knows what it asks for and gets', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'idrel-client-'));
    try {
      await generate({ input: structuredClone(document), output: folder, httpClient: 'fetch', useUnionTypes: true });
      expect(existsSync(join(folder, 'services/GlossaryService.ts'))).toBe(true);
      writeFileSync(
        join(folder, 'use.ts'),
        `import { GlossaryService } from './index';
export async function names(): Promise<string[]> {
  const terms = await GlossaryService.terms();
  const made = await GlossaryService.createTerm({
    name: 'Fare',
    labels: [{ kind: 'alternative', language: 'en', text: 'Price' }],
  });
  // @ts-expect-error a term has no such thing
  made.colour;
  return [...terms.items, made].map((term) => term.name);
}
`,
      );
      const compiler = fileURLToPath(new URL('../../node_modules/.bin/tsc', import.meta.url));
      const compilerOptions = {
        noEmit: true,
        strict: true,
        skipLibCheck: true,
        target: 'es2022',
        lib: ['es2022', 'dom'],
        module: 'esnext',
        moduleResolution: 'bundler',
        types: [],
      };
      writeFileSync(join(folder, 'tsconfig.json'), JSON.stringify({ compilerOptions, files: ['use.ts'] }));
      const compiled = await promisify(execFile)(compiler, ['-p', folder]).then(
        () => '',
        (error: { stdout: string }) => error.stdout,
      );
      expect(compiled).toBe('');
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  });
});
