import { startStandIns } from './index.ts';

const {
  IDREL_STANDINS_FOLDER = '',
  IDREL_STANDINS_PORT = '',
  IDREL_STANDINS_MAIL_PORT = '0',
  IDREL_ADDRESS = '',
  IDREL_CHAT_SECRET: chatSecret = '',
  IDREL_TRACKER_SECRET: trackerSecret = '',
  IDREL_OIDC_CLIENT_ID: id = '',
  IDREL_OIDC_CLIENT_SECRET: secret = '',
} = process.env;
if (!IDREL_STANDINS_FOLDER || !IDREL_STANDINS_PORT)
  throw new Error('IDREL_STANDINS_FOLDER and IDREL_STANDINS_PORT must be set.');
const { server, port } = await startStandIns(IDREL_STANDINS_FOLDER, Number(IDREL_STANDINS_PORT), {
  mailPort: Number(IDREL_STANDINS_MAIL_PORT),
  partner: chatSecret ? { address: IDREL_ADDRESS, secret: chatSecret } : undefined,
  tickets: trackerSecret ? { address: IDREL_ADDRESS, secret: trackerSecret } : undefined,
  client: id ? { id, secret, back: `${IDREL_ADDRESS}/api/v1/sign-in/outside/back` } : undefined,
});
process.stdout.write(`The stand-ins listen at http://127.0.0.1:${port}\n`);
process.on('SIGTERM', () => {
  server.close(() => process.exit(0));
  server.closeAllConnections();
});
