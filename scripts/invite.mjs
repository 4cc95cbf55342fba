import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { checkNode, ensureBuild, ensurePackages, ROOT } from './lib/house.mjs';
import { stopWith } from './lib/say.mjs';
import { run } from './lib/system.mjs';

// npm run -s invite -- somebody@example.org "Their Name": prints a link by which they set a password; the first one administers everything.
checkNode();
const home = join(ROOT, '.idrel');
try {
  ensurePackages();
  ensureBuild();
  const env = { ...process.env, IDREL_KEY_FILE: process.env.IDREL_KEY_FILE ?? join(home, 'key') };
  if (!env.DATABASE_URL) {
    if (!existsSync(join(home, 'running')))
      throw new Error('Idrel does not run here, and DATABASE_URL is not set. Start it with npm start first.');
    const { openCluster } = await import('./lib/cluster.mjs');
    env.DATABASE_URL = (await openCluster(home, 54780)).url('idrel');
  }
  process.stdout.write(
    run(process.execPath, [join(ROOT, 'server/dist/invite.js'), ...process.argv.slice(2)], { env }).stdout,
  );
} catch (error) {
  stopWith(error.message, 'Nothing was changed.');
}
