import type { CredentialAnswer, CredentialKind } from '@idrel/contract/sources';
import type { Secret } from '@idrel/readers/connectors';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { conflict, mustBeCurrent, notFound } from '../platform/problems.ts';
import { decrypt, encrypt } from '../platform/secrets.ts';

export interface CredentialBody extends Secret {
  readonly name: string;
  readonly kind: CredentialKind;
}

const SELECT = `
  select c.id, c.name, c.kind, c.username, c.version, c.rotated_at as "rotatedAt",
         coalesce((select json_agg(json_build_object('id', s.id, 'name', s.name) order by s.name) from source s where s.credential_id = c.id and s.domain_id = any($1::uuid[])), '[]') as "usedBy",
         (select count(*)::int from source s where s.credential_id = c.id and s.domain_id <> all($1::uuid[])) as "usedElsewhere"
  from credential c`;

export async function listCredentials(db: Db, who: Who): Promise<CredentialAnswer[]> {
  who.mustAnywhere('source administrator');
  return db.rows<CredentialAnswer>(`${SELECT} order by c.name`, [who.domainsAs('reader')]);
}

async function getCredential(db: Db, who: Who, id: string): Promise<CredentialAnswer> {
  who.mustAnywhere('source administrator');
  const found = await db.one<CredentialAnswer>(`${SELECT} where c.id = $2`, [who.domainsAs('reader'), id]);
  if (!found) throw notFound('The credential');
  return found;
}

const subject = ({ id, name }: { id: string; name: string }) => ({ kind: 'credential', id, name, domainId: null });

export async function addCredential(
  tx: Db,
  config: Config,
  who: Who,
  { name, kind, username, password }: CredentialBody,
): Promise<CredentialAnswer> {
  who.mustAnywhere('source administrator');
  const [row] = await tx.rows<{ id: string }>(
    'insert into credential (name, kind, username, secret, created_by) values ($1, $2, $3, $4, $5) on conflict (name) do nothing returning id',
    [name, kind, username, encrypt(config.key, password), who.id],
  );
  if (!row) throw conflict('name-taken', `There already is a credential named “${name}”.`, 'Choose another name.');
  await record(tx, who.id, 'stored', subject({ id: row.id, name }), null, { name, kind, username });
  return getCredential(tx, who, row.id);
}

/** A new secret for all sources that use it: only who may administer each of them may do that. */
export async function rotateCredential(
  tx: Db,
  config: Config,
  who: Who,
  id: string,
  version: number | undefined,
  { username, password }: Secret,
): Promise<CredentialAnswer> {
  await tx.rows('select 1 from credential where id = $1 for update', [id]);
  const before = await getCredential(tx, who, id);
  for (const { domainId } of await tx.rows<{ domainId: string }>(
    'select distinct domain_id as "domainId" from source where credential_id = $1',
    [id],
  ))
    who.must('source administrator', domainId);
  mustBeCurrent(version, before);
  const next = username || before.username;
  await tx.run(
    'update credential set username = $2, secret = $3, version = version + 1, rotated_at = now() where id = $1',
    [id, next, encrypt(config.key, password)],
  );
  await record(tx, who.id, 'secret changed', subject(before), { username: before.username }, { username: next });
  return getCredential(tx, who, id);
}

export async function removeCredential(tx: Db, who: Who, id: string): Promise<void> {
  const found = await getCredential(tx, who, id);
  const uses = found.usedBy.length + found.usedElsewhere;
  if (uses > 0) {
    const named = found.usedBy.map((source) => source.name).join(', ');
    throw conflict(
      'still-used',
      `${uses === 1 ? 'A source uses' : `${uses} sources use`} “${found.name}”${named ? `: ${named}` : ''}.`,
      'Give these another credential first.',
    );
  }
  await tx.run('delete from credential where id = $1', [id]);
  await record(tx, who.id, 'removed', subject(found), { name: found.name, kind: found.kind }, null);
}

/**
 * Encrypts secrets anew that are still under a key from before: the one given (as versions before did), or the one that was replaced (IDREL_KEY_BEFORE).
 * @returns how many were encrypted anew, and names of those that no key opens
 */
export async function resealCredentials(
  tx: Db,
  config: Pick<Config, 'key' | 'keysBefore'>,
): Promise<{ resealed: number; lost: string[] }> {
  const lost: string[] = [];
  let resealed = 0;
  for (const { id, name, secret } of await tx.rows<{ id: string; name: string; secret: Buffer | null }>(
    'select id, name, secret from credential where secret is not null order by name for update',
  )) {
    if (!secret || opens(config.key, secret) !== undefined) continue;
    const text = config.keysBefore.map((key) => opens(key, secret)).find((found) => found !== undefined);
    if (text === undefined) lost.push(name);
    else {
      await tx.run('update credential set secret = $2 where id = $1', [id, encrypt(config.key, text)]);
      resealed += 1;
    }
  }
  return { resealed, lost };
}

function opens(key: Buffer, secret: Buffer): string | undefined {
  try {
    return decrypt(key, secret);
  } catch {
    return undefined;
  }
}
