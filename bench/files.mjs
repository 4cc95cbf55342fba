import { spawnSync } from 'node:child_process';
import { copyFileSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import { CONNECTORS } from '../readers/dist/connectors/index.js';
import { describeFile, openDuck } from '../readers/dist/files/index.js';
import { inTurn, tell } from './lib.mjs';

const SETS = 50;
const PARTS = 2000;

/** Structure of a folder with 100,000 Parquet files in 50 file sets, against `find -printf` over it and the reading of one footer per file set. */
export async function run() {
  const root = mkdtempSync(join(tmpdir(), 'idrel-bench-'));
  try {
    const seed = join(root, 'seed.parquet');
    const maker = await (await DuckDBInstance.create(':memory:')).connect();
    await maker.run(`copy (select i as id, 'r' || i as route from range(10) t(i)) to '${seed}' (format parquet)`);
    const firsts = [];
    for (let set = 0; set < SETS; set += 1) {
      const folder = join(root, `set${set}`, 'year=2026');
      mkdirSync(folder, { recursive: true });
      for (let part = 0; part < PARTS; part += 1) copyFileSync(seed, join(folder, `part-${part}.parquet`));
      firsts.push(join(folder, 'part-0.parquet'));
    }
    rmSync(seed);
    const duck = await openDuck(root);
    const [reference, scan] = await inTurn(3, [
      async () => {
        const found = spawnSync('find', [root, '-type', 'f', '-printf', '%p %s %T@\\n'], {
          maxBuffer: 1 << 28,
          encoding: 'utf8',
        });
        if (found.stdout.split('\n').length <= SETS * PARTS) throw new Error('find did not find the files');
        for (const path of firsts) await describeFile(duck, { path, format: 'parquet' });
      },
      async () => {
        const reading = await CONNECTORS.folder.open({ name: 'bench', address: { path: root }, secret: null });
        const { assets } = await reading.structure(() => undefined);
        await reading.close();
        if (assets.filter((asset) => asset.kind === 'file set').length !== SETS)
          throw new Error(`there are ${assets.length} assets`);
      },
    ]);
    return tell(
      `Structure of ${SETS * PARTS} files in ${SETS} file sets, against find -printf and one footer per file set`,
      scan,
      reference,
      'at most 3',
    );
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}
