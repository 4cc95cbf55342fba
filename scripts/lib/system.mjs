import { spawn, spawnSync } from 'node:child_process';
import { createServer } from 'node:net';
import { say, stopWith } from './say.mjs';

export const isRoot = () => process.getuid?.() === 0;

/** Runs a command to its end; its output is shown only when it fails. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { encoding: 'utf8', ...options });
  if (result.status !== 0 && !options.tolerate) throw failed(command, args, result);
  return result;
}

function failed(command, args, { status, stdout, stderr, error }) {
  const shown = [stdout, stderr, error?.message].filter(Boolean).join('\n').trim();
  return new Error(`${command} ${args.join(' ')} failed (${status ?? 'not started'}):\n${shown}`);
}

/** As {@link run}, while other things go on. */
export async function runBeside(command, args, options = {}) {
  const child = spawn(command, args, { ...options, stdio: ['ignore', 'pipe', 'pipe'] });
  const result = { status: null, stdout: '', stderr: '' };
  for (const name of ['stdout', 'stderr'])
    child[name].setEncoding('utf8').on('data', (text) => {
      result[name] += text;
    });
  await new Promise((resolve) => {
    child.once('error', (error) => resolve(Object.assign(result, { error })));
    child.once('close', (status) => resolve(Object.assign(result, { status })));
  });
  if (result.status !== 0) throw failed(command, args, result);
  return result;
}

export const found = (command) =>
  spawnSync('sh', ['-c', `command -v ${command}`], { encoding: 'utf8' }).stdout.trim() || undefined;

/** Installs Debian packages, with sudo when not root; where that is not possible it says which command to run. */
export function installDebian(packages, purpose) {
  const command = `apt-get install -y --no-install-recommends ${packages.join(' ')}`;
  if (!found('apt-get'))
    stopWith(
      `${purpose} is missing, and this is not a Debian machine.`,
      `Install ${packages.join(', ')} and run the command again.`,
    );
  const sudo = isRoot() ? '' : found('sudo') && spawnSync('sudo', ['-n', 'true']).status === 0 ? 'sudo ' : undefined;
  if (sudo === undefined)
    stopWith(
      `${purpose} is missing, and installing it needs rights that this account does not have.`,
      `Run: sudo ${command}`,
    );
  say(`Installing ${purpose} (${packages.join(', ')}) …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const shell = (line) => run('sh', ['-c', line], { env, maxBuffer: 1 << 28 });
  try {
    shell(`${sudo}apt-get update -qq`);
    shell(`${sudo}${command}`);
  } catch (error) {
    stopWith(`${purpose} could not be installed: ${error.message}`, `Run by hand: ${sudo}${command}`);
  }
}

/** Debian's Chromium and what drives it. */
export function ensureChromium() {
  if (!found('chromium') || !found('chromedriver'))
    installDebian(['chromium', 'chromium-driver'], "Debian's Chromium and ChromeDriver");
}

const canListen = (port) =>
  new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen({ port, host: '127.0.0.1', exclusive: true }, () => probe.close(() => resolve(true)));
  });

/** The wished port when nobody listens on it, else the next free one. */
export async function freePort(wished) {
  for (let port = wished; port < wished + 200; port += 1) if (await canListen(port)) return port;
  throw new Error(`No free port between ${wished} and ${wished + 200} on 127.0.0.1.`);
}
