import { createServer, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { addLink } from '../src/catalog/links.ts';
import { pageHead } from '../src/catalog/pageHead.ts';
import { isNamed, linkPreviews } from '../src/catalog/previews.ts';
import { freshDatabase, refused, staffed } from './place.ts';

const PAGE = `<!doctype html><html><head>
  <title>Of the
    title</title><meta name="description" content="Said plainly">
  <meta property="og:title" content="What the counters ask for &amp; why"><meta property="og:site_name" content="Ashore">
  </head><body><meta property="og:description" content="not in the head"></body></html>`;

describe('what a page says of itself', () => {
  it('is read out of its head, the best said first', () => {
    expect(pageHead(PAGE)).toEqual({
      title: 'What the counters ask for & why',
      text: 'Said plainly',
      site: 'Ashore',
    });
    expect(pageHead('<title>Of the\n  <b>title</title>')).toEqual({ title: 'Of the <b>title', text: null, site: null });
    expect(pageHead(`<title>${'long '.repeat(200)}`)).toEqual({ title: null, text: null, site: null });
    expect(pageHead(`<title>${'long '.repeat(200)}</title>`).title).toMatch(/^long .{190,}…$/);
  });

  it('is a text or nothing, whatever the page is made of', () => {
    const piece = fc.oneof(
      fc.constantFrom(
        '<',
        '>',
        '</',
        '"',
        "'",
        '<title>',
        '</title>',
        '<meta property=og:title content=',
        '<!--',
        '-->',
        '<body',
        '\0',
        '&#x;',
        '<![CDATA[',
      ),
      fc.string({ unit: 'binary', maxLength: 8 }),
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
        for (const said of Object.values(pageHead(pieces.join(''))))
          expect(said === null || (typeof said === 'string' && said.length > 0 && said.length <= 300)).toBe(true);
      }),
      { numRuns: 500 },
    );
  });
});

describe('places that may be asked', () => {
  it.each([
    [['wiki.example.org'], 'https://wiki.example.org/a', true],
    [['wiki.example.org'], 'https://WIKI.example.org/a', true],
    [['wiki.example.org'], 'https://wiki.example.org:8443/a', false],
    [['wiki.example.org:8443'], 'https://wiki.example.org:8443/a', true],
    [['wiki.example.org'], 'https://wiki.example.org.evil.test/', false],
    [['*.example.org'], 'https://a.b.example.org/', true],
    [['*.example.org'], 'https://example.org/', false],
    [['*.example.org'], 'https://badexample.org/', false],
    [['*.example.org'], 'https://a.example.org:9000/', false],
    [[], 'https://wiki.example.org/', false],
  ])('%j: %s is %s', (hosts, url, named) => expect(isNamed(hosts, new URL(url))).toBe(named));
});

describe('previews of links', () => {
  let server: Server;
  let other: Server;
  let asked: string[] = [];
  let place: Awaited<ReturnType<typeof freshDatabase>>;
  let home: Awaited<ReturnType<typeof staffed>>;
  let assetId: string;
  const at = (which: Server) => `127.0.0.1:${(which.address() as AddressInfo).port}`;
  const answers: Record<string, (response: ServerResponse) => void> = {
    '/page': (response) => response.setHeader('content-type', 'text/html; charset=utf-8').end(PAGE),
    '/latin': (response) =>
      response
        .setHeader('content-type', 'text/html; charset=iso-8859-1')
        .end(Buffer.from('<title>Hafen f\xfcr alle</title>', 'latin1')),
    '/moved': (response) => response.writeHead(302, { location: '/page' }).end(),
    '/around': (response) => response.writeHead(302, { location: '/around' }).end(),
    '/away': (response) => response.writeHead(302, { location: `http://${at(other)}/secret` }).end(),
    '/closed': (response) => response.writeHead(403).end('no'),
    '/file': (response) => response.setHeader('content-type', 'application/pdf').end('%PDF'),
    '/broken': (response) => response.destroy(),
    '/endless': (response) => {
      response.setHeader('content-type', 'text/html');
      const more = () => {
        while (!response.destroyed && response.write(`<meta name="x" content="${'y'.repeat(60_000)}">`));
      };
      response.on('drain', more);
      more();
    },
  };
  beforeAll(async () => {
    place = await freshDatabase();
    home = await staffed(place.db);
    const listen = (handler: Parameters<typeof createServer>[1]) =>
      new Promise<Server>((resolve) => {
        const made = createServer(handler as never).listen(0, '127.0.0.1', () => resolve(made));
      });
    server = await listen(((request: { url: string; headers: object }, response: ServerResponse) => {
      asked.push(
        `${request.url} ${'cookie' in request.headers || 'authorization' in request.headers ? 'known' : ''}`.trim(),
      );
      (answers[request.url] ?? ((one) => one.writeHead(404).end()))(response);
    }) as never);
    other = await listen(((_request: unknown, response: ServerResponse) => {
      asked.push('other');
      response.setHeader('content-type', 'text/html').end('<title>secret</title>');
    }) as never);
    const [asset] = await place.db.rows<{ id: string }>(
      `insert into asset (source_id, domain_id, key, kind, name, depth, native) values ($1, $2, 'db', 'database', 'db', 0, '{}') returning id`,
      [home.sourceId, home.domainId],
    );
    assetId = asset?.id ?? '';
  });
  afterAll(async () => {
    server.closeAllConnections();
    server.close();
    other.close();
    await place.drop();
  });

  it('are what the pages say, or why they say nothing; no other place is asked', async () => {
    const link = (path: string, host = at(server)) =>
      place.db.transaction((tx) =>
        addLink(tx, home.editor, assetId, { kind: 'document', title: path, url: `http://${host}${path}` }),
      );
    const ids = new Map<string, string>();
    for (const path of [...Object.keys(answers), '/gone']) ids.set((await link(path)).id, path);
    await link('/not named', at(other));
    await place.db.transaction((tx) =>
      addLink(tx, home.editor, assetId, { kind: 'document', title: 'mail', url: 'mailto:a@example.org' }),
    );
    const config = { previewHosts: [at(server)] };
    const found = await linkPreviews(place.db, config, home.reader, assetId);
    const by = Object.fromEntries(
      found.map(({ linkId, title, text, problem }) => [ids.get(linkId), problem ?? [title, text]]),
    );
    expect(by).toEqual({
      '/page': ['What the counters ask for & why', 'Said plainly'],
      '/latin': ['Hafen für alle', null],
      '/moved': ['What the counters ask for & why', 'Said plainly'],
      '/around': 'It leads elsewhere, where nothing is asked.',
      '/away': 'It leads elsewhere, where nothing is asked.',
      '/closed': 'It asks who you are.',
      '/file': 'It is no page.',
      '/broken': 'It does not answer.',
      '/endless': [null, null],
      '/gone': 'The page is not there any more (404).',
    });
    expect(asked).not.toContain('other');
    expect(asked.filter((one) => one.endsWith('known'))).toEqual([]);
    // What was looked at is kept a while: nobody's page is asked for by everybody who looks.
    asked = [];
    expect(await linkPreviews(place.db, config, home.editor, assetId)).toEqual(found);
    expect(asked).toEqual([]);
  });

  it('are for those who see the asset, and nobody else', async () => {
    const config = { previewHosts: [at(server)] };
    expect((await refused(linkPreviews(place.db, config, home.stranger, assetId)))?.status).toBe(404);
  });
});
