import { KINDS, type SourceKind } from '@idrel/contract/sources';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { encrypt } from '../platform/secrets.ts';

/** What stands between `://` and `@`, in texts of any form. */
const USER_INFO = '(://)[^/@"\\s]+@';

/**
 * Takes secrets out of addresses that were registered before addresses were held to be without: name and password go into a credential where the
 * source has none, and out of the journal.
 * @returns names of the sources
 */
export async function splitAddressSecrets(tx: Db, config: Pick<Config, 'key'>): Promise<string[]> {
  const sources = await tx.rows<{
    id: string;
    name: string;
    kind: SourceKind;
    url: string;
    credentialId: string | null;
  }>(
    `
      select id, name, kind, address ->> 'url' as url, credential_id as "credentialId"
      from source
      where address ->> 'url' ~ '://[^/]*@'
      order by name
      for update`,
  );
  for (const source of sources) {
    const url = new URL(source.url);
    const [user, password] = [decodeURIComponent(url.username), decodeURIComponent(url.password)];
    url.username = '';
    url.password = '';
    let { credentialId } = source;
    const kind = KINDS[source.kind].credential;
    if (credentialId === null && kind !== 'none') {
      const made = await tx.one<{ id: string }>(
        `
          insert into credential (name, kind, username, secret)
          values ($1, $2, $3, $4)
          on conflict (name)
          do nothing
          returning id`,
        [
          `From the address of ${source.name}`,
          kind,
          kind === 'token' ? '' : user,
          encrypt(config.key, password || user),
        ],
      );
      credentialId = made?.id ?? null;
    }
    await tx.run(
      `
        update source
        set address = jsonb_set(address, '{url}', to_jsonb($2::text)), credential_id = $3, version = version + 1
        where id = $1`,
      [source.id, url.href, credentialId],
    );
  }
  await tx.run(
    `
      update journal
      set
        before = regexp_replace(before::text, $1, '\\1', 'g')::jsonb,
        after = regexp_replace(after::text, $1, '\\1', 'g')::jsonb
      where subject_kind = 'source' and (before::text ~ $1 or after::text ~ $1)`,
    [USER_INFO],
  );
  return sources.map((source) => source.name);
}
