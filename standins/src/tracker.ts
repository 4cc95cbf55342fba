import express, { type Response, Router } from 'express';
import { html, page } from './page.ts';

/** With what a tracker speaks: where it tells how tickets stand, and the secret of both sides. */
export interface TrackerPartner {
  readonly address: string;
  readonly secret: string;
}
interface Kept {
  readonly key: string;
  /** What whoever opened it calls it: given twice, it is one. */
  readonly id: string;
  readonly title: string;
  readonly text: string;
  readonly link: string;
  readonly by: string;
  state: 'open' | 'closed';
}

/**
 * A tracker of tickets: it is given one by `POST /in` (with the secret as a bearer token), answers under which key it has it, and tells {@link TrackerPartner} when somebody
 * closes it or opens it again on its page. At `/tickets` as JSON.
 * @param own where it is reached itself
 */
export function tracker({ address, secret }: TrackerPartner, own: string): Router {
  const tickets: Kept[] = [];
  // It forgets its tickets when it ends, and must not give their keys again.
  const first = Math.floor(Date.now() / 1000) % 10_000_000;
  const router = Router();
  router.post('/in', express.json({ limit: '64kb' }), (request, response: Response) => {
    if (request.get('authorization') !== `Bearer ${secret}`) {
      response.status(401).end();
      return;
    }
    const {
      id = '',
      title = '',
      text = '',
      link = '',
      by = '',
    } = (request.body ?? {}) as Partial<Record<string, string>>;
    const known = tickets.find((ticket) => ticket.id === id);
    const key = known?.key ?? `QUAY-${first + tickets.length}`;
    if (!known) tickets.push({ key, id, title, text, link, by: by ?? '', state: 'open' });
    response.json({ key, url: `${own}/${key}` });
  });
  router.get('/tickets', (_request, response) => void response.json(tickets));
  router.post('/:key', express.urlencoded({ extended: false }), async (request, response) => {
    const ticket = tickets.find(({ key }) => key === request.params.key);
    if (!ticket) {
      response.status(404).end();
      return;
    }
    ticket.state = ticket.state === 'open' ? 'closed' : 'open';
    const { key, state, title } = ticket;
    await fetch(`${address}/api/v1/tracker/tickets`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', authorization: `Bearer ${secret}` },
      body: JSON.stringify({ key, state, title }),
    });
    response.redirect(303, `${own}/${key}`);
  });
  const shown = ({ key, title, text, link, by, state }: Kept) =>
    html`<article>
      <p><strong>${key}: ${title}</strong>, ${state}, opened by ${by}</p>
      <pre>${text}</pre>
      <p><a href="${link}">What it is about</a></p>
      <form method="post" action="${own}/${key}"><button>${state === 'open' ? 'Close it' : 'Open it again'}</button></form>
    </article>`;
  router.get('{/:key}', (request, response) => {
    const { key } = request.params as { key?: string };
    const some = tickets.filter((ticket) => key === undefined || ticket.key === key).toReversed();
    response
      .set('cache-control', 'no-store')
      .send(
        page('Tracker of the demo', html`${some.length === 0 ? html`<p>There is no ticket.</p>` : some.map(shown)}`),
      );
  });
  return router;
}
