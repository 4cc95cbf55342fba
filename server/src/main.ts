import { openClients } from './access/index.ts';
import { makeApp } from './app.ts';
import { finderClient } from './catalog/index.ts';
import { keepFiguresInTime } from './coverage/index.ts';
import { onStop, openContext } from './platform/start.ts';
import { openThreads } from './platform/threads.ts';

const context = openContext();
await context.signals.open();
const closeThreads = openThreads();
const finder = finderClient(context.config.databaseUrl);
finder.begin();
const server = makeApp({ ...context, finder }).listen(context.config.port, context.config.host, () =>
  context.log.info(`listening on http://${context.config.host}:${context.config.port}`),
);
// Longer than callers and proxies keep their connections: a connection that is closed while somebody sends on it would be an error of nobody's.
server.keepAliveTimeout = 75_000;
const clients = await openClients(context).catch((error: Error) => {
  context.log.fatal(error.message);
  process.exit(1);
});
// Figures of each day are kept by whichever server is there; they follow what assets are in memory.
const keepInTime = () =>
  keepFiguresInTime(context.db, finder).catch((error: unknown) =>
    context.log.error(error, 'the figures of today could not be kept'),
  );
const keeping = setInterval(() => void keepInTime(), 60_000);
server.on('error', (error) => {
  context.log.fatal(error.message);
  process.exit(1);
});
onStop(async () => {
  server.closeAllConnections();
  server.close();
  clearInterval(keeping);
  await clients?.close();
  await closeThreads();
  await finder.close();
  await context.signals.close();
  await context.db.close();
});
