import { eventEndpoints, newsEndpoints, webhookEndpoints } from '@idrel/contract/exchange';
import type { QueryOf } from '@idrel/contract/http';
import type { Router } from 'express';
import { whoByKey, whoOfSession } from '../people/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { type Ask, lastPlace, placeEvents, readEvents } from './events.ts';
import { listNews, readNews } from './news.ts';
import { changeSubscription, endSubscription, listSubscriptions, subscribe } from './subscriptions.ts';
import {
  changeWebhook,
  listWebhooks,
  makeWebhook,
  messagesOf,
  removeWebhook,
  renewSecret,
  sendAgain,
  sendFrom,
  tryWebhook,
} from './webhooks.ts';

/** So often it is looked for what is new, and whether who follows still may; in milliseconds. */
const [LOOKS, STILL] = [500, 15_000];
const AT_ONCE = 500;

const asked = ({ kind, ...ask }: QueryOf<typeof eventEndpoints.stream>): Ask => ({
  ...ask,
  kinds: kind === undefined ? [] : [kind],
});

export function exchangeRoutes(router: Router, { db, config }: Context): void {
  const source = config.address ?? '/';
  serve(router, eventEndpoints.list, async ({ who, query: { limit, ...query } }) => {
    await placeEvents(db);
    return readEvents(db, who, source, asked(query), limit);
  });

  serve(router, eventEndpoints.stream, async ({ who, query, request, response }) => {
    const session = String(response.locals.session ?? '');
    /** Who follows, with the rights as they are now; undefined once the session or the key has ended. */
    const still = () => (who.key ? whoByKey(db, who.key.id) : whoOfSession(db, session));
    const again = /^\d{1,16}$/.exec(request.get('last-event-id') ?? '')?.[0];
    let after = again === undefined ? query.after : Number(again);
    // What is wrong with the place is told before anything is sent.
    await placeEvents(db);
    await readEvents(db, who, source, { ...asked(query), after }, 1);
    response.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-cache, no-transform',
      'x-accel-buffering': 'no',
    });
    response.write(': following\n\n');
    let seenAt = Date.now();
    let saidAt = Date.now();
    let following: typeof who | undefined = who;
    let ended = false;
    request.on('close', () => {
      ended = true;
    });
    while (!ended) {
      await placeEvents(db);
      const last = await lastPlace(db);
      if (Date.now() - seenAt > STILL) {
        following = await still();
        seenAt = Date.now();
        if (!following) break;
      }
      while (!ended && after < last) {
        // Each page is for whoever may see it then.
        following = await still();
        seenAt = Date.now();
        if (!following) break;
        const { events, next } = await readEvents(db, following, source, { ...asked(query), after }, AT_ONCE);
        const text = events
          .map((event) => `id: ${Number(event.sequence)}\ndata: ${JSON.stringify(event)}\n\n`)
          .join('');
        // Whoever reads slowly is waited for: nothing piles up here.
        if (text !== '' && !response.write(text)) await drained(response, () => ended);
        if (text !== '') saidAt = Date.now();
        after = next;
      }
      if (!following) break;
      if (Date.now() - saidAt > STILL) {
        // Where nothing came that concerns them, the place goes on all the same.
        response.write(`id: ${after}\n: still here\n\n`);
        saidAt = Date.now();
      }
      await new Promise((resolve) => setTimeout(resolve, LOOKS));
    }
    response.end();
  });

  serve(router, newsEndpoints.list, ({ who, query }) => listNews(db, who, query));
  serve(router, newsEndpoints.read, ({ who, body }) => db.transaction((tx) => readNews(tx, who, body.upTo)));
  serve(router, newsEndpoints.subscriptions, ({ who }) => listSubscriptions(db, config, who));
  serve(router, newsEndpoints.subscribe, ({ who, body }) => subscribe(db, who, body));
  serve(router, newsEndpoints.change, ({ who, params, version, body }) =>
    db.transaction((tx) => changeSubscription(tx, who, params.id, version, body)),
  );
  serve(router, newsEndpoints.end, ({ who, params }) => db.transaction((tx) => endSubscription(tx, who, params.id)));
  serve(router, webhookEndpoints.list, ({ who }) => listWebhooks(db, who));
  serve(router, webhookEndpoints.make, ({ who, body }) => makeWebhook(db, config, who, body));
  serve(router, webhookEndpoints.change, ({ who, params, version, body }) =>
    db.transaction((tx) => changeWebhook(tx, who, params.id, version, body)),
  );
  serve(router, webhookEndpoints.remove, ({ who, params }) =>
    db.transaction((tx) => removeWebhook(tx, who, params.id)),
  );
  serve(router, webhookEndpoints.secret, ({ who, params, body }) =>
    db.transaction((tx) => renewSecret(tx, config, who, params.id, body.hours)),
  );
  serve(router, webhookEndpoints.try, ({ who, params }) => tryWebhook(db, config, who, params.id));
  serve(router, webhookEndpoints.messages, ({ who, params, query }) => messagesOf(db, who, params.id, query));
  serve(router, webhookEndpoints.again, ({ who, params, body }) =>
    db.transaction((tx) => sendAgain(tx, who, params.id, body.messages)),
  );
  serve(router, webhookEndpoints.from, ({ who, params, body }) =>
    db.transaction((tx) => sendFrom(tx, who, params.id, body.after)),
  );
}

/** Waits until what was written has gone out, or whoever read it has. */
const drained = (response: { once(event: 'drain' | 'close', heard: () => void): unknown }, gone: () => boolean) =>
  gone()
    ? Promise.resolve()
    : new Promise<void>((resolve) => {
        response.once('drain', resolve);
        response.once('close', resolve);
      });
