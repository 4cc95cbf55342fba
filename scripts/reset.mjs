import { join } from 'node:path';
import { removeHome } from './lib/cluster.mjs';
import { ROOT } from './lib/house.mjs';
import { say } from './lib/say.mjs';

await import('./stop.mjs');
await removeHome(join(ROOT, '.idrel'), 54780);
say('Everything of the demo was removed. npm start makes it anew.');
