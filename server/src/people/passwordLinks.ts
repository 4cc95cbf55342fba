import type { LinkAnswer } from '@idrel/contract/people';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { sendMail } from '../platform/mail.ts';
import { ApiProblem, conflict, notFound } from '../platform/problems.ts';
import { digest, newToken } from '../platform/secrets.ts';
import { recordOfPerson } from './ofPerson.ts';
import { type Knows, setPassword } from './passwords.ts';
import { endSessions } from './sessions.ts';
import type { Who } from './who.ts';

/** Why a link is sent: somebody asked for it on the page of signing in, or an administrator invites them. */
type Reason = 'forgotten' | 'invited';
/** How long a link holds, in minutes. */
const HOLDS: Record<Reason, number> = { forgotten: 60, invited: 3 * 24 * 60 };
/** So many are sent to one person within an hour. */
const MOST_AN_HOUR = 5;

/** What the job of sending mail is given. Links are made when they are sent, so that none stands in the queue of jobs. */
export type MailTask =
  | { readonly kind: 'link'; readonly email: string; readonly why: Reason }
  | { readonly kind: 'password-set'; readonly email: string };

const enqueue = (tx: Db, task: MailTask): Promise<unknown> =>
  tx.run("select graphile_worker.add_job('mail', $1::json, max_attempts => 8)", [JSON.stringify(task)]);

export const canSendLinks = ({ mail, address, passwords }: Config): boolean =>
  passwords && mail !== null && address !== null;

function mustSend(config: Config): void {
  if (!canSendLinks(config))
    throw conflict(
      'no-mail',
      config.passwords ? 'No mail can be sent: none is set up here.' : 'Nobody signs in by password here.',
      config.passwords ? 'The operator sets IDREL_MAIL_URL, IDREL_MAIL_FROM and IDREL_ADDRESS.' : undefined,
    );
}

/** Has a link sent to whoever has this address; nothing tells whether somebody has. */
export async function askLink(db: Db, config: Config, email: string): Promise<void> {
  mustSend(config);
  await enqueue(db, { kind: 'link', email, why: 'forgotten' });
}

/** Has a link sent to somebody who was added just now; where no mail can be sent, nothing. */
export async function inviteByMail(tx: Db, config: Config, email: string): Promise<void> {
  if (canSendLinks(config)) await enqueue(tx, { kind: 'link', email, why: 'invited' });
}

/** Has a link sent to somebody who is to set a password, told in the journal. */
export async function invite(tx: Db, config: Config, who: Who, id: string): Promise<void> {
  who.mustEverywhere('administrator');
  mustSend(config);
  const person = await tx.one<Knows>('select id, name, email from person where id = $1 and left_at is null', [id]);
  if (!person) throw notFound('The person');
  if ((await sentLately(tx, id)) >= MOST_AN_HOUR)
    throw new ApiProblem('too-many-tries', `${person.name} was sent ${MOST_AN_HOUR} links within the hour.`, {
      mend: 'The last one holds. Wait a while before you send another.',
    });
  await enqueue(tx, { kind: 'link', email: person.email, why: 'invited' });
  await recordOfPerson(tx, who, 'invited', person, null, {
    invited: 'to set a password',
  });
}

const sentLately = async (db: Db, personId: string): Promise<number> =>
  (
    await db.one<{ n: number }>(
      "select count(*)::int as n from password_link where person_id = $1 and made_at > now() - interval '1 hour'",
      [personId],
    )
  )?.n ?? 0;

interface Link {
  readonly token: string;
  readonly address: string;
}
async function putLink(tx: Db, address: string, personId: string, why: Reason): Promise<Link> {
  const token = newToken();
  await tx.run(
    "insert into password_link (token_hash, person_id, expires_at) values ($1, $2, now() + $3 * interval '1 minute')",
    [digest(token), personId, HOLDS[why]],
  );
  // Behind the #, which browsers send to nobody: it stands in no log.
  return { token, address: `${address}/set-password#${token}` };
}
/** Links from before end; they stay in the table, to be counted. */
const endOthers = (tx: Db, personId: string, token: string): Promise<unknown> =>
  tx.run('update password_link set expires_at = least(expires_at, now()) where person_id = $1 and token_hash <> $2', [
    personId,
    digest(token),
  ]);

/** Makes a link for a person; those from before end. @returns its address */
export async function makeLink(tx: Db, address: string, personId: string, why: Reason): Promise<string> {
  const link = await putLink(tx, address, personId, why);
  await endOthers(tx, personId, link.token);
  return link.address;
}

/** The work of the job: what is written to whom is told by what stands in the database then. */
export async function runMailTask(db: Database, config: Config, task: MailTask): Promise<void> {
  if (!canSendLinks(config)) return;
  const person = await db.one<Knows & { password: boolean; outside: boolean }>(
    `
      select
        id, name, email, password_hash is not null as password,
        exists (select from outside_identity where person_id = person.id) as outside
      from person
      where lower(email) = lower($1) and left_at is null`,
    [task.email],
  );
  if (!person) return;
  if (task.kind === 'link') await sendLink(db, config, person, task.why);
  else await sendMail(config, { to: person.email, ...letterOfChange(config, person) });
}

/** A link is there before whoever gets it can press it; one that could not be sent was never made, and those from before hold on. */
async function sendLink(
  db: Database,
  config: Config,
  person: Knows & { password: boolean; outside: boolean },
  why: Reason,
): Promise<void> {
  const made = await db.transaction((tx) => letterWithLink(tx, config, person, why));
  if (!made) return;
  const { token, ...mail } = made;
  try {
    await sendMail(config, { to: person.email, ...mail });
  } catch (error) {
    if (token) await db.run('delete from password_link where token_hash = $1', [digest(token)]);
    throw error;
  }
  if (token) await endOthers(db, person.id, token);
}

type Letter = { readonly subject: string; readonly text: string };
type LetterWithLink = Letter & { readonly token?: string };

async function letterWithLink(
  tx: Db,
  config: Config,
  person: Knows & { password: boolean; outside: boolean },
  why: Reason,
): Promise<LetterWithLink | undefined> {
  // Who signs in by the provider has its second factor: a password that a mailbox opens would be a way around it.
  if (why === 'forgotten' && !person.password && person.outside)
    return {
      subject: 'How you sign in to Idrel',
      text: `Hello ${person.name},\n\nsomebody, probably you, asked for a link to set a password in Idrel. You have none: you sign in with ${config.outside?.name ?? 'the identity provider of your organisation'}.\n\n${config.address}\n`,
    };
  if ((await sentLately(tx, person.id)) >= MOST_AN_HOUR) return undefined;
  const { token, address: link } = await putLink(tx, config.address ?? '', person.id, why);
  return why === 'invited'
    ? {
        token,
        subject: 'Your way into Idrel',
        text: `Hello ${person.name},\n\nyou were added to Idrel. Set a password here, within three days:\n\n${link}\n\nAfterwards you sign in with ${person.email} at ${config.address}\n`,
      }
    : {
        token,
        subject: 'A new password for Idrel',
        text: `Hello ${person.name},\n\nsomebody, probably you, asked for a new password. Set it here, within an hour:\n\n${link}\n\nIf it was not you, you need not do anything: your password stays as it is.\n`,
      };
}

const letterOfChange = ({ address }: Config, { name }: Knows): Letter => ({
  subject: 'Your password for Idrel was set',
  text: `Hello ${name},\n\nyour password for Idrel was set just now, and all other sessions of yours were ended. If it was not you, have a new link sent at ${address} and tell an administrator.\n`,
});

/** @throws 410 when the link is no more */
async function personOfLink(tx: Db, token: string): Promise<Knows & { minutes: number }> {
  const link = await tx.one<Knows & { minutes: number }>(
    `
      select p.id, p.name, p.email, ceil(extract(epoch from l.expires_at - now()) / 60)::int as minutes
      from password_link l
      join person p on p.id = l.person_id
      where l.token_hash = $1 and l.expires_at > now() and p.left_at is null
      for update of l`,
    [digest(token)],
  );
  if (!link)
    throw new ApiProblem('link-ended', 'This link was used already, or its time is over, or a newer one was sent.', {
      mend: 'Have a new one sent.',
    });
  return link;
}

const answerOf = ({ name, email, minutes }: Knows & { minutes: number }): LinkAnswer => ({ name, email, minutes });

export const readLink = async (tx: Db, token: string): Promise<LinkAnswer> => answerOf(await personOfLink(tx, token));

/** Sets a password by a link, which ends with it, as do all sessions of the person. A password that is not good enough leaves the link. */
export async function usePasswordLink(tx: Db, token: string, password: string): Promise<LinkAnswer> {
  const person = await personOfLink(tx, token);
  await setPassword(tx, person, password);
  await endSessions(tx, person.id, null);
  await tx.run('delete from known_browser where person_id = $1', [person.id]);
  await enqueue(tx, { kind: 'password-set', email: person.email });
  return answerOf(person);
}

/** After a person has set their password by themselves: their other sessions end, and they are written to. */
export async function afterChange(tx: Db, person: Knows, here: string): Promise<number> {
  const ended = await endSessions(tx, person.id, null, here);
  await enqueue(tx, { kind: 'password-set', email: person.email });
  return ended;
}
