import type { ShareAnswer } from '@idrel/contract/access';
import { loadWho } from '../../people/index.ts';
import type { Config } from '../../platform/config.ts';
import type { Database, Db } from '../../platform/database.ts';
import { sendMail } from '../../platform/mail.ts';
import { dayOf } from '../requests/mails.ts';
import { shareOf } from './read.ts';

/** What the job of telling people of a share is given. */
export interface ShareMail {
  readonly shareId: string;
  readonly why: 'offered' | 'ended' | 'accepted' | 'declined' | 'given back';
}

/** Has those told whom it concerns, when the transaction is through. */
export const tellOfShare = (tx: Db, mail: ShareMail): Promise<unknown> =>
  tx.run("select graphile_worker.add_job('share', $1::json, max_attempts => 8)", [JSON.stringify(mail)]);

/** The work of the job: a mail to who speaks for the partner, or to who offered it. @returns to how many */
export async function mailOfShare(db: Database, config: Config, { shareId, why }: ShareMail): Promise<number> {
  if (!config.mail || !config.address) return 0;
  const toPartner = why === 'offered' || why === 'ended';
  const people = await db.rows<{ id: string; name: string; email: string }>(
    toPartner
      ? 'select p.id, p.name, p.email from share h join person p on p.partner_id = h.partner_id where h.id = $1 and p.leads and p.left_at is null'
      : 'select p.id, p.name, p.email from share h join person p on p.id = h.offered_by where h.id = $1 and p.left_at is null',
    [shareId],
  );
  const share = await shareOf(db, shareId).catch(() => undefined);
  // What has become of it meanwhile is told by a mail of its own.
  if (!share || (why === 'offered' && share.state !== 'offered')) return 0;
  let sent = 0;
  for (const { id, name, email } of people) {
    const who = await loadWho(db, id);
    if (!who || (!toPartner && !who.isAnywhere('policy administrator'))) continue;
    await sendMail(config, { to: email, ...letterOf(config.address, name, share, why) });
    sent += 1;
  }
  return sent;
}

/** What is written to who speaks for the partner, or to who offered it. */
export function letterOf(
  address: string,
  name: string,
  share: Pick<
    ShareAnswer,
    'id' | 'number' | 'name' | 'note' | 'partner' | 'until' | 'answer' | 'localName' | 'endedBecause'
  >,
  why: ShareMail['why'],
): { subject: string; text: string } {
  const { number, partner, note, until, answer, localName, endedBecause } = share;
  const title = `“${share.name}”`;
  const mail = (subject: string, ...parts: readonly string[]) => ({
    subject,
    text: [`Hello ${name},`, ...parts.filter(Boolean)].join('\n\n'),
  });
  const giver = `${address}/access?show=shares&share=${share.id}\n`;
  switch (why) {
    case 'offered':
      return mail(
        `${title} is offered to ${partner}`,
        `${title} is offered to ${partner}: nothing is read before you accept.`,
        note,
        until ? `It ends on ${dayOf(until)}.` : '',
        `See what it holds, and answer:\n${address}/shared\n`,
      );
    case 'ended':
      return mail(
        `${title} has ended`,
        `${title} is not shared with ${partner} any more.`,
        endedBecause,
        `${address}/shared\n`,
      );
    case 'accepted':
      return mail(
        `${partner} has accepted share ${number}`,
        `${partner} reads ${title} as “${localName}”.`,
        answer,
        giver,
      );
    case 'declined':
      return mail(`${partner} has declined share ${number}`, `${partner} does not take ${title}.`, answer, giver);
    case 'given back':
      return mail(
        `${partner} has given share ${number} back`,
        `${partner} does not read ${title} any more.`,
        endedBecause,
        giver,
      );
  }
}
