import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createWriteStream, existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { say, stopWith } from './say.mjs';
import { run } from './system.mjs';

export const ROOT = resolve(dirname(fileURLToPath(import.meta.url)), '../..');

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    stopWith(`Node ${process.versions.node} is too old.`, 'Install Node 20.19 or later.');
}

/** Remembers a text under a name below node_modules, to see next time whether it changed. */
const stamp = (name) => join(ROOT, 'node_modules', `.idrel-${name}`);
const stamped = (name, text) => existsSync(stamp(name)) && readFileSync(stamp(name), 'utf8') === text;

export function ensurePackages() {
  const lock = createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex');
  if (existsSync(join(ROOT, 'node_modules/.bin/tsc')) && stamped('packages', lock)) return;
  say('Installing packages (npm ci) …');
  run('npm', ['ci', '--no-audit', '--no-fund'], {
    cwd: ROOT,
    maxBuffer: 1 << 28,
    env: { ...process.env, NODE_ENV: 'development' },
  });
  writeFileSync(stamp('packages'), lock);
}

const BUILT = ['core', 'contract', 'client', 'readers', 'server', 'cli', 'standins', 'demo', 'web'];
function newest(folder) {
  let latest = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (['node_modules', 'dist', 'dist-types'].includes(entry.name)) continue;
    const path = join(folder, entry.name);
    latest = Math.max(latest, entry.isDirectory() ? newest(path) : statSync(path).mtimeMs);
  }
  return latest;
}

/** Builds when a source file is newer than the last build. */
export function ensureBuild() {
  const state = String(Math.max(...BUILT.map((name) => newest(join(ROOT, name)))));
  if (
    existsSync(join(ROOT, 'server/dist/main.js')) &&
    existsSync(join(ROOT, 'web/dist/index.html')) &&
    stamped('build', state)
  )
    return;
  say('Building …');
  run('npx', ['tsc', '-b'], { cwd: ROOT });
  run('npm', ['run', 'build', '-w', '@idrel/web'], { cwd: ROOT });
  writeFileSync(stamp('build'), state);
}

export async function waitFor(address, seconds = 60) {
  const until = Date.now() + seconds * 1000;
  for (;;) {
    try {
      if ((await fetch(`${address}/health`)).ok) return;
    } catch {
      // not yet
    }
    if (Date.now() > until) throw new Error(`${address} does not answer within ${seconds} seconds.`);
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

/** So often within a minute a program may fall before it is given up. */
const FALLS = 5;

/** Keeps one of the built programs running: when it falls, for whatever reason, another takes its place after a moment. */
export function keep(home, name, script, env, gaveUp) {
  let stopping = false;
  let falls = [];
  let child;
  const begin = () => {
    child = launch(home, name, script, env);
    child.once('exit', (code, signal) => {
      if (stopping) return;
      falls = [...falls.filter((at) => at > Date.now() - 60_000), Date.now()];
      if (falls.length > FALLS) {
        gaveUp(name, child.recent());
        return;
      }
      say(`The ${name} ended (${signal ?? code}) and is started again; its log is ${join(home, `${name}.log`)}`);
      setTimeout(() => !stopping && begin(), 300 * falls.length);
    });
  };
  begin();
  return {
    label: name,
    recent: () => child.recent(),
    get pid() {
      return child.pid;
    },
    stop: () =>
      new Promise((resolve) => {
        stopping = true;
        if (child.exitCode !== null || child.signalCode !== null) return resolve();
        child.once('exit', resolve);
        child.kill('SIGTERM');
      }),
  };
}

/** Starts one of the built programs; what it writes goes to a log beside the data. */
function launch(home, name, script, env) {
  mkdirSync(home, { recursive: true });
  const child = spawn(process.execPath, [join(ROOT, script)], {
    cwd: ROOT,
    env: { ...process.env, ...env },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  const log = [];
  const file = createWriteStream(join(home, `${name}.log`), { flags: 'a' });
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (data) => {
      file.write(data);
      log.push(String(data));
      if (log.length > 200) log.shift();
    });
  child.recent = () => log.join('');
  child.label = name;
  return child;
}
