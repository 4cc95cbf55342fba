import type { News } from '@idrel/contract/exchange';
import { factsOf } from '@idrel/contract/things';
import { changesOf, gathered, spoken } from '@idrel/core/exchange';
import { shortened } from '@idrel/core/text';
import { loadWho } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { sendMail } from '../platform/mail.ts';
import { tellInChat } from './chat.ts';
import { NEWS, newsOf } from './news.ts';

/** The ways by which people are told beside the news themselves: when it is due, and that it was done. */
const WAYS = {
  mail: { due: 'mail_at', done: 'mailed_at' },
  chat: { due: 'chat_at', done: 'chatted_at' },
} as const;
type Way = keyof typeof WAYS;

/** What the job of telling somebody what came is given. */
export interface NewsJob {
  readonly personId: string;
  readonly way: Way;
}
/** So many are told one by one; of a value so many letters. */
const MOST: Readonly<Record<Way, number>> = { mail: 20, chat: 5 };
const LETTERS = 200;
/** So many are looked at at once: more is told as a number. */
const LOOKED_AT = 500;

/** The ways that there are here. */
const waysOf = ({ mail, chat, address }: Config): Way[] =>
  address ? [...(mail ? (['mail'] as const) : []), ...(chat ? (['chat'] as const) : [])] : [];

/** Has told to whom something is due; without mail or chat it waits until there is some. */
export async function tendNewsOut(db: Db, config: Config): Promise<void> {
  for (const way of waysOf(config))
    await db.run(
      `
        with due as (
          select distinct person_id from news where ${WAYS[way].due} <= now() and ${WAYS[way].done} is null
        )
        select graphile_worker.add_job(
          'news', json_build_object('personId', person_id, 'way', $1::text), job_key => 'news ' || $1::text || ' ' || person_id, max_attempts => 8
        )
        from due`,
      [way],
    );
}

const short = (text: string): string => shortened(text, LETTERS);

/** What came, in words: what, by whom, from what to what, and where. */
export function lineOf(address: string, { first, more }: { readonly first: News; readonly more: number }): string {
  const { kind, subject, subjectId, action, person, byKey, domain } = first;
  const facts = factsOf(kind);
  const where = first.after === null ? undefined : facts?.address?.(subjectId);
  const by = `${person ?? 'Idrel'}${byKey ? ` (by the key “${byKey}”)` : ''}`;
  return [
    more > 0
      ? `${subject} and ${more} more of its kind (${facts?.label ?? kind}${domain ? `, ${domain}` : ''}): ${action}, by ${by}`
      : `${subject} (${facts?.label ?? kind}${domain ? `, ${domain}` : ''}): ${action}, by ${by}`,
    ...changesOf(first).map(({ field, before, after }) =>
      before === null
        ? `  ${spoken(field)}: ${short(after ?? '')}`
        : `  ${spoken(field)}: ${short(before)} → ${after === null ? 'removed' : short(after)}`,
    ),
    ...(where === undefined ? [] : [`  ${address}${where}`]),
  ].join('\n');
}

/** Sends a text to somebody. @throws when it is not taken */
async function sendBy(way: Way, config: Config, to: string, subject: string, text: string): Promise<void> {
  if (way === 'mail') return sendMail(config, { to, subject, text });
  const { problem } = await tellInChat(config, { to, text });
  if (problem !== null) throw new Error(`The chat did not take it. ${problem}`);
}

/**
 * The work of the job: one mail or message of all that is due. Written first and sent last: what cannot be sent is tried again.
 * @returns whether one was sent
 */
export const tellNews = (db: Database, config: Config, { personId, way }: NewsJob): Promise<boolean> =>
  db.transaction(async (tx) => {
    if (!waysOf(config).includes(way)) return false;
    const { due, done } = WAYS[way];
    const who = await loadWho(tx, personId);
    const person = await tx.one<{ name: string; email: string | null }>(
      'select name, email from person where id = $1 and left_at is null',
      [personId],
    );
    const told = await tx.rows<{ id: string }>(
      `
        update news
        set ${done} = now()
        where id in (
          select id from news where person_id = $1 and ${due} <= now() and ${done} is null order by id for update skip locked
        )
        returning id::text`,
      [personId],
    );
    if (told.length === 0 || !who || !person?.email) return false;
    // What they may not see any more is not told.
    const items = await tx.rows<News>(`${NEWS} and n.id = any($6::bigint[]) order by n.id desc limit ${LOOKED_AT}`, [
      ...newsOf(who),
      told.map(({ id }) => id),
    ]);
    if (items.length === 0) return false;
    const gatherings = gathered(items.map((item) => ({ ...item, at: new Date(item.at).toISOString() })));
    const [one] = gatherings;
    const address = config.address ?? '';
    const many = `${items.length === LOOKED_AT ? `${LOOKED_AT} or more` : items.length} changes of what you follow`;
    const subject = gatherings.length === 1 && one ? short(`${one.first.subject}: ${one.first.action}`) : many;
    const more = gatherings.length > MOST[way] || items.length === LOOKED_AT ? [`And more: ${address}/news`] : [];
    const lines = gatherings.slice(0, MOST[way]).map((gathering) => lineOf(address, gathering));
    const text =
      way === 'chat'
        ? [...lines, ...more].join('\n\n')
        : [
            `Hello ${person.name},`,
            ...lines,
            ...more,
            `You have yourself told of this; how, and of what, is changed at ${address}/news?show=subscriptions\n`,
          ].join('\n\n');
    await sendBy(way, config, person.email, subject, text);
    return true;
  });
