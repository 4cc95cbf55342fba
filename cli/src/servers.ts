import { chmod, mkdir, readFile, writeFile } from 'node:fs/promises';
import { homedir } from 'node:os';
import { dirname, join } from 'node:path';
import { text } from 'node:stream/consumers';
import { peopleEndpoints } from '@idrel/contract/people';
import { nearest } from '@idrel/core/text';
import { CliProblem } from './problem.ts';

/** A server that is known by a name of one's own. */
interface Known {
  readonly address: string;
  /** Of a program: with it nobody needs to sign in. */
  readonly key?: string;
}
interface Servers {
  readonly usual: string | null;
  readonly servers: Readonly<Record<string, Known>>;
}
/** Where a command goes, and with which key. */
export interface Server {
  readonly address: string;
  readonly key: string | undefined;
}

const FILE = join(process.env.XDG_CONFIG_HOME || join(homedir(), '.config'), 'idrel', 'servers.json');
const NAME = /^[\p{L}\p{N}][\p{L}\p{N}._-]{0,39}$/u;
const NONE: Servers = { usual: null, servers: {} };

async function read(): Promise<Servers> {
  const content = await readFile(FILE, 'utf8').catch((error: { code?: string; message: string }) => {
    if (error.code === 'ENOENT') return null;
    throw new CliProblem(`${FILE} cannot be read: ${error.message}`, 'It must be readable by you.');
  });
  if (content === null) return NONE;
  try {
    const { usual = null, servers = {} } = JSON.parse(content) as Partial<Servers>;
    return { usual, servers: Object.assign(Object.create(null), servers) };
  } catch {
    throw new CliProblem(`${FILE} is no JSON any more.`, 'Mend it, or remove it and add the servers anew.');
  }
}

/** Written so that only its owner reads it: it may hold keys. */
async function write(servers: Servers): Promise<void> {
  await mkdir(dirname(FILE), { recursive: true, mode: 0o700 });
  await writeFile(FILE, `${JSON.stringify(servers, null, 1)}\n`, { mode: 0o600 });
  await chmod(FILE, 0o600);
}

const isAddress = (server: string): boolean => /^https?:\/\//i.test(server);
const without = (address: string): string => address.replace(/\/+$/, '');

/**
 * Where a command goes: to the address or the name that is given, that in IDREL_SERVER, or the usual one. The key in IDREL_KEY comes before one that is kept, and a kept one
 * goes to its own server only.
 */
export async function serverFor(given: string | undefined): Promise<Server> {
  const wanted = given ?? (process.env.IDREL_SERVER || undefined);
  const key = process.env.IDREL_KEY || undefined;
  if (wanted !== undefined && isAddress(wanted)) {
    const { servers } = await read();
    const known = Object.values(servers).find(({ address }) => address === without(wanted));
    return { address: without(wanted), key: key ?? known?.key };
  }
  const { usual, servers } = await read();
  const name = wanted ?? usual;
  if (name === null)
    throw new CliProblem('No server is named.', 'Give --server, or keep one: idrel servers add NAME ADDRESS.');
  const known = servers[name];
  if (!known) {
    const near = nearest(Object.keys(servers), name);
    throw new CliProblem(
      `There is no server “${name}”.`,
      near
        ? `Is “${near}” meant?`
        : 'Give its address, beginning with https://, or keep it: idrel servers add NAME ADDRESS.',
    );
  }
  return { address: known.address, key: key ?? known.key };
}

/** Who a key is, by the word of its server. */
async function whoIs(address: string, key: string): Promise<string> {
  const response = await fetch(`${address}/api/v1${peopleEndpoints.session.path}`, {
    headers: { authorization: `Bearer ${key}` },
  }).catch((error: Error) => {
    throw new CliProblem(`${address} cannot be reached: ${error.message}`, 'Check the address.');
  });
  if (!response.ok)
    throw new CliProblem('The key opens nothing there.', 'Make another one under Settings → Keys for programs.');
  const { person } = (await response.json()) as { person?: { name: string } | null };
  return person?.name ?? 'nobody';
}

/** `idrel servers`. */
export async function list({ json }: { json?: boolean }): Promise<void> {
  const { usual, servers } = await read();
  const rows = Object.entries(servers).map(([name, { address, key }]) => ({
    name,
    address,
    key: key !== undefined,
    usual: name === usual,
  }));
  if (json) process.stdout.write(`${JSON.stringify(rows, null, 1)}\n`);
  else if (rows.length === 0) process.stdout.write('No server is kept. idrel servers add NAME ADDRESS keeps one.\n');
  else
    for (const row of rows)
      process.stdout.write(`${row.usual ? '*' : ' '} ${row.name}  ${row.address}${row.key ? '  with a key' : ''}\n`);
}

/** `idrel servers add`: the first one is the usual one. */
export async function add(name: string, address: string, { key: withKey }: { key?: boolean }): Promise<void> {
  if (!NAME.test(name))
    throw new CliProblem(`“${name}” is no name for a server.`, 'Use letters, digits, dots and dashes.');
  if (!isAddress(address)) throw new CliProblem(`${address} is no address.`, 'It begins with https://.');
  const { usual, servers } = await read();
  // A key is read from standard input: on the command line it would stand in lists of processes and of commands.
  const key = withKey ? (await text(process.stdin)).trim() : undefined;
  const whose = key === undefined ? null : await whoIs(without(address), key);
  const known: Known = { address: without(address), ...(key === undefined ? {} : { key }) };
  await write({ usual: usual ?? name, servers: { ...servers, [name]: known } });
  process.stdout.write(`${name} is kept${whose === null ? '' : `, with a key of ${whose}`}.\n`);
}

async function mustBeKept(name: string): Promise<Servers> {
  const servers = await read();
  if (!servers.servers[name]) throw new CliProblem(`There is no server “${name}”.`, 'idrel servers lists them.');
  return servers;
}

/** `idrel servers use`. */
export async function use(name: string): Promise<void> {
  const { servers } = await mustBeKept(name);
  await write({ usual: name, servers });
  process.stdout.write(`${name} is the usual one.\n`);
}

/** `idrel servers remove`. */
export async function remove(name: string): Promise<void> {
  const { usual, servers } = await mustBeKept(name);
  const rest = Object.fromEntries(Object.entries(servers).filter(([other]) => other !== name));
  await write({ usual: usual === name ? null : usual, servers: rest });
  process.stdout.write(
    `${name} is kept no more. Its key goes on holding: end it under Settings → Keys for programs.\n`,
  );
}
