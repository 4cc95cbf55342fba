import { timingSafeEqual } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { type Request, type Response, Router } from 'express';
import { type Drawn, drawn } from './drawn.ts';

export interface Token {
  readonly token: string;
  readonly name: string;
  /** Workspaces it may see; of an orchestrator: nothing, or everything. */
  readonly sees: readonly string[];
}
export interface ReportServerData {
  readonly name: string;
  readonly tokens: readonly Token[];
  readonly workspaces: readonly {
    readonly id: string;
    readonly name: string;
    readonly description: string;
    readonly datasets: readonly object[];
    readonly documents: readonly (Readonly<Record<string, unknown>> & {
      readonly id?: string;
      readonly image?: Drawn;
    })[];
  }[];
}
export interface OrchestratorData {
  readonly name: string;
  readonly tokens: readonly Token[];
  readonly events: readonly { readonly eventTime: string }[];
}

const same = (a: string, b: string) => a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));
export const problem = (response: Response, status: number, title: string) =>
  response.status(status).type('application/problem+json').send({ title, status });

/** Who asks, by the token in the header; answers itself when nobody known does. */
export function asks<T extends { tokens: readonly Token[] }>(
  data: T,
  request: Request,
  response: Response,
): Token | undefined {
  const given = /^Bearer (.+)$/.exec(request.get('authorization') ?? '')?.[1] ?? '';
  const token = data.tokens.find((entry) => same(entry.token, given));
  if (!token) problem(response, 401, 'The token is not known.');
  return token;
}

/** A page of a list: from the item after the one named by `after` (its place in the list). */
function page(request: Request, items: readonly unknown[]) {
  const most = Math.max(1, Math.min(500, Number(request.query.limit ?? 50)));
  const from = Number(request.query.after ?? 0);
  const next = from + most;
  return { items: items.slice(from, next), next: next < items.length ? String(next) : null };
}

const reader =
  <T>(folder: string, file: string) =>
  async () =>
    JSON.parse(await readFile(join(folder, file), 'utf8')) as T;

const within = (data: ReportServerData, id: string | undefined) => data.workspaces.find((entry) => entry.id === id);

/** A report server: workspaces, the datasets behind them, reports and dashboards with their fields. Shows what stands in `reports.json`, read anew with each request. */
export function reportServer(folder: string): Router {
  const router = Router();
  const read = reader<ReportServerData>(folder, 'reports.json');
  router.get('/api/me', async (request, response) => {
    const token = asks(await read(), request, response);
    if (token) response.json({ name: token.name });
  });
  router.get('/api/server', async (request, response) => {
    const data = await read();
    if (asks(data, request, response)) response.json({ name: data.name });
  });
  router.get('/api/workspaces', async (request, response) => {
    const data = await read();
    const token = asks(data, request, response);
    if (token)
      response.json(
        page(
          request,
          data.workspaces
            .filter(({ id }) => token.sees.includes(id))
            .map(({ id, name, description }) => ({ id, name, description })),
        ),
      );
  });
  for (const list of ['datasets', 'documents'] as const)
    router.get(`/api/workspaces/:id/${list}`, async (request, response) => {
      const data = await read();
      const token = asks(data, request, response);
      if (!token) return;
      const workspace = within(data, request.params.id);
      if (!workspace) problem(response, 404, 'There is no such workspace.');
      else if (!token.sees.includes(workspace.id)) problem(response, 403, `${token.name} may not see this workspace.`);
      else
        response.json(
          page(
            request,
            list === 'datasets'
              ? workspace.datasets
              : workspace.documents.map((document) => ({ ...document, image: document.image !== undefined })),
          ),
        );
    });
  router.get('/api/workspaces/:id/documents/:document/image', async (request, response) => {
    const data = await read();
    const token = asks(data, request, response);
    if (!token) return;
    const workspace = within(data, request.params.id);
    const image = workspace?.documents.find(({ id }) => id === request.params.document)?.image;
    if (!workspace || !image) problem(response, 404, 'There is no such image.');
    else if (!token.sees.includes(workspace.id)) problem(response, 403, `${token.name} may not see this workspace.`);
    else response.type('image/svg+xml').send(drawn(image));
  });
  return router;
}

/** An orchestrator: the events of its runs, oldest first. Shows what stands in `flows.json`, read anew with each request. */
export function orchestratorServer(folder: string): Router {
  const router = Router();
  const read = reader<OrchestratorData>(folder, 'flows.json');
  router.get('/api/me', async (request, response) => {
    const token = asks(await read(), request, response);
    if (token) response.json({ name: token.name });
  });
  router.get('/api/server', async (request, response) => {
    const data = await read();
    if (asks(data, request, response)) response.json({ name: data.name });
  });
  router.get('/api/events', async (request, response) => {
    const data = await read();
    const token = asks(data, request, response);
    if (!token) return;
    if (token.sees.length === 0) problem(response, 403, `${token.name} may not see runs.`);
    else response.json(page(request, data.events));
  });
  return router;
}
