import type { CredentialAnswer, CredentialKind } from '@idrel/contract/sources';
import type { Secret } from '@idrel/readers/connectors';
import { change, create, type Kept, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { conflict, notFound } from '../platform/problems.ts';
import { encrypt, sealedAnew } from '../platform/secrets.ts';
import { CREDENTIAL, type CredentialRow } from './models.ts';

export interface CredentialBody extends Secret {
  readonly name: string;
  readonly kind: CredentialKind;
}

/** Whether a source `s` uses a credential `c`: to be read, or to hold policies itself. */
const USES =
  '(s.credential_id = c.id or exists (select from enforcement e where e.source_id = s.id and e.credential_id = c.id))';

const SELECT = `
  select
    c.id, c.name, c.kind, c.username, c.version, c.rotated_at as "rotatedAt",
    coalesce(
      (
        select json_agg(json_build_object('id', s.id, 'name', s.name) order by s.name)
        from source s
        where ${USES} and s.domain_id = any($1::uuid[])
      ),
      '[]'
    ) as "usedBy",
    (select count(*)::int from source s where ${USES} and s.domain_id <> all($1::uuid[])) as "usedElsewhere"
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

const CREDENTIALS: Kept<CredentialRow, CredentialAnswer> = {
  thing: 'credential',
  model: CREDENTIAL,
  read: getCredential,
  told: (_db, { name, kind, username }) => ({ name, kind, username }),
};

export async function addCredential(
  tx: Db,
  config: Config,
  who: Who,
  { name, kind, username, password }: CredentialBody,
): Promise<CredentialAnswer> {
  const values = { name, kind, username, secret: encrypt(config.key, password), createdBy: who.id };
  return create(tx, who, CREDENTIALS, values, { action: 'stored' });
}

/** A new secret for all sources that use it: only who may administer each of them may do that. */
export async function rotateCredential(
  tx: Db,
  config: Config,
  who: Who,
  id: string,
  version: number,
  { username, password }: Secret,
): Promise<CredentialAnswer> {
  const kept: typeof CREDENTIALS = {
    ...CREDENTIALS,
    // That it was changed is told also where the user stays the same; of the secret nothing is.
    told: (_db, credential) => ({ username: credential.username, rotated: credential.rotatedAt }),
    async may(db) {
      const domains = await db.rows<{ domainId: string }>(
        `select distinct s.domain_id as "domainId" from credential c join source s on ${USES} where c.id = $1`,
        [id],
      );
      for (const { domainId } of domains) who.must('source administrator', domainId);
    },
  };
  const { after } = await change(tx, who, kept, id, {
    version,
    values: (before) => ({
      username: username || before.username,
      secret: encrypt(config.key, password),
      rotatedAt: new Date(),
    }),
    action: 'secret changed',
  });
  return after;
}

export async function removeCredential(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, CREDENTIALS, id, {
    unless(credential) {
      const uses = credential.usedBy.length + credential.usedElsewhere;
      if (uses === 0) return;
      const named = credential.usedBy.map((source) => source.name).join(', ');
      throw conflict(
        'still-used',
        `${uses === 1 ? 'A source uses' : `${uses} sources use`} “${credential.name}”${named ? `: ${named}` : ''}.`,
        'Give these another credential first.',
      );
    },
  });
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
    if (!secret) continue;
    const anew = sealedAnew(config, secret);
    if (anew === undefined) lost.push(name);
    else if (anew !== secret) {
      await tx.run('update credential set secret = $2 where id = $1', [id, anew]);
      resealed += 1;
    }
  }
  return { resealed, lost };
}
