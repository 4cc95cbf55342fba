import { Webhook as Signer } from 'standardwebhooks';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { type Posted, post } from '../platform/post.ts';
import { ApiProblem } from '../platform/problems.ts';
import { decrypt } from '../platform/secrets.ts';

/** The secrets by which messages of a webhook are signed now, the newest first. @throws 409 when no key opens one */
export async function keysOf(db: Db, { key }: Pick<Config, 'key'>, id: string): Promise<readonly string[]> {
  const row = await db.one<{ secret: Buffer; before: Buffer | null }>(
    'select secret, case when before_ends_at > now() then secret_before end as before from webhook where id = $1',
    [id],
  );
  try {
    return [row?.secret, row?.before].flatMap((sealed) => (sealed ? [decrypt(key, sealed)] : []));
  } catch {
    throw new ApiProblem('secret-unreadable', 'The secret of the webhook cannot be read by this server’s key.', {
      mend: 'Make a new one.',
    });
  }
}

/**
 * Sends an event as a message of Standard Webhooks: its id, the moment and the text are signed (HMAC-SHA256) by each of the secrets. The body is the CloudEvent in
 * its structured form.
 */
export function send(
  config: Pick<Config, 'callNetworks'>,
  address: string,
  secrets: readonly string[],
  event: { readonly id: string; readonly [more: string]: unknown },
): Promise<Posted> {
  const text = JSON.stringify(event);
  const now = new Date();
  return post(
    config,
    address,
    {
      'content-type': 'application/cloudevents+json',
      'user-agent': 'Idrel',
      'webhook-id': event.id,
      'webhook-timestamp': String(Math.floor(now.getTime() / 1000)),
      'webhook-signature': secrets.map((secret) => new Signer(secret).sign(event.id, now, text)).join(' '),
    },
    text,
  );
}
