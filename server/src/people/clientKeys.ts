import type { ClientKey } from '@idrel/contract/people';
import type { Db, Tx } from '../platform/database.ts';
import { ApiProblem, notFound } from '../platform/problems.ts';
import { digest, newToken } from '../platform/secrets.ts';
import { recordOfPerson } from './ofPerson.ts';
import { loadWho, type Who } from './who.ts';

/** By which keys are known for what they are wherever they turn up. */
const BEGINNING = 'idrel_client_';
/** So many keys of one person hold at once. */
const MOST = 20;

export const listClientKeys = (db: Db, who: Who): Promise<ClientKey[]> =>
  db.rows<ClientKey>(
    `
      select id, name, made_at as "madeAt", ends_at as "endsAt", used_at as "usedAt"
      from client_key
      where person_id = $1 and ends_at > now()
      order by made_at desc, id`,
    [who.id],
  );

/** Makes a key; kept as a digest, told this once. */
export async function makeClientKey(
  tx: Tx,
  who: Who,
  { name, days }: { readonly name: string; readonly days: number },
): Promise<{ id: string; key: string; endsAt: string }> {
  await tx.run('delete from client_key where person_id = $1 and ends_at <= now()', [who.id]);
  const held = await tx.one<{ n: number }>('select count(*)::int as n from client_key where person_id = $1', [who.id]);
  if ((held?.n ?? 0) >= MOST)
    throw new ApiProblem('too-many-keys', `You have ${MOST} keys already.`, { mend: 'End one that you do not need.' });
  const key = `${BEGINNING}${newToken()}`;
  const made = await tx.one<{ id: string; endsAt: string }>(
    `
      insert into client_key (person_id, name, key_hash, ends_at)
      values ($1, $2, $3, now() + $4 * interval '1 day')
      returning id, ends_at as "endsAt"`,
    [who.id, name, digest(key), days],
  );
  await recordOfPerson(tx, who, 'client key made', who, null, { name, days });
  return { id: '', endsAt: '', ...made, key };
}

export async function endClientKey(tx: Tx, who: Who, id: string): Promise<void> {
  const ended = await tx.one<{ name: string }>(
    'delete from client_key where id = $2 and person_id = $1 returning name',
    [who.id, id],
  );
  if (!ended) throw notFound('The key');
  await recordOfPerson(tx, who, 'client key ended', who, ended, null);
}

/**
 * The person who reads by a key now, with the rights they have now; nobody once it has ended or they have left.
 * @param email whose key it is said to be
 */
export async function whoOfClientKey(
  db: Db,
  { email, key }: { readonly email: string; readonly key: string },
): Promise<Who | undefined> {
  if (!key.startsWith(BEGINNING)) return undefined;
  const found = await db.one<{ id: string; stale: boolean; keyId: string }>(
    `
      select p.id, k.id as "keyId", coalesce(k.used_at < now() - interval '1 minute', true) as stale
      from client_key k
      join person p on p.id = k.person_id
      where k.key_hash = $1 and k.ends_at > now() and p.left_at is null and lower(p.email) = lower($2)`,
    [digest(key), email],
  );
  if (!found) return undefined;
  if (found.stale) await db.run('update client_key set used_at = now() where id = $1', [found.keyId]);
  return loadWho(db, found.id);
}
