import { BlockList, isIP } from 'node:net';

/**
 * Addresses that are somebody's own network: of this machine (RFC 1122, RFC 4291), private (RFC 1918, RFC 4193), of the link (RFC 3927), shared (RFC 6598), for
 * protocols and tests (RFC 6890), reached through a translator (RFC 6052), and those of many (RFC 1112, RFC 4291).
 */
const OWN_NETWORKS = [
  '0.0.0.0/8',
  '10.0.0.0/8',
  '100.64.0.0/10',
  '127.0.0.0/8',
  '169.254.0.0/16',
  '172.16.0.0/12',
  '192.0.0.0/24',
  '192.168.0.0/16',
  '198.18.0.0/15',
  '224.0.0.0/3',
  '::/128',
  '::1/128',
  '64:ff9b::/96',
  'fc00::/7',
  'fe80::/10',
  'ff00::/8',
];

function listOf(networks: readonly string[]): BlockList {
  const list = new BlockList();
  for (const network of networks) {
    const [address = '', bits] = network.split('/');
    const family = isIP(address) === 6 ? 'ipv6' : 'ipv4';
    if (bits === undefined) list.addAddress(address, family);
    else list.addSubnet(address, Number(bits), family);
  }
  return list;
}
const OWN = listOf(OWN_NETWORKS);

/** An IPv4 address that is written as an IPv6 one is the IPv4 address. */
const plain = (given: string): string => {
  const address = given.replace(/%.*$/, '');
  const mapped = /^::ffff:(?:(\d+\.\d+\.\d+\.\d+)|([0-9a-f]{1,4}):([0-9a-f]{1,4}))$/i.exec(address);
  if (!mapped) return address;
  if (mapped[1]) return mapped[1];
  const [high, low] = [Number.parseInt(mapped[2] ?? '', 16), Number.parseInt(mapped[3] ?? '', 16)];
  return [high >> 8, high & 255, low >> 8, low & 255].join('.');
};
const within = (list: BlockList, address: string) => list.check(address, isIP(address) === 6 ? 'ipv6' : 'ipv4');

/** Whether an address (IPv4 or IPv6) is none of the world. */
export const isOwn = (address: string): boolean => within(OWN, plain(address));

/** Whether an address lies in one of some networks (CIDR). */
export const isWithin = (networks: readonly string[], address: string): boolean =>
  within(listOf(networks), plain(address));
