import { lookup } from 'node:dns/promises';
import { realpath } from 'node:fs/promises';
import { isIP } from 'node:net';
import { basename, dirname, join, resolve } from 'node:path';
import { KINDS, type SourceAnswer, type SourceKind } from '@idrel/contract/sources';
import type { Config } from '../platform/config.ts';
import { isOwn, isWithin } from '../platform/networks.ts';
import { invalid } from '../platform/problems.ts';

type Limits = Pick<Config, 'folderRoots' | 'sourceNetworks'>;
type Address = SourceAnswer['address'];

/** The host that a source's address names; undefined for those that name none. */
function hostOf(address: Address): string | undefined {
  if (typeof address.host === 'string') return address.host;
  return typeof address.url === 'string' ? new URL(address.url).hostname.replace(/^\[|\]$/g, '') : undefined;
}

/**
 * Whether this machine may go to a source's host: to addresses of the world, and of networks of one's own to those that an administrator listed. A
 * server that goes wherever somebody says would be a way into the network that it stands in.
 * @throws 422
 */
async function checkHost({ sourceNetworks }: Limits, address: Address): Promise<void> {
  const host = hostOf(address);
  if (host === undefined) return;
  const found = isIP(host) ? [host] : (await lookup(host, { all: true }).catch(() => [])).map((entry) => entry.address);
  const refused = found.find((entry) => isOwn(entry) && !isWithin(sourceNetworks, entry));
  if (refused)
    throw invalid(
      `${host}${host === refused ? '' : ` (${refused})`} lies in a network of your own that sources may not be read from.`,
      'Let an operator add it to IDREL_SOURCE_NETWORKS, or let an agent near the source read it.',
      [
        {
          field: address.host === undefined ? 'address.url' : 'address.host',
          message: 'lies in a network that sources may not be read from',
        },
      ],
    );
}

/** Where a path really lies, links followed; what is not there yet lies where its folder does. */
async function really(path: string): Promise<string> {
  return realpath(path).catch(async (error: { code?: string }) => {
    if (error.code !== 'ENOENT' || dirname(path) === path) return path;
    return join(await really(dirname(path)), basename(path));
  });
}

/** Whether this machine may read a path: below a folder that an administrator named, also when links are followed. @throws 422 */
async function checkPath({ folderRoots }: Limits, path: string): Promise<void> {
  const real = await really(path);
  const roots = await Promise.all(folderRoots.map(really));
  if (roots.some((root) => real === root || real.startsWith(`${root}/`))) return;
  throw invalid(
    `${path} lies outside of the folders that may be registered.`,
    folderRoots.length > 0
      ? `Choose a place below ${folderRoots.join(' or ')}, let an operator add one to IDREL_FOLDER_ROOTS, or let an agent near it read it.`
      : 'Let an operator name folders in IDREL_FOLDER_ROOTS, or let an agent near it read it.',
    [{ field: 'address.path', message: 'lies outside of the permitted folders' }],
  );
}

/**
 * Holds what a source's address names to what this machine may reach. Asked when a source is registered and again whenever it is read: a link or a name
 * can have come to mean something else. What an agent reads lies on its side.
 */
export async function checkReach(
  limits: Limits,
  kind: SourceKind,
  address: Address,
  agentGroup: unknown,
): Promise<Address> {
  if (agentGroup) return address;
  if (KINDS[kind].onDisk) {
    const path = resolve(String(address.path));
    await checkPath(limits, path);
    return { ...address, path };
  }
  await checkHost(limits, address);
  return address;
}
