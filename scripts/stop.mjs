import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from './lib/house.mjs';
import { say } from './lib/say.mjs';

const file = join(ROOT, '.idrel/running');
if (!existsSync(file)) say('Idrel is not running here.');
else {
  try {
    process.kill(Number(readFileSync(file, 'utf8')), 'SIGTERM');
    for (let tries = 0; tries < 150 && existsSync(file); tries += 1)
      await new Promise((resolve) => setTimeout(resolve, 100));
    say('Stopped.');
  } catch {
    say('Idrel is not running any more.');
  }
}
