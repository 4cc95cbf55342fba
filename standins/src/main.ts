import { startStandIns } from './index.ts';

const { IDREL_STANDINS_FOLDER = '', IDREL_STANDINS_PORT = '' } = process.env;
if (!IDREL_STANDINS_FOLDER || !IDREL_STANDINS_PORT)
  throw new Error('IDREL_STANDINS_FOLDER and IDREL_STANDINS_PORT must be set.');
const { server, port } = await startStandIns(IDREL_STANDINS_FOLDER, Number(IDREL_STANDINS_PORT));
process.stdout.write(`The stand-ins listen at http://127.0.0.1:${port}\n`);
process.on('SIGTERM', () => {
  server.close(() => process.exit(0));
  server.closeAllConnections();
});
