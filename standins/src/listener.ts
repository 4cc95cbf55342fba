import express, { type Request, type Response, Router } from 'express';
import { Webhook } from 'standardwebhooks';
import { html, page } from './page.ts';

export interface Heard {
  readonly id: string;
  readonly at: string;
  /** Whether it was signed by the secret that the listener was given; null while it has none. */
  readonly signed: boolean | null;
  readonly event: { readonly type?: string; readonly subject?: string };
}

/** So many are kept; older ones go. */
const KEPT = 200;
const LARGEST = '256kb';

/**
 * A program that is told of events (Standard Webhooks): what came is shown at the path where its router is put, and at `/messages` as JSON. Given a secret, by a form or
 * at `/secret`, it refuses what is not signed by it. While it is told to refuse (`/refuse`) it takes nothing.
 */
export function listener(): Router {
  const heard: Heard[] = [];
  let secret: string | null = null;
  let refuses = false;
  const router = Router();
  const shown = (_request: Request, response: Response) =>
    void response.set('cache-control', 'no-store').send(
      page(
        'Listener of the demo',
        html`<p>A program that webhooks can be sent to, at this address. ${secret === null ? 'It has no secret yet, and takes everything.' : 'It takes what is signed by its secret.'}</p>
          <form method="post" action="listener/secret">
            <label>Secret <input name="secret" size="60" autocomplete="off" /></label>
            <button>Check by this secret</button>
          </form>
          ${heard.length === 0 ? html`<p>Nothing came yet.</p>` : ''}
          ${heard.map(
            ({ event, at, signed }) =>
              html`<article>
                <h2>${event.type ?? ''}</h2>
                <p>${event.subject ?? ''}, <time>${at}</time>${signed === true ? ', signed' : ''}</p>
                <pre>${JSON.stringify(event, null, 2)}</pre>
              </article>`,
          )}`,
      ),
    );
  router.get('/', shown);
  router.get('/messages', (_request, response: Response) => void response.json(heard));
  router.post('/secret', express.urlencoded({ extended: false }), express.json(), (request, response) => {
    const given = (request.body as { secret?: unknown } | undefined)?.secret;
    secret = typeof given === 'string' && given !== '' ? given : null;
    if (request.is('json')) response.status(204).end();
    else response.redirect(303, '../listener');
  });
  router.post('/refuse', express.json(), (request, response) => {
    refuses = (request.body as { refuse?: unknown } | undefined)?.refuse === true;
    response.status(204).end();
  });
  router.post('/', express.text({ type: () => true, limit: LARGEST }), (request, response) => {
    const text = String(request.body ?? '');
    if (refuses) {
      response.status(503).end();
      return;
    }
    try {
      const event = (
        secret === null ? JSON.parse(text) : new Webhook(secret).verify(text, request.headers as Record<string, string>)
      ) as Heard['event'];
      heard.unshift({
        id: request.get('webhook-id') ?? '',
        at: new Date().toISOString(),
        signed: secret === null ? null : true,
        event,
      });
      heard.length = Math.min(heard.length, KEPT);
      response.status(204).end();
    } catch {
      response.status(400).end();
    }
  });
  return router;
}
