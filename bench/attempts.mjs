import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const TRIES = 10_000;

/**
 * Made-up statements under made-up policies: what the gateway gives of each must be what a copy gives that holds nothing but what may come out, and the same
 * whatever else the tables hold (server/test/attempts.test.ts, which tries a few hundred). Prints how many of them there were, and fails where one differs.
 */
export async function run(adminUrl) {
  const folder = mkdtempSync(join(tmpdir(), 'idrel-attempts-'));
  const told = join(folder, 'told.json');
  try {
    const { status, stdout } = spawnSync(
      'npx',
      ['vitest', 'run', '--project', 'server', 'server/test/attempts.test.ts'],
      {
        encoding: 'utf8',
        env: {
          ...process.env,
          IDREL_TEST_DATABASE_URL: adminUrl,
          IDREL_ATTEMPTS: String(TRIES),
          IDREL_ATTEMPTS_TOLD: told,
        },
      },
    );
    if (status !== 0) throw new Error(stdout);
    const { tried, answered, withRows, failed, refused } = JSON.parse(readFileSync(told, 'utf8'));
    const count = (n) => n.toLocaleString('en');
    const line = `| Made-up statements under made-up policies that tell more or other than may come out: of ${count(tried)} (${count(answered)} answered, ${count(withRows)} with rows; ${count(failed)} fail at the source, ${count(refused)} refused) | 0 | – | – | 0 |`;
    process.stdout.write(`${line}\n`);
    return line;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
