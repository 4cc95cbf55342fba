import express, { type Response, Router } from 'express';
import { Webhook } from 'standardwebhooks';
import { html, linked, page } from './page.ts';

/** With what a chat speaks: where it tells what was written, and the secret of both sides. */
export interface ChatPartner {
  readonly address: string;
  readonly secret: string;
}
interface Said {
  readonly at: string;
  readonly from: string;
  readonly text: string;
  readonly link: string | null;
  /** Who alone sees it; null: everybody. */
  readonly only: string | null;
}

/** So many are kept; older ones go. */
const KEPT = 300;

/**
 * A chat with one channel, in which whoever comes says who they are: what is written is told to {@link ChatPartner}, whose replies are shown to everybody, or to
 * whoever wrote alone; at `/in` it takes messages to people, signed (Standard Webhooks). At `/messages?for=` as JSON.
 */
export function chat({ address, secret }: ChatPartner): Router {
  const said: Said[] = [];
  const keep = (entry: Omit<Said, 'at'>) => {
    said.push({ at: new Date().toISOString(), ...entry });
    said.splice(0, Math.max(0, said.length - KEPT));
  };
  const seenBy = (who: string) =>
    said.filter(({ only, from }) => only === null || (who !== '' && (only === who || from === who)));
  const router = Router();
  router.post('/in', express.text({ type: () => true, limit: '64kb' }), (request, response) => {
    try {
      const { to, text } = new Webhook(secret).verify(
        String(request.body ?? ''),
        request.headers as Record<string, string>,
      ) as { to: string; text: string };
      keep({ from: 'Idrel', text, link: null, only: to });
      response.status(204).end();
    } catch {
      response.status(401).end();
    }
  });
  router.get('/messages', (request, response: Response) => void response.json(seenBy(String(request.query.for ?? ''))));
  router.post('/say', express.urlencoded({ extended: false }), express.json(), async (request, response) => {
    const { from = '', text = '' } = (request.body ?? {}) as { from?: string; text?: string };
    keep({ from, text, link: null, only: null });
    const answer = await fetch(`${address}/api/v1/chat/messages`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', authorization: `Bearer ${secret}` },
      body: JSON.stringify({ from, text }),
    });
    if (answer.ok) {
      const { replies } = (await answer.json()) as { replies: { text: string; link: string | null; only: boolean }[] };
      for (const { text: reply, link, only } of replies)
        keep({ from: 'Idrel', text: reply, link, only: only ? from : null });
    } else keep({ from: 'Idrel', text: `It answered ${answer.status}.`, link: null, only: from });
    if (request.is('json')) response.status(204).end();
    else response.redirect(303, `../chat?as=${encodeURIComponent(from)}`);
  });
  router.get('/', (request, response) => {
    const as = String(request.query.as ?? '');
    response.set('cache-control', 'no-store').send(
      page(
        'Chat of the demo',
        html`<form method="post" action="chat/say">
            <p><label>Your e-mail address <input name="from" size="40" value="${as}" required type="email" /></label></p>
            <p><label>Message <input name="text" size="60" required autocomplete="off" /></label> <button>Say it</button></p>
          </form>
          <p>Write “find” and a search, an address of an asset, or “help”. What is for you alone is shown once you say who you are.</p>
          ${seenBy(as)
            .toReversed()
            .map(
              ({ from, text, at, link, only }) =>
                html`<article>
                  <p><strong>${from}</strong>, <time>${at}</time>${only === null ? '' : `, to ${only} alone`}</p>
                  <pre>${linked(text)}</pre>
                  ${link === null ? '' : html`<p><a href="${link}">${link}</a></p>`}
                </article>`,
            )}`,
      ),
    );
  });
  return router;
}
