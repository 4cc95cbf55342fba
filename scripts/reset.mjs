import { existsSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { clusterFolders, openCluster } from './lib/cluster.mjs';
import { ROOT } from './lib/house.mjs';
import { say } from './lib/say.mjs';

await import('./stop.mjs');
const home = join(ROOT, '.idrel');
if (clusterFolders(home).some((folder) => existsSync(join(folder, 'data')))) (await openCluster(home, 54780)).destroy();
rmSync(home, { recursive: true, force: true });
say('Everything of the demo was removed. npm start makes it anew.');
