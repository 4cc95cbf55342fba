import { rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { checkNode, ensureBuild, ensurePackages, ROOT } from './lib/house.mjs';
import { say, stopWith } from './lib/say.mjs';

checkNode();
const home = join(ROOT, '.idrel');
try {
  ensurePackages();
  ensureBuild();
  const { startIdrel } = await import('./lib/idrel.mjs');
  let stopping = false;
  const stop = async (code = 0) => {
    if (stopping) return;
    stopping = true;
    say('\nStopping …');
    rmSync(join(home, 'running'), { force: true });
    await idrel?.stop();
    process.exit(code);
  };
  let idrel;
  const gaveUp = (label, recent) => {
    say(`The ${label} ends again and again. Its last words:\n${recent}`);
    void stop(1);
  };
  process.on('SIGINT', () => void stop());
  process.on('SIGTERM', () => void stop());
  idrel = await startIdrel({ home, databasePort: 54780, webPort: Number(process.env.IDREL_PORT ?? 4780), gaveUp });
  writeFileSync(join(home, 'running'), String(process.pid));
  say(`\nIdrel is ready at ${idrel.address}`);
  if (idrel.demoPort) {
    say(
      `To register the demo's other sources: Warehouse is PostgreSQL at 127.0.0.1, port ${idrel.demoPort}, database warehouse, with the credential “Ferry reader”;`,
    );
    say(
      `Programs read through the gateway at 127.0.0.1, port ${idrel.env.IDREL_CLIENTS_PORT}, with a key made under Settings;`,
    );
    say(`Voyage files are the folder ${join(idrel.demoFolder, 'voyage-files')}`);
  } else say('To let the first person in: npm run -s invite -- somebody@example.org "Their Name"');
  say(`Logs of the server, the worker and the stand-ins are in ${home}`);
  say('Stop it with Ctrl C, or with npm run stop from another terminal.');
} catch (error) {
  stopWith(error.message, 'Mend this and run npm start again; what was made so far is kept.');
}
