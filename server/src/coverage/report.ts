import { MEASURES } from '@idrel/contract/coverage';
import type { Who } from '../people/index.ts';
import { loadWho } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { sendMail } from '../platform/mail.ts';
import { course } from './course.ts';
import { readPrice } from './price.ts';
import { listTargets } from './targets.ts';

/** What the job of sending a report is given. */
export interface ReportMail {
  readonly personId: string;
}

export async function readsReports(
  db: Db,
  config: Pick<Config, 'mail' | 'address'>,
  who: Who,
): Promise<{ sent: boolean; canSend: boolean }> {
  const row = await db.one<{ sent: boolean; email: string | null }>(
    'select exists (select from report_reader r where r.person_id = p.id) as sent, p.email from person p where p.id = $1',
    [who.id],
  );
  return { sent: row?.sent ?? false, canSend: Boolean(config.mail && config.address && row?.email) };
}

/** Has the report of each month sent to somebody from the next month on, or no longer. */
export async function setReadsReports(
  tx: Db,
  config: Pick<Config, 'mail' | 'address'>,
  who: Who,
  sent: boolean,
): Promise<{ sent: boolean; canSend: boolean }> {
  if (sent) await tx.run('insert into report_reader (person_id) values ($1) on conflict do nothing', [who.id]);
  else await tx.run('delete from report_reader where person_id = $1', [who.id]);
  return readsReports(tx, config, who);
}

/** Has the report sent to whom it is due this month; those who began to read it in this month get the next. @returns to how many */
export async function tendReports(db: Database): Promise<number> {
  return db.transaction(async (tx) => {
    const due = await tx.rows<{ id: string }>(`
      update report_reader r
      set sent_for = date_trunc('month', current_date)
      from person p
      where p.id = r.person_id and p.left_at is null and p.email is not null
        and coalesce(r.sent_for, r.since) < date_trunc('month', current_date)
      returning r.person_id as id`);
    for (const { id } of due)
      await tx.run("select graphile_worker.add_job('report-mail', $1::json, max_attempts => 8)", [
        JSON.stringify({ personId: id } satisfies ReportMail),
      ]);
    return due.length;
  });
}

const percent = (part: number, whole: number): string => (whole === 0 ? '–' : `${Math.round((100 * part) / whole)} %`);

/** What the report says to somebody, as text: of what they may read. */
export async function letterOf(db: Db, who: Who, name: string, address: string): Promise<string> {
  const { days, assets, all } = await course(db, who, { by: 'domain', measure: 'owned', days: 32 });
  const { targets } = await listTargets(db, who);
  const price = await readPrice(db, who);
  const of = (key: string) => all.find((one) => one.key === key)?.met ?? [];
  const [before, now] = [assets[0] ?? 0, assets.at(-1) ?? 0];
  const lines = MEASURES.map(({ key, label }) => {
    const met = of(key);
    return `${label}: ${percent(met.at(-1) ?? 0, now)} of the assets, ${percent(met[0] ?? 0, before)} on ${days[0]}`;
  });
  const unused = (of('unusedBytes').at(-1) ?? 0) / 1e9;
  return [
    `Hello ${name},`,
    `of ${now.toLocaleString('en')} assets that you may read (${before.toLocaleString('en')} on ${days[0]}), as of ${days.at(-1)}:`,
    lines.join('\n'),
    ...(targets.length > 0
      ? [
          `Targets:\n${targets
            .map(
              ({ domain, measure, share, byDay, now: share0, state }) =>
                `${domain}, ${MEASURES.find(({ key }) => key === measure)?.label.toLowerCase() ?? measure}: ${Math.round(share0 * 100)} % of ${Math.round(share * 100)} % by ${byDay}: ${state}`,
            )
            .join('\n')}`,
        ]
      : []),
    `What nobody asked for takes ${unused.toFixed(unused < 1 ? 3 : 1)} GB${
      price.price === null ? '' : `, which costs ${(unused * price.price).toFixed(2)} ${price.currency} a month`
    }.`,
    `All of it, to print: ${address}/coverage/report`,
    `You have this sent to you each month; there it can be ended.\n`,
  ].join('\n\n');
}

/** The work of the job. @returns whether a mail was sent */
export async function mailOfReport(db: Database, config: Config, { personId }: ReportMail): Promise<boolean> {
  const who = await loadWho(db, personId);
  const person = await db.one<{ name: string; email: string | null }>(
    'select name, email from person where id = $1 and left_at is null',
    [personId],
  );
  if (!who || !person?.email || !config.mail || !config.address) return false;
  const text = await letterOf(db, who, person.name, config.address);
  await sendMail(config, { to: person.email, subject: 'How far the catalog is governed', text });
  return true;
}
