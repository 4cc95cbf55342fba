import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { fileURLToPath } from 'node:url';
import { DESCRIBED_AS, DESCRIBED_MANY_AS } from '@idrel/contract/exchange';
import compression from 'compression';
import escapeHtml from 'escape-html';
import express, { type Express, type NextFunction, type Request, type Response, Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import packedStatic from 'express-static-gzip';
import helmet from 'helmet';
import { accessRoutes, POLICIES_HELD, POLICY_CLASS_USE, REQUESTS_HELD } from './access/index.ts';
import { cardAt, catalogRoutes, SEARCHES_HELD, type WithFinder } from './catalog/index.ts';
import { coverageRoutes } from './coverage/index.ts';
import { ASSETS_HELD, curationRoutes, trackerOnly } from './curation/index.ts';
import { chatOnly, exchangeRoutes, WEBHOOKS_HELD } from './exchange/index.ts';
import { openApi } from './exchange/openapi.ts';
import { GLOSSARY_HELD, glossaryRoutes, TERM_CLASS_USE } from './glossary/index.ts';
import { journalRoutes } from './journal/index.ts';
import { lineageRoutes, VIEWS_HELD } from './lineage/index.ts';
import { pageFor } from './pages.ts';
import { DOMAINS_HELD, keysOfPrograms, peopleRoutes, sessions } from './people/index.ts';
import type { Context } from './platform/context.ts';
import type { Db } from './platform/database.ts';
import { once } from './platform/idempotent.ts';
import { ApiProblem, toApiProblem, toProblem } from './platform/problems.ts';
import { recognitionRoutes } from './recognition/index.ts';
import { ROUTINE_CLASS_USE, ROUTINES_HELD, routineRoutes } from './routines/index.ts';
import { agentsOnly, pipelinesOnly, scanRoutes } from './scanning/index.ts';
import { sourceRoutes } from './sources/index.ts';
import { worklistRoutes } from './worklist/index.ts';
import { writingRoutes } from './writing/index.ts';

const WEB = fileURLToPath(new URL('../../web/dist/', import.meta.url));

/** Smaller answers are not worth compressing. */
const COMPRESSED_FROM = 4096;
/** What is told bit by bit must not wait until there is enough of it to compress. */
const toldBitByBit = (response: Response) =>
  /event-stream|ndjson/.test(String(response.getHeader('content-type') ?? ''));

/** The whole server as one Express application: API below /api/v1, the built interface elsewhere. */
export function makeApp(context: WithFinder): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          'default-src': ["'self'"],
          'style-src': ["'self'", "'unsafe-inline'"],
          'img-src': ["'self'", 'data:'],
          'worker-src': ["'self'", 'blob:'],
          'object-src': ["'none'"],
          'base-uri': ["'none'"],
          'frame-ancestors': ["'none'"],
          'form-action': ["'self'"],
        },
      },
      strictTransportSecurity: context.config.secureCookies,
    }),
  );
  const loop = monitorEventLoopDelay({ resolution: 5 });
  loop.enable();
  app.get('/health', async (_request, response) => {
    // The longest that the server could answer nobody, since this was asked last.
    const longestWaitMs = Math.round(loop.max / 1e6);
    loop.reset();
    await context.db.one('select 1 as yes');
    response.json({ state: 'well', longestWaitMs });
  });
  app.use(
    compression({
      threshold: COMPRESSED_FROM,
      filter: (request, response) => !toldBitByBit(response) && compression.filter(request, response),
    }),
  );
  const operations = api(context);
  app.use('/api/v1', operations);
  app.get(/^\/(?:assets\/[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}$|at\/)/, negotiated(operations));
  if (existsSync(WEB)) {
    // Packed when it was built.
    app.use(
      '/assets',
      packedStatic(join(WEB, 'assets'), {
        enableBrotli: true,
        orderPreference: ['br', 'gzip'],
        index: false,
        serveStatic: { immutable: true, maxAge: '1y' },
      }),
    );
    app.use(express.static(WEB, { index: false }));
    app.get(/^\/(assets|at)\//, unfurled(context));
    app.use(async (request, response, next) => {
      if (request.method !== 'GET' || !request.accepts('html')) next();
      else
        response
          .set('cache-control', 'no-cache')
          .type('html')
          .send(await pageFor(WEB, request.path));
    });
  }
  app.use(() => {
    throw new ApiProblem('not-found', 'There is nothing at this address.');
  });
  app.use(answerProblem(context));
  return app;
}

/** Those that hold of any asset, as its page links to them. */
const NEGOTIATED_LINKS = DESCRIBED_MANY_AS.map((as) => ({ as, type: DESCRIBED_AS[as].type }));
/** Formats that an address of an asset is served in beside the page, by their media types. */
const NEGOTIATED = new Map(Object.entries(DESCRIBED_AS).map(([as, { type }]) => [type as string, as]));

/** An asset at its own address, for who would rather have it in an open format than as a page: as the operation for it answers. */
const negotiated =
  (operations: Router) =>
  (request: Request, response: Response, next: NextFunction): void => {
    response.vary('Accept');
    const type = request.accepts(['text/html', ...NEGOTIATED.keys()]);
    if (!type)
      throw new ApiProblem('other-format', 'It is not served in a format that was asked for.', {
        mend: `Ask for one of ${['text/html', ...NEGOTIATED.keys()].join(', ')}.`,
      });
    const as = NEGOTIATED.get(type);
    if (as === undefined) {
      next();
      return;
    }
    request.url = `/described?${new URLSearchParams({ as, address: request.path })}`;
    operations(request, response, next);
  };

/** The page at an address of an asset, with what it shows where it is pasted: Open Graph, and the way to ask by oEmbed. */
const unfurled =
  ({ db }: Context) =>
  async (request: Request, response: Response, next: NextFunction): Promise<void> => {
    if (!request.accepts('html')) {
      next();
      return;
    }
    const page = await pageFor(WEB, request.path);
    const { title, description } = await cardAt(db, request.path);
    const address = `${request.protocol}://${request.get('host') ?? ''}${request.path}`;
    const oembed = `/api/v1/oembed?url=${encodeURIComponent(address)}`;
    const tags = [
      ['og:site_name', 'Idrel'],
      ['og:type', 'website'],
      ['og:title', title],
      ['og:description', description],
      ['og:url', address],
    ].map(([property = '', content = '']) => `<meta property="${property}" content="${escapeHtml(content)}" />`);
    const described = NEGOTIATED_LINKS.map(
      ({ as, type }) =>
        `<link rel="alternate" type="${type}" href="/api/v1/described?${escapeHtml(new URLSearchParams({ as, address: request.path }).toString())}" />`,
    );
    const link = `<link rel="alternate" type="application/json+oembed" href="${escapeHtml(oembed)}" title="${escapeHtml(title)}" />`;
    // Written by a function: a dollar sign in a title means nothing more.
    response
      .set('cache-control', 'no-cache')
      .type('html')
      .send(page.replace('</head>', () => `    ${[...tags, ...described, link].join('\n    ')}\n  </head>`));
  };
/** What people can hold, and what becomes of it when they leave. */
const HELD = [
  ...ASSETS_HELD,
  ...DOMAINS_HELD,
  ...GLOSSARY_HELD,
  ...ROUTINES_HELD,
  ...SEARCHES_HELD,
  ...WEBHOOKS_HELD,
  ...VIEWS_HELD,
  ...POLICIES_HELD,
  ...REQUESTS_HELD,
];

const AREAS = [
  (router: Router, context: WithFinder) => peopleRoutes(router, context, HELD),
  sourceRoutes,
  scanRoutes,
  (router: Router, context: WithFinder) =>
    recognitionRoutes(router, context, [POLICY_CLASS_USE, ROUTINE_CLASS_USE, TERM_CLASS_USE]),
  catalogRoutes,
  curationRoutes,
  writingRoutes,
  glossaryRoutes,
  lineageRoutes,
  accessRoutes,
  journalRoutes,
  exchangeRoutes,
  worklistRoutes,
  coverageRoutes,
  routineRoutes,
];

/** Ties every operation of every area to its code. */
export function tieAll(router: Router, context: WithFinder): void {
  for (const routes of AREAS) routes(router, context);
}

/** The host that a page's origin names; undefined for one that is none (`null`, as sandboxed pages send). */
function hostOf(origin: string): string | undefined {
  try {
    return new URL(origin).host;
  } catch {
    return undefined;
  }
}

function api(context: WithFinder): Router {
  const router = Router();
  router.use((request, _response, next) => {
    const origin = request.get('origin');
    if (origin && !['GET', 'HEAD'].includes(request.method) && hostOf(origin) !== request.get('host'))
      throw new ApiProblem('foreign-origin', 'A page of another site may not change anything here.');
    next();
  });
  const tries = rateLimit({
    windowMs: 60_000,
    limit: context.config.demo ? 600 : 20,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: () => {
      throw new ApiProblem('too-many-tries', 'Too many tries to sign in.', { mend: 'Wait a minute.' });
    },
  });
  router.post('/session', tries);
  router.post(/^\/password-links/, tries);
  router.put('/password', tries);
  // Who asks is known before a byte of what they send is read.
  router.use('/agent', agentsOnly(context));
  router.post('/lineage', pipelinesOnly(context));
  router.use('/chat', chatOnly(context));
  router.use('/tracker', trackerOnly(context));
  router.use((_request, response, next) => {
    response.locals.once = (...given: Parameters<typeof once> extends [Db, ...infer Rest] ? Rest : never) =>
      once(context.db, ...given);
    next();
  });
  router.use(keysOfPrograms(context.db));
  router.use(sessions(context.db));
  router.get('/openapi.json', (_request, response) => void response.json(openApi()));
  router.use((_request, response, next) => {
    response.set('cache-control', 'no-store');
    next();
  });
  tieAll(router, context);
  router.use(() => {
    throw new ApiProblem('not-found', 'There is no operation at this address.', {
      mend: 'All operations stand in /api/v1/openapi.json.',
    });
  });
  return router;
}

const answerProblem =
  ({ log }: Context) =>
  (error: unknown, request: Request, response: Response, next: NextFunction): void => {
    if (response.headersSent) {
      next(error);
      return;
    }
    const problem = toApiProblem(error);
    if (problem.status >= 500) log.error({ err: error }, 'request failed');
    // What was not read of the body is not waited for.
    if (!request.complete) response.set('connection', 'close');
    response.status(problem.status).type('application/problem+json').json(toProblem(problem));
  };
