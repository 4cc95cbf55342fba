import type { eventEndpoints } from '@idrel/contract/exchange';
import type { QueryOf } from '@idrel/contract/http';
import { type Who, whoByKey, whoOfSession } from '../people/index.ts';
import type { Handler } from '../platform/api.ts';
import type { Database } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';
import { type Ask, lastPlace, placeEvents, readEvents } from './events.ts';

/** So often it is looked for what is new, and whether who follows still may; in milliseconds. */
const [LOOKS, STILL] = [500, 15_000];
const AT_ONCE = 500;
/** So many streams are open at a server, of one person and of all. */
const [STREAMS_EACH, STREAMS] = [10, 500];

/** What is asked for of events, by the query of an operation. */
export const asked = ({ kind, ...ask }: QueryOf<typeof eventEndpoints.stream>): Ask => ({
  ...ask,
  kinds: kind === undefined ? [] : [kind],
});

/** Streams that are open here, by person. */
class Streams {
  readonly #open = new Map<string, number>();
  #all = 0;

  /** @throws 429 when there are as many as may be */
  begin(personId: string): void {
    const own = this.#open.get(personId) ?? 0;
    if (own >= STREAMS_EACH || this.#all >= STREAMS)
      throw new ApiProblem(
        'too-many-streams',
        own >= STREAMS_EACH
          ? `You follow ${STREAMS_EACH} streams of events already.`
          : `${STREAMS} streams of events are open already.`,
        { mend: 'Close one, or ask with `GET /events` now and then.' },
      );
    this.#open.set(personId, own + 1);
    this.#all += 1;
  }

  end(personId: string): void {
    const own = (this.#open.get(personId) ?? 1) - 1;
    if (own > 0) this.#open.set(personId, own);
    else this.#open.delete(personId);
    this.#all -= 1;
  }
}

/** Sends events as they come, until whoever follows goes away, or may no more. @param source where this Idrel is reached */
export function eventStream(db: Database, source: string): Handler<typeof eventEndpoints.stream> {
  const streams = new Streams();
  return async ({ who, query, request, response, left }) => {
    const session = String(response.locals.session ?? '');
    /** Who follows, with the rights as they are now; undefined once the session or the key has ended. */
    const still = () => (who.key ? whoByKey(db, who.key.id) : whoOfSession(db, session));
    const again = /^\d{1,16}$/.exec(request.get('last-event-id') ?? '')?.[0];
    let after = again === undefined ? query.after : Number(again);
    streams.begin(who.id);
    try {
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
      let following: Who | undefined = who;
      while (!left.aborted) {
        await placeEvents(db);
        const last = await lastPlace(db);
        if (Date.now() - seenAt > STILL) {
          following = await still();
          seenAt = Date.now();
          if (!following) break;
        }
        while (!left.aborted && after < last) {
          // Each page is for whoever may see it then.
          following = await still();
          seenAt = Date.now();
          if (!following) break;
          const { events, next } = await readEvents(db, following, source, { ...asked(query), after }, AT_ONCE);
          const text = events
            .map((event) => `id: ${Number(event.sequence)}\ndata: ${JSON.stringify(event)}\n\n`)
            .join('');
          // Whoever reads slowly is waited for: nothing piles up here.
          if (text !== '' && !response.write(text)) await drained(response, left);
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
    } finally {
      streams.end(who.id);
    }
  };
}

/** Waits until what was written has gone out, or whoever read it has. */
const drained = (response: { once(event: 'drain' | 'close', heard: () => void): unknown }, left: AbortSignal) =>
  left.aborted
    ? Promise.resolve()
    : new Promise<void>((resolve) => {
        response.once('drain', resolve);
        response.once('close', resolve);
      });
