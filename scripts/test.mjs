import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { checkNode, ensureBuild, ensurePackages, ROOT } from './lib/house.mjs';
import { say, stopWith } from './lib/say.mjs';
import { found, installDebian } from './lib/system.mjs';

// Everything in one go: types, lint, the floors of the house, unit, server and browser tests. Own cluster, own ports: a running demo is not touched.
// npm test -- unit: only that part. `beside`: as a part of the whole, with a cluster of its own.
checkNode();
const [only, beside] = process.argv.slice(2);
const home = join(ROOT, beside ? '.idrel-test-beside' : '.idrel-test');
const databasePort = beside ? 55880 : 55780;
const webPort = beside ? 5880 : 5780;
/** What a name on the command line runs, where that is more than one part. */
const PARTS = { unit: ['unit', 'web'], server: ['server', 'running'] };
const totals = { passed: 0, failed: 0 };

function check(name, command, args) {
  say(`\n${name} …`);
  const { status } = spawnSync(command, args, { cwd: ROOT, stdio: 'inherit' });
  totals[status === 0 ? 'passed' : 'failed'] += 1;
  if (status !== 0) say(`${name}: failed`);
}

try {
  ensurePackages();
  if (!only || only === 'browser') {
    if (!found('chromium') || !found('chromedriver'))
      installDebian(['chromium', 'chromium-driver'], "Debian's Chromium and ChromeDriver");
  }
  if ((!only || only === 'server') && !found('mariadbd')) installDebian(['mariadb-server'], "Debian's MariaDB");
  if ((!only || only === 'server') && !found('openssl'))
    installDebian(['openssl'], 'OpenSSL, for the tests of certificates');
  if (!only) {
    check('Types', 'npm', ['run', '-s', 'types']);
    check('Lint', 'npm', ['run', '-s', 'lint']);
    check('Floors and doors', 'npm', ['run', '-s', 'doors']);
  }
  ensureBuild();
} catch (error) {
  stopWith(error.message, 'Mend this and run npm test again.');
}

const { startIdrel } = await import('./lib/idrel.mjs');
const { openCluster } = await import('./lib/cluster.mjs');
delete process.env.DATABASE_URL;
(await openCluster(home, databasePort)).destroy();
rmSync(home, { recursive: true, force: true });
mkdirSync(home, { recursive: true });

/** Runs one part of the tests to its end, tells what it said, and counts. */
async function runProject(project, env) {
  const report = join(home, `report-${project}.json`);
  const child = spawn(
    'npx',
    ['vitest', 'run', '--project', project, '--reporter=default', '--reporter=json', `--outputFile.json=${report}`],
    { cwd: ROOT, stdio: ['ignore', 'pipe', 'pipe'], env },
  );
  // Of parts that run side by side each is told in one piece.
  const said = [];
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (data) => said.push(data));
  await new Promise((resolve) => child.once('close', resolve));
  process.stdout.write(Buffer.concat(said));
  if (!existsSync(report)) {
    totals.failed += 1;
    return;
  }
  const result = JSON.parse(readFileSync(report, 'utf8'));
  totals.passed += result.numPassedTests;
  totals.failed += result.numFailedTests;
  // A file that could not be loaded has no failed test of its own, and must not be missed.
  totals.failed += result.testResults.filter(
    (file) => file.status === 'failed' && file.assertionResults.every((entry) => entry.status !== 'failed'),
  ).length;
}

async function inTurn(projects, env) {
  for (const project of projects) await runProject(project, env);
}

/** Browser tests, with everything that they need, in a process of their own. What it said is told when it has ended. */
async function besideThis(project) {
  const child = spawn(process.execPath, [fileURLToPath(import.meta.url), project, 'beside'], {
    cwd: ROOT,
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  const said = [];
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (data) => said.push(data));
  await new Promise((resolve) => child.once('close', resolve));
  const text = Buffer.concat(said).toString();
  const counted = /(\d+) passed, (\d+) failed\s*$/.exec(text);
  process.stdout.write(text.replace(/\d+ passed, \d+ failed\s*$/, ''));
  totals.passed += Number(counted?.[1] ?? 0);
  totals.failed += Number(counted?.[2] ?? 1);
}

let idrel;
try {
  const browser = only ? undefined : besideThis('browser');
  idrel = await startIdrel({ home, databasePort, webPort, passing: true });
  const env = {
    ...process.env,
    IDREL_TEST_DATABASE_URL: idrel.cluster.url('postgres'),
    IDREL_TEST_ADDRESS: idrel.address,
    IDREL_TEST_DEMO: idrel.demoFolder,
    IDREL_KEY_FILE: idrel.env.IDREL_KEY_FILE,
  };
  // Most of them wait most of the time: three go side by side. Browser tests have a demo of their own, since those that speak to the running server change it.
  if (only) await inTurn(PARTS[only] ?? [only], env);
  else await Promise.all([inTurn(['server'], env), inTurn(['running', 'unit', 'web'], env), browser]);
} catch (error) {
  say(error.message);
  totals.failed += 1;
} finally {
  await idrel?.stop();
  (await openCluster(home, databasePort)).destroy();
}
say(`\n${totals.passed} passed, ${totals.failed} failed`);
process.exit(totals.failed > 0 || totals.passed === 0 ? 1 : 0);
