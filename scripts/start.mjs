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
  const idrel = await startIdrel({ home, databasePort: 54780, webPort: Number(process.env.IDREL_PORT ?? 4780) });
  writeFileSync(join(home, 'running'), String(process.pid));
  say(`\nIdrel is ready at ${idrel.address}`);
  if (idrel.demoPort) {
    say(`To register the demo's other sources: Warehouse is PostgreSQL at 127.0.0.1, port ${idrel.demoPort}, database warehouse, with the credential “Ferry reader”;`);
    say(`Voyage files are the folder ${join(idrel.demoFolder, 'voyage-files')}`);
  }
  say(`Logs of the server, the worker and the stand-ins are in ${home}`);
  say('Stop it with Ctrl C, or with npm run stop from another terminal.');
  let stopping = false;
  const stop = async () => {
    if (stopping) return;
    stopping = true;
    say('\nStopping …');
    rmSync(join(home, 'running'), { force: true });
    await idrel.stop();
    process.exit(0);
  };
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
  for (const child of idrel.children)
    child.on('exit', async (code) => {
      if (stopping) return;
      say(`The ${child.label} ended (${code}). Its last words:\n${child.recent()}`);
      await stop();
    });
} catch (error) {
  stopWith(error.message, 'Mend this and run npm start again; what was made so far is kept.');
}
