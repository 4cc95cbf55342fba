import { createHash, createHmac } from 'node:crypto';
import type { Digest, Keyed } from '@idrel/core/access';
import type { Config } from '../platform/config.ts';

/**
 * The key of digests, in hexadecimal: of the installation, or made from it for one organisation, so that what one reads cannot be joined with what another reads.
 * @param organisation of the reader; empty for those of whom none is known
 */
export const digestKeyFor = (config: Pick<Config, 'digestKey'>, keyed: Keyed, organisation: string): string =>
  keyed === 'installation'
    ? config.digestKey.toString('hex')
    : createHmac('sha256', config.digestKey).update(`organisation:${organisation}`).digest('hex');

/** Digests as the source makes them, for values that are hidden here. */
export function digestsFor(config: Pick<Config, 'digestKey'>, organisation: string): Digest {
  const keys = {
    installation: digestKeyFor(config, 'installation', organisation),
    organisation: digestKeyFor(config, 'organisation', organisation),
  };
  return (text, keyed) =>
    createHash('sha256')
      .update(keys[keyed] + text)
      .digest('hex');
}
