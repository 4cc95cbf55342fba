import { spawnSync } from 'node:child_process';
import { closeSync, mkdtempSync, openSync, rmSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { inTurn, tell } from './lib.mjs';

const CLI = new URL('../cli/bin/idrel.mjs', import.meta.url).pathname;
const RSS = 'data:text/javascript,process.on("exit",()=>process.stderr.write("RSS "+process.resourceUsage().maxRSS))';

/** A CSV of so many bytes: passengers, all rows different by their number. */
function writeCsv(path, bytes) {
  const file = openSync(path, 'w');
  let written = writeSync(file, 'id,given_name,family_name,email,phone,born,iban,note\n');
  for (let row = 0; written < bytes; ) {
    let text = '';
    for (const end = row + 20_000; row < end; row += 1)
      text += `${row},Ida,Holm,ida.holm${row}@example.org,+4722${100_000 + (row % 899_999)},${1940 + (row % 60)}-0${1 + (row % 9)}-1${row % 9},NO9386011117947,Guest ${row} asked for a cabin near the stern\n`;
    written += writeSync(file, text);
  }
  closeSync(file);
}

/** `idrel classify` of a CSV of 2 GB, against counting its lines; its memory beside that for a tenth of it. */
export async function run() {
  const folder = mkdtempSync(join(tmpdir(), 'idrel-bench-csv-'));
  try {
    const [large, small] = [join(folder, 'large.csv'), join(folder, 'small.csv')];
    writeCsv(large, 2 * 1024 ** 3);
    writeCsv(small, 0.2 * 1024 ** 3);
    const classify = (path) => {
      const result = spawnSync(process.execPath, ['--import', RSS, CLI, 'classify', '--json', path], {
        encoding: 'utf8',
      });
      if (result.status !== 0) throw new Error(result.stderr);
      const found = JSON.parse(result.stdout).filter((column) => column.findings.length > 0).length;
      if (found < 5) throw new Error(`only ${found} of its columns were recognised`);
      return Math.round(Number(/RSS (\d+)/.exec(result.stderr)?.[1]) / 1024);
    };
    const megabytes = { large: classify(large), small: classify(small) };
    const timed = (work) => () => {
      const started = performance.now();
      work();
      return performance.now() - started;
    };
    const [measured, reference] = await inTurn(3, [
      timed(() => classify(large)),
      timed(() => spawnSync('wc', ['-l', large])),
    ]);
    return [
      tell(
        'A CSV of 2 GB classified by the command line, against counting its lines with `wc -l`',
        measured,
        reference,
        '–',
      ),
      `| Memory of that process, resident, against that for a CSV of a tenth of it | ${megabytes.large} MB | ${megabytes.small} MB | ${(megabytes.large / megabytes.small).toFixed(2)} | bounded |`,
    ].join('\n');
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
