import { type CallableFacts, Callables } from '@idrel/core/access';
import { readCallables } from '@idrel/readers/connectors';
import type { ClientBase } from 'pg';

/** How long what a source can call is taken as known; a change of its functions shows after that. */
const KNOWN_FOR = 5 * 60_000;

interface Known {
  readonly facts: CallableFacts;
  readonly callables: Callables;
  readonly until: number;
}
const known = new Map<string, Known>();

/** What statements can call at a source, where that is known still. */
export function knownCallables(sourceId: string, version: number): Callables | undefined {
  const found = known.get(`${sourceId} ${version}`);
  return found && found.until > Date.now() ? found.callables : undefined;
}

/**
 * What statements can call at a source, from its own catalog. Every server reads it for itself; it is read again after five minutes and after
 * the source was changed here.
 * @param version of the source as it is registered
 */
export async function callablesOf(sourceId: string, version: number, client: ClientBase): Promise<Known> {
  const key = `${sourceId} ${version}`;
  const found = known.get(key);
  if (found && found.until > Date.now()) return found;
  const facts = await readCallables(client);
  const fresh = { facts, callables: new Callables(facts), until: Date.now() + KNOWN_FOR };
  for (const [other, entry] of known)
    if (entry.until < Date.now() || other.startsWith(`${sourceId} `)) known.delete(other);
  known.set(key, fresh);
  return fresh;
}
