import type { News } from '@idrel/contract/exchange';
import { factsOf } from '@idrel/contract/things';
import { changesOf, gathered, spoken } from '@idrel/core/exchange';
import { loadWho } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { sendMail } from '../platform/mail.ts';
import { NEWS, newsOf } from './news.ts';

/** What the job of writing to somebody what came is given. */
export interface NewsMail {
  readonly personId: string;
}
/** So many are told one by one in a mail; of a value so many letters. */
const [MOST, LETTERS] = [20, 200];
/** So many are looked at for one mail: more is told as a number. */
const LOOKED_AT = 500;

/** Has written to whom something is due. @returns to how many */
export async function tendNewsMails(db: Db): Promise<number> {
  return db.run(`
    with due as (
      select distinct person_id from news where mail_at <= now() and mailed_at is null
    )
    select graphile_worker.add_job(
      'news-mail', json_build_object('personId', person_id), job_key => 'news ' || person_id, max_attempts => 8
    )
    from due`);
}

const short = (text: string): string =>
  text.length > LETTERS ? `${text.slice(0, LETTERS).replace(/[\uD800-\uDBFF]$/, '')} …` : text;

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

/** The work of the job: one mail of all that is due. Written first and sent last: what cannot be sent is tried again. @returns whether one was sent */
export const mailOfNews = (db: Database, config: Config, { personId }: NewsMail): Promise<boolean> =>
  db.transaction(async (tx) => {
    const who = await loadWho(tx, personId);
    const person = await tx.one<{ name: string; email: string | null }>(
      'select name, email from person where id = $1 and left_at is null',
      [personId],
    );
    const due = await tx.rows<{ id: string }>(
      `
        update news
        set mailed_at = now()
        where id in (
          select id from news where person_id = $1 and mail_at <= now() and mailed_at is null order by id for update skip locked
        )
        returning id::text`,
      [personId],
    );
    if (due.length === 0 || !who || !person?.email || !config.mail || !config.address) return false;
    const ids = due.map(({ id }) => id);
    // What they may not see any more is not written of.
    const items = await tx.rows<News>(`${NEWS} and n.id = any($6::bigint[]) order by n.id desc limit ${LOOKED_AT}`, [
      ...newsOf(who),
      ids,
    ]);
    if (items.length === 0) return false;
    const told = gathered(items.map((item) => ({ ...item, at: new Date(item.at).toISOString() })));
    const [one] = told;
    const rest = told.length - MOST;
    const { address } = config;
    await sendMail(config, {
      to: person.email,
      subject:
        told.length === 1 && one
          ? short(`${one.first.subject}: ${one.first.action}`)
          : `${ids.length} changes of what you follow`,
      text: [
        `Hello ${person.name},`,
        ...told.slice(0, MOST).map((gathering) => lineOf(address, gathering)),
        ...(rest > 0 || ids.length > LOOKED_AT ? [`And more: ${address}/news`] : []),
        `You have yourself told of this; how, and of what, is changed at ${address}/news?show=subscriptions\n`,
      ].join('\n\n'),
    });
    return true;
  });
