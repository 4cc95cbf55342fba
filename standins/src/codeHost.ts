import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { json, Router } from 'express';
import { html, page } from './page.ts';
import { asks, problem, type Token } from './services.ts';

export interface CodeHostData {
  readonly tokens: readonly Token[];
  readonly mergeRequests: readonly { readonly number: number; readonly title: string }[];
}
interface Comment {
  readonly id: number;
  readonly by: string;
  body: string;
}

/** So long a comment may be. */
const COMMENT_BYTES = 1 << 20;

/**
 * A host of code: merge requests with comments, which programs read, write and change by its interface, and people read on its pages. Shows what stands
 * in `code.json`; comments last as long as the process.
 */
export function codeHost(folder: string): Router {
  const router = Router();
  const comments = new Map<number, Comment[]>();
  const read = async () => JSON.parse(await readFile(join(folder, 'code.json'), 'utf8')) as CodeHostData;
  const requestOf = (data: CodeHostData, number: string | undefined) =>
    data.mergeRequests.find((entry) => String(entry.number) === number);
  router.use(json({ limit: COMMENT_BYTES }));
  router.get('/api/merge-requests/:number/comments', async (request, response) => {
    const data = await read();
    if (!asks(data, request, response)) return;
    const found = requestOf(data, request.params.number);
    if (!found) problem(response, 404, 'There is no such merge request.');
    else response.json(comments.get(found.number) ?? []);
  });
  router.post('/api/merge-requests/:number/comments', async (request, response) => {
    const data = await read();
    const token = asks(data, request, response);
    if (!token) return;
    const found = requestOf(data, request.params.number);
    if (!found) {
      problem(response, 404, 'There is no such merge request.');
      return;
    }
    const all = comments.get(found.number) ?? [];
    const made = { id: all.length + 1, by: token.name, body: String(request.body?.body ?? '') };
    comments.set(found.number, [...all, made]);
    response.status(201).json(made);
  });
  router.put('/api/merge-requests/:number/comments/:id', async (request, response) => {
    const data = await read();
    const token = asks(data, request, response);
    if (!token) return;
    const comment = comments.get(Number(request.params.number))?.find(({ id }) => String(id) === request.params.id);
    if (!comment) problem(response, 404, 'There is no such comment.');
    else if (comment.by !== token.name) problem(response, 403, 'The comment is somebody else’s.');
    else {
      comment.body = String(request.body?.body ?? '');
      response.json(comment);
    }
  });
  router.get('/merge-requests/:number', async (request, response) => {
    const found = requestOf(await read(), request.params.number);
    if (!found) {
      response.status(404).send(page('There is no such merge request', html`<p>It was closed, or never opened.</p>`));
      return;
    }
    const all = comments.get(found.number) ?? [];
    response.send(
      page(
        `!${found.number} ${found.title}`,
        html`${all.length === 0 ? html`<p>Nobody has said anything yet.</p>` : ''}${all.map(
          ({ by, body }) => html`<article><h2>${by}</h2><pre>${body}</pre></article>`,
        )}`,
      ),
    );
  });
  return router;
}
