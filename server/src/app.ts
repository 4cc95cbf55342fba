import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import compression from 'compression';
import express, { type Express, type NextFunction, type Request, type Response, Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import helmet from 'helmet';
import { accessRoutes } from './access/index.ts';
import { catalogRoutes } from './catalog/index.ts';
import { coverageRoutes } from './coverage/index.ts';
import { curationRoutes } from './curation/index.ts';
import { openApi } from './exchange/openapi.ts';
import { glossaryRoutes } from './glossary/index.ts';
import { journalRoutes } from './journal/index.ts';
import { lineageRoutes } from './lineage/index.ts';
import { peopleRoutes, sessions } from './people/index.ts';
import type { Context } from './platform/context.ts';
import { ApiProblem, toProblem } from './platform/problems.ts';
import { recognitionRoutes } from './recognition/index.ts';
import { routineRoutes } from './routines/index.ts';
import { scanRoutes } from './scanning/index.ts';
import { sourceRoutes } from './sources/index.ts';
import { worklistRoutes } from './worklist/index.ts';

const WEB = fileURLToPath(new URL('../../web/dist/', import.meta.url));

/** The whole server as one Express application: API below /api/v1, the built interface elsewhere. */
export function makeApp(context: Context): Express {
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
  app.get('/health', async (_request, response) => {
    await context.db.one('select 1 as yes');
    response.json({ state: 'well' });
  });
  app.use('/api/v1', api(context));
  if (existsSync(WEB)) {
    app.use(compression());
    app.use('/assets', express.static(join(WEB, 'assets'), { immutable: true, maxAge: '1y' }));
    app.use(express.static(WEB, { index: false }));
    app.use((request, response, next) => (request.method === 'GET' && request.accepts('html') ? response.sendFile(join(WEB, 'index.html')) : next()));
  }
  app.use(() => {
    throw new ApiProblem(404, 'not-found', 'There is nothing at this address.');
  });
  app.use(answerProblem(context));
  return app;
}

function api(context: Context): Router {
  const router = Router();
  router.use((request, _response, next) => {
    const origin = request.get('origin');
    if (origin && !['GET', 'HEAD'].includes(request.method) && new URL(origin).host !== request.get('host'))
      throw new ApiProblem(403, 'foreign-origin', 'A page of another site may not change anything here.');
    next();
  });
  // What programs push of a source, an example file, and a list of values are larger than what a form sends.
  router.use(['/sources/:id/push', '/example-file', '/own-detectors', '/detectors-file', '/detector-trials'], express.json({ limit: '64mb' }));
  router.use(express.json({ limit: '4mb' }));
  router.post(
    '/session',
    rateLimit({
      windowMs: 60_000,
      limit: context.config.demo ? 600 : 20,
      standardHeaders: 'draft-8',
      legacyHeaders: false,
      handler: () => {
        throw new ApiProblem(429, 'too-many-tries', 'Too many tries to sign in.', { mend: 'Wait a minute.' });
      },
    }),
  );
  router.use(sessions(context.db));
  router.get('/openapi.json', (_request, response) => void response.json(openApi()));
  router.use((_request, response, next) => {
    response.set('cache-control', 'no-store');
    next();
  });
  for (const routes of [
    peopleRoutes,
    sourceRoutes,
    scanRoutes,
    recognitionRoutes,
    catalogRoutes,
    curationRoutes,
    glossaryRoutes,
    lineageRoutes,
    accessRoutes,
    journalRoutes,
    worklistRoutes,
    coverageRoutes,
    routineRoutes,
  ])
    routes(router, context);
  return router;
}

const answerProblem =
  ({ log }: Context) =>
  (error: unknown, _request: Request, response: Response, next: NextFunction): void => {
    if (response.headersSent) {
      next(error);
      return;
    }
    const { type, status } = error as { type?: string; status?: number };
    let problem = error instanceof ApiProblem ? error : undefined;
    if (type === 'entity.parse.failed') problem = new ApiProblem(400, 'not-json', 'The body is not JSON.', { mend: 'Send application/json.' });
    if (type === 'entity.too.large') problem = new ApiProblem(413, 'too-large', 'The body is larger than it may be: 4 MB, or 64 MB for a push.', { mend: 'Send it in parts.' });
    if (!problem && status === 400) problem = new ApiProblem(400, 'bad-request', 'The request cannot be read.');
    if (!problem) {
      log.error({ err: error }, 'request failed');
      problem = new ApiProblem(500, 'internal', 'Something went wrong in Idrel itself; nothing was changed.', { mend: 'Try again; the log of the server says more.' });
    }
    response.status(problem.status).type('application/problem+json').json(toProblem(problem));
  };
