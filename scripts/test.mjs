import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join, relative } from 'node:path';
import { checkNode, ensureBuild, ensurePackages, ROOT } from './lib/house.mjs';
import { say, stopWith } from './lib/say.mjs';
import { ensureChromium, found, installDebian } from './lib/system.mjs';

// Everything in one go: types, lint, the floors of the house, unit, server and browser tests. Own cluster, own ports: a running demo is not touched.
// npm test -- unit: only that part.
checkNode();
const [only] = process.argv.slice(2);
const home = join(ROOT, '.idrel-test');
/** What a name on the command line runs, where that is more than one part. */
const PARTS = { unit: ['unit', 'web'], server: ['server', 'running'] };
const totals = { passed: 0, failed: 0 };
/** What failed, told once more at the end: what was said of it stands far above by then. */
const failures = [];

/** Runs a command to its end; what it says is told in one piece, since others run beside it. */
async function toItsEnd(command, args, env = process.env) {
  const child = spawn(command, args, { cwd: ROOT, stdio: ['ignore', 'pipe', 'pipe'], env });
  const said = [];
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (data) => said.push(data));
  const status = await new Promise((resolve) => child.once('close', resolve));
  return { status, said: Buffer.concat(said) };
}

async function check(name, command, args) {
  const { status, said } = await toItsEnd(command, args);
  say(`\n${name}: ${status === 0 ? 'passed' : 'failed'}`);
  process.stdout.write(said);
  totals[status === 0 ? 'passed' : 'failed'] += 1;
  if (status !== 0) failures.push(name);
}

try {
  ensurePackages();
  if (!only || only === 'browser') ensureChromium();
  if ((!only || only === 'server') && !found('mariadbd')) installDebian(['mariadb-server'], "Debian's MariaDB");
  if ((!only || only === 'server') && !found('curl')) installDebian(['curl'], 'curl');
  if ((!only || only === 'server') && !found('openssl'))
    installDebian(['openssl'], 'OpenSSL, for the tests of certificates');
  if ((!only || only === 'server') && !found('git')) installDebian(['git'], 'git, for the tests of changes of scripts');
  ensureBuild();
} catch (error) {
  stopWith(error.message, 'Mend this and run npm test again.');
}

const { startIdrel } = await import('./lib/idrel.mjs');
const { copyHome, removeHome } = await import('./lib/cluster.mjs');
delete process.env.DATABASE_URL;

/** Browser tests that ask for a demo that nobody has touched, or take long; the others go beside them. */
const FIRST_OF_BROWSER = ['wholeJob', 'keyboard', 'governing', 'people', 'sources', 'plans'];
const browserFiles = readdirSync(join(ROOT, 'e2e'))
  .filter((name) => name.endsWith('.test.ts'))
  .map((name) => name.slice(0, -'.test.ts'.length));
const named = (names) => names.map((name) => `e2e/${name}.test.ts`);
/** What goes side by side, each with a demo of its own where it changes it: parts one after the other, with the files when they are not all. */
const LANES = [
  { demo: 'main', parts: [['server']] },
  { demo: 'main', parts: [['running']] },
  {
    demo: 'whole',
    parts: [
      ['browser', named(FIRST_OF_BROWSER.slice(0, 1))],
      ['browser', named(FIRST_OF_BROWSER.slice(1))],
    ],
  },
  { demo: 'browser', parts: [['browser', named(browserFiles.filter((name) => !FIRST_OF_BROWSER.includes(name)))]] },
];

let reports = 0;
/** Runs one part of the tests to its end, tells what it said, and counts. */
async function runPart([project, files = []], env) {
  reports += 1;
  const report = join(home, `report-${reports}.json`);
  const { said } = await toItsEnd(
    'npx',
    [
      'vitest',
      'run',
      ...files,
      '--project',
      project,
      '--reporter=default',
      '--reporter=json',
      `--outputFile.json=${report}`,
    ],
    env,
  );
  process.stdout.write(said);
  if (!existsSync(report)) {
    totals.failed += 1;
    failures.push(`${project}: ended without a report`);
    return;
  }
  const result = JSON.parse(readFileSync(report, 'utf8'));
  totals.passed += result.numPassedTests;
  totals.failed += result.numFailedTests;
  for (const file of result.testResults.filter(({ status }) => status === 'failed')) {
    const failed = file.assertionResults.filter(({ status }) => status === 'failed');
    for (const { fullName, failureMessages } of failed)
      failures.push(`${relative(ROOT, file.name)}: ${fullName}\n${failureMessages.join('\n')}`);
    if (failed.length > 0) continue;
    // A file that could not be loaded has no failed test of its own, and must not be missed.
    totals.failed += 1;
    failures.push(`${relative(ROOT, file.name)}: ${file.message}`);
  }
}

const lanes = only ? [{ demo: 'main', parts: (PARTS[only] ?? [only]).map((part) => [part]) }] : LANES;
const demos = [...new Set(lanes.map(({ demo }) => demo))];
const homeOf = (demo) => join(home, demo);
const portsOf = (demo) => {
  const place = 100 * demos.indexOf(demo);
  return { databasePort: 55780 + place, webPort: 5780 + place };
};
async function removeAll() {
  for (const demo of demos) await removeHome(homeOf(demo), portsOf(demo).databasePort);
  rmSync(home, { recursive: true, force: true });
}

const started = new Map();
const start = async (demo) =>
  started.set(demo, await startIdrel({ home: homeOf(demo), ...portsOf(demo), passing: true, quiet: demo !== 'main' }));

/** What needs no demo: it goes on while that is made. */
async function withoutDemo() {
  await check('Types', 'npm', ['run', '-s', 'types']);
  await check('Lint', 'npm', ['run', '-s', 'lint']);
  await check('Floors and doors', 'npm', ['run', '-s', 'doors']);
  for (const part of PARTS.unit) await runPart([part], process.env);
}

try {
  await removeAll();
  mkdirSync(home, { recursive: true });
  const apart = only ? Promise.resolve() : withoutDemo();
  const [first, ...more] = demos;
  await start(first);
  if (more.length > 0) {
    // A demo is made once; what changes it has its own copy.
    await started.get(first).stop();
    for (const demo of more) copyHome(homeOf(first), homeOf(demo));
    await Promise.all(demos.map(start));
  }
  // Most tests wait most of the time: lanes go side by side.
  await Promise.all([
    apart,
    ...lanes.map(async ({ demo, parts }) => {
      const idrel = started.get(demo);
      const env = {
        ...process.env,
        IDREL_TEST_DATABASE_URL: idrel.cluster.url('postgres'),
        IDREL_TEST_ADDRESS: idrel.address,
        IDREL_TEST_DEMO: idrel.demoFolder,
        IDREL_KEY_FILE: idrel.env.IDREL_KEY_FILE,
      };
      for (const part of parts) await runPart(part, env);
    }),
  ]);
} catch (error) {
  say(error.message);
  totals.failed += 1;
  failures.push(error.message);
} finally {
  await Promise.all([...started.values()].map((idrel) => idrel.stop()));
  await removeAll();
}
for (const failure of failures) say(`\nFailed: ${failure.slice(0, 2000)}`);
say(`\n${totals.passed} passed, ${totals.failed} failed`);
process.exit(totals.failed > 0 || totals.passed === 0 ? 1 : 0);
