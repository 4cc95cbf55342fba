import { spawnSync } from 'node:child_process';
import { tell } from './lib.mjs';

const HERE = new URL('recognitionAlone.mjs', import.meta.url).pathname;

/**
 * Recognition of 20 columns of 200,000 different values by all detectors, against a bare loop of the same tests over the same values; each in a process of its
 * own, whose memory the system counts. The bare loop takes every twentieth value and its time is counted twentyfold: whole, it would run for minutes.
 */
export async function run() {
  const alone = (what) => {
    const result = spawnSync(process.execPath, ['--max-old-space-size=128', '--max-semi-space-size=8', HERE, what], {
      encoding: 'utf8',
    });
    if (result.status !== 0) throw new Error(result.stderr);
    return JSON.parse(result.stdout);
  };
  const [bare, framed, nothing] = [alone('bare'), alone('framed'), alone('nothing')];
  const stat = ({ ms }) => ({ median: ms, min: ms, max: ms });
  return [
    tell(
      'Recognition of 20 columns of 200,000 different values, one after the other, against the bare loop of the same tests',
      stat(framed),
      stat(bare),
      'at most 2',
    ),
    `| Memory of that process, resident (of which the process with one such column alone takes) | ${framed.mb} MB | ${nothing.mb} MB | – | under 300 MB |`,
  ].join('\n');
}
