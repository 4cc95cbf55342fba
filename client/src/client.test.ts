import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, describe, expect, it } from 'vitest';
import { connect, type Line, Refusal } from './index.ts';

// The client against a server that answers as it is told: what it sends, and what it makes of answers that break.
let server: Server | undefined;
afterEach(() => {
  server?.closeAllConnections();
  server?.close();
});
const serving = async (answer: (request: IncomingMessage, response: ServerResponse) => void) => {
  server = createServer(answer);
  await new Promise<void>((resolve) => server?.listen(0, '127.0.0.1', resolve));
  return connect(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`, { key: 'idrel_key_x' });
};
const bodyOf = async (request: IncomingMessage) => {
  let text = '';
  for await (const piece of request) text += String(piece);
  return text;
};
const line = (nth: number): Line => ({ tag: { name: `tag ${nth}` } });
const all = async <T, R>(sent: AsyncGenerator<T, R>): Promise<[T[], R]> => {
  const items: T[] = [];
  for (;;) {
    const { value, done } = await sent.next();
    if (done) return [items, value];
    items.push(value);
  }
};

describe('an operation', () => {
  it('is a method in its group, asked by the key, with its version and its query', async () => {
    const seen: string[] = [];
    const idrel = await serving(async (request, response) => {
      const { authorization, 'if-match': match } = request.headers;
      seen.push(`${request.method} ${request.url} ${authorization} ${match} ${await bodyOf(request)}`);
      response.setHeader('content-type', 'application/json').end('{"items":[],"total":7,"next":null}');
    });
    expect((await idrel.catalog.list({ query: { filter: 'kind:table' } })).total).toBe(7);
    await idrel.curation.edit({ params: { id: 'a b' }, version: 3, body: { description: 'x' } });
    expect(seen).toEqual([
      'GET /api/v1/assets?filter=kind%3Atable Bearer idrel_key_x undefined ',
      'PATCH /api/v1/assets/a%20b Bearer idrel_key_x "v3" {"description":"x"}',
    ]);
  });

  it('that is answered with a document is an answer to be read as it comes', async () => {
    const idrel = await serving((request, response) => {
      response.setHeader('content-type', 'text/turtle').end(`# ${request.url}`);
    });
    const response = await idrel.described.one({ query: { address: '/at/a b', as: 'ttl' } });
    expect(await response.text()).toBe('# /api/v1/described?address=%2Fat%2Fa+b&as=ttl');
    expect(Object.keys(idrel.event)).toEqual(['list']);
    expect(Object.hasOwn(idrel, 'line') && Object.keys(idrel.line)).toEqual([]);
  });

  it('that is refused says why in the words of the server', async () => {
    const idrel = await serving((_request, response) => {
      response.statusCode = 422;
      response.end('{"code":"invalid","detail":"It does not fit.","mend":"Make it fit."}');
    });
    const refusal = await idrel.tag.list().catch((error: unknown) => error);
    expect(refusal).toBeInstanceOf(Refusal);
    expect(refusal).toMatchObject({ status: 422, code: 'invalid', mend: 'Make it fit.' });
  });

  it('is asked again when the server says how long to wait', async () => {
    let asked = 0;
    const idrel = await serving((_request, response) => {
      asked += 1;
      if (asked === 1) {
        response.statusCode = 429;
        response.setHeader('retry-after', '1').end('{"code":"too-many-calls","detail":"Wait."}');
      } else response.end('[]');
    });
    expect(await idrel.tag.list()).toEqual([]);
    expect(asked).toBe(2);
  });
});

describe('lines', () => {
  const answered = (response: ServerResponse, lines: number, end = true) => {
    for (let nth = 1; nth <= lines; nth += 1) response.write(`${JSON.stringify({ line: nth, outcome: 'made' })}\n`);
    if (end) response.write(`${JSON.stringify({ end: true, lines, made: lines, changed: 0, same: 0, refused: 0 })}\n`);
    response.end();
  };

  it('are sent as they are made, and each is answered', async () => {
    let got = '';
    const idrel = await serving(async (request, response) => {
      got = await bodyOf(request);
      answered(response, 5000);
    });
    async function* made() {
      for (let nth = 0; nth < 5000; nth += 1) yield line(nth);
    }
    const [answers, end] = await all(idrel.send(made()));
    expect(answers.map((answer) => answer.line)).toEqual(Array.from({ length: 5000 }, (_, nth) => nth + 1));
    expect(end.made).toBe(5000);
    expect(
      got
        .trimEnd()
        .split('\n')
        .map((text) => JSON.parse(text)),
    ).toEqual(Array.from({ length: 5000 }, (_, nth) => line(nth)));
  });

  it('of which the answer breaks off are told to be sent again', async () => {
    const idrel = await serving(async (request, response) => {
      await bodyOf(request);
      answered(response, 2, false);
    });
    await expect(all(idrel.send([line(1), line(2), line(3)]))).rejects.toThrow('broke off');
  });

  it('that whoever makes them cannot make are not taken for all', async () => {
    const idrel = await serving(async (request, response) => {
      await bodyOf(request).catch(() => undefined);
      answered(response, 1);
    });
    // biome-ignore lint/correctness/useYield: it fails before it has one
    async function* broken(): AsyncGenerator<Line> {
      throw new Error('cannot be made');
    }
    await expect(all(idrel.send(broken()))).rejects.toThrow();
  });
});

describe('events', () => {
  it('go on behind the last that was heard, when the connection breaks', async () => {
    const began: (string | undefined)[] = [];
    const idrel = await serving((request, response) => {
      began.push(request.headers['last-event-id'] as string | undefined);
      const from = began.length * 10;
      response.write(`: following\n\nid: ${from}\ndata: {"id":"${from}"}\n\nid: ${from + 1}\nda`);
      if (began.length < 3) setTimeout(() => response.destroy(), 20);
    });
    const ending = new AbortController();
    const heard: string[] = [];
    for await (const event of idrel.follow({ after: 5 }, { signal: ending.signal })) {
      heard.push(event.id);
      if (heard.length === 3) ending.abort();
    }
    expect(heard).toEqual(['10', '20', '30']);
    expect(began.slice(0, 3)).toEqual([undefined, '10', '20']);
  });

  it('end when the key does', async () => {
    const idrel = await serving((_request, response) => {
      response.statusCode = 401;
      response.end('{"code":"unknown-key","detail":"It has ended."}');
    });
    await expect(all(idrel.follow({}))).rejects.toMatchObject({ code: 'unknown-key' });
  });
});
