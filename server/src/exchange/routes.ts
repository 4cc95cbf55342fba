import {
  chatEndpoints,
  describedEndpoints,
  eventEndpoints,
  lineEndpoints,
  newsEndpoints,
  webhookEndpoints,
} from '@idrel/contract/exchange';
import type { Router } from 'express';
import type { WithFinder } from '../catalog/index.ts';
import { serve } from '../platform/api.ts';
import { serveLines } from '../platform/lines.ts';
import { repliesTo } from './chat.ts';
import { baseOf, sendDescribed, sendDescribedMany } from './described.ts';
import { placeEvents, readEvents } from './events.ts';
import { linesHandler } from './lines.ts';
import { listNews, readNews } from './news.ts';
import { asked, eventStream } from './stream.ts';
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

export function exchangeRoutes(router: Router, { db, config, finder }: WithFinder): void {
  const source = config.address ?? '/';
  serve(router, eventEndpoints.list, async ({ who, query: { limit, ...query } }) => {
    await placeEvents(db);
    return readEvents(db, who, source, asked(query), limit);
  });

  serve(router, describedEndpoints.one, ({ request, ...asked }) =>
    sendDescribed(db, { ...asked, base: baseOf(config, request) }),
  );
  serve(router, describedEndpoints.many, ({ request, ...asked }) =>
    sendDescribedMany(db, finder, { ...asked, base: baseOf(config, request) }),
  );
  serveLines(router, lineEndpoints.take, linesHandler(db));
  serve(router, eventEndpoints.stream, eventStream(db, source));
  serve(router, chatEndpoints.message, async ({ body }) => ({ replies: await repliesTo(db, finder, config, body) }));
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
