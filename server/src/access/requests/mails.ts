import type { RequestAnswer } from '@idrel/contract/access';
import { loadWho } from '../../people/index.ts';
import type { Config } from '../../platform/config.ts';
import type { Database, Db } from '../../platform/database.ts';
import { sendMail } from '../../platform/mail.ts';
import { readRequest, type SeenRequest } from './read.ts';

/** What the job of telling people of a request is given. */
export interface RequestMail {
  readonly requestId: string;
  readonly why: 'asked' | 'reminder' | 'granted' | 'refused' | 'ended';
}
/** Of so many assets of a request a mail tells the paths. */
const MOST_IN_MAIL = 20;
/** Whoever answers is reminded after so long, and again. */
const FIRST_AFTER = "interval '3 days'";
const AGAIN_AFTER = "interval '7 days'";

/** Has those told whom it concerns, when the transaction is through. */
export const tellOfRequest = (tx: Db, mail: RequestMail): Promise<unknown> =>
  tx.run(
    `
      select graphile_worker.add_job(j, $1::json, max_attempts => 8)
      from unnest(array['request', 'request-chat']) j
      where j = 'request' or $2`,
    // Only what can be answered is told in the chat.
    [JSON.stringify(mail), mail.why === 'asked' || mail.why === 'reminder'],
  );

/** Who answers for something of a request: owners, members of the groups that own, and who stands in for them. */
const ANSWERING = `
  with party as (
    select distinct answers_for(x.asset_id) as id from access_request_asset x where x.request_id = $1
  ),
  people as (
    select id from party
    union
    select m.person_id from party join group_member m on m.group_id = party.id
  )
  select distinct p.id
  from people
  left join deputy d on d.person_id = people.id and now() between d.from_at and d.until_at
  join person p on p.id = coalesce(d.deputy_id, people.id)
  join access_request r on r.id = $1
  where p.left_at is null and p.id <> r.person_id`;

/** Whom a request concerns and who may see what it is about, with it, by what stands in the database then. */
async function* concerned(db: Database, { requestId, why }: RequestMail) {
  const isForAnswerers = why === 'asked' || why === 'reminder';
  const ids = await db.rows<{ id: string }>(
    isForAnswerers ? ANSWERING : 'select person_id as id from access_request where id = $1',
    [requestId],
  );
  for (const { id } of ids) {
    const who = await loadWho(db, id);
    const person = await db.one<{ name: string; email: string | null }>(
      'select name, email from person where id = $1',
      [id],
    );
    if (!who || !person?.email) continue;
    const request = await readRequest(db, who, requestId).catch(() => undefined);
    // What was answered or taken back meanwhile is told no more; nor what they may not answer.
    if (!request || (isForAnswerers ? request.state !== 'waiting' || !request.mayAnswer : request.state !== why))
      continue;
    yield { name: person.name, email: person.email, request };
  }
}

/** The work of the job: a mail to each whom it concerns. @returns to how many */
export async function mailOfRequest(db: Database, config: Config, told: RequestMail): Promise<number> {
  if (!config.mail || !config.address) return 0;
  let sent = 0;
  for await (const { name, email, request } of concerned(db, told)) {
    await sendMail(config, { to: email, ...letterOf(config.address, name, request, told.why) });
    sent += 1;
  }
  return sent;
}

/**
 * The work of the job beside it: what somebody asks for, told in the chat to who may answer it there.
 * @param tell sends a message to somebody. @returns to how many
 */
export async function chatOfRequest(
  db: Database,
  { chat, address }: Pick<Config, 'chat' | 'address'>,
  told: RequestMail,
  tell: (to: string, request: RequestAnswer) => Promise<void>,
): Promise<number> {
  if (!chat?.answers || !address) return 0;
  let sent = 0;
  for await (const { email, request } of concerned(db, told)) {
    await tell(email, request);
    sent += 1;
  }
  return sent;
}

export const dayOf = (moment: string | Date): string =>
  new Date(moment).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' });

/** What is written to whoever answers, or to whoever asked. */
export function letterOf(
  address: string,
  name: string,
  {
    id,
    number,
    person,
    purpose,
    note,
    assets,
    askedAt,
    until,
    answer,
    answeredBy,
    granted,
  }: Omit<SeenRequest, 'right' | 'domainIds'>,
  why: RequestMail['why'],
): { subject: string; text: string } {
  const more = assets.length - MOST_IN_MAIL;
  const list = (shown: typeof assets) =>
    [
      ...shown.slice(0, MOST_IN_MAIL).map(({ path, source }) => `  ${path} in ${source}`),
      ...(more > 0 ? [`  and ${more} more`] : []),
    ].join('\n');
  const at = `${address}/access?show=requests&request=${id}`;
  if (why === 'asked' || why === 'reminder')
    return {
      subject:
        why === 'asked'
          ? `${person.name} asks for access (request ${number})`
          : `Request ${number} of ${person.name} waits for your answer`,
      text: [
        `Hello ${name},`,
        `${person.name} has asked on ${dayOf(askedAt)} to read what you answer for:`,
        list(assets),
        `For: ${purpose}${until ? `\nUntil: ${dayOf(until)}` : ''}${note ? `\n\n${note}` : ''}`,
        `See what it would open, and answer:\n${at}\n`,
      ].join('\n\n'),
    };
  const some = assets.filter((asset) => asset.granted);
  const words = { granted: 'is granted', refused: 'is refused', ended: 'has ended' }[why];
  return {
    subject: `Your request ${number} ${words}`,
    text: [
      `Hello ${name},`,
      `${answeredBy ?? 'Somebody'} has answered: your request ${number} (${purpose}) ${words}.`,
      ...(answer ? [answer] : []),
      ...(why === 'granted'
        ? [`You may read now:\n${list(some)}${granted?.until ? `\nUntil: ${dayOf(granted.until)}` : ''}`]
        : []),
      `${at}\n`,
    ].join('\n\n'),
  };
}

/** Reminds those who have not answered for days. @returns of how many requests */
export async function remindOfRequests(db: Database): Promise<number> {
  return db.transaction(async (tx) => {
    const due = await tx.rows<{ id: string }>(
      `
        update access_request
        set reminded_at = now()
        where id in (
          select r.id
          from access_request r
          where r.state = 'waiting' and r.asked_at < now() - ${FIRST_AFTER}
            and (r.reminded_at is null or r.reminded_at < now() - ${AGAIN_AFTER})
          order by r.asked_at
          limit 500
          for update skip locked)
        returning id`,
    );
    for (const { id } of due) await tellOfRequest(tx, { requestId: id, why: 'reminder' });
    return due.length;
  });
}
