import type { RoutineStep } from '@idrel/contract/routines';
import { pathOf } from '../catalog/index.ts';
import { isSeen, loadWho } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { sendMail } from '../platform/mail.ts';

/** What the job of writing to people for a routine is given. */
export interface RoutineMail {
  readonly runId: string;
  readonly step: number;
  /** Of whom it is written, and of which assets: a run may be over before the mail is sent. */
  readonly people: Readonly<Record<string, readonly string[]>>;
}
/** So many assets are told one by one in a mail; so many people are written to by a step. */
const [MOST_IN_MAIL, MOST_PEOPLE] = [20, 500];

type Tell = Extract<RoutineStep, { do: 'tell' | 'ask' }>;

/** People of each asset of a run, by what the step says. */
const WHOM: Readonly<Record<string, string>> = {
  owner: `
    select a.asset_id, coalesce(m.person_id, o.id) as person_id
    from routine_asset a
    cross join lateral (select answers_for(a.asset_id) as id) o
    left join group_member m on m.group_id = o.id
    where a.run_id = $1`,
  steward:
    "select a.asset_id, x.person_id from routine_asset a join asset_person x on x.asset_id = a.asset_id and x.role = 'steward' where a.run_id = $1",
  custodian:
    "select a.asset_id, x.person_id from routine_asset a join asset_person x on x.asset_id = a.asset_id and x.role = 'custodian' where a.run_id = $1",
  keeper:
    'select a.asset_id, r.made_by as person_id from routine_asset a join routine_run x on x.id = a.run_id join routine r on r.id = x.routine_id where a.run_id = $1',
};

/** Has those written to whom a step of a run tells, each of the assets that concern them. */
export async function tellLater(tx: Db, runId: string, step: number): Promise<void> {
  const told = await tx.one<{ step: Tell }>('select steps -> $2::int as step from routine_run where id = $1', [
    runId,
    step,
  ]);
  if (!told) return;
  const { to } = told.step;
  const whom =
    typeof to === 'string'
      ? WHOM[to]
      : 'select a.asset_id, $2::uuid as person_id from routine_asset a where a.run_id = $1';
  const rows = await tx.rows<{ id: string; assets: string[] }>(
    `
      select w.person_id as id, array_agg(distinct w.asset_id) as assets
      from (${whom}) w
      join person p on p.id = w.person_id and p.left_at is null and p.email is not null
      group by 1
      order by 1
      limit ${MOST_PEOPLE + 1}`,
    typeof to === 'string' ? [runId] : [runId, to.personId],
  );
  if (rows.length === 0) return;
  if (rows.length > MOST_PEOPLE)
    await tx.run('update routine_run set problem = $2 where id = $1', [
      runId,
      `Step ${step + 1} concerns more than ${MOST_PEOPLE} people: the first ${MOST_PEOPLE} are written to. Narrow the search.`,
    ]);
  const mail: RoutineMail = {
    runId,
    step,
    people: Object.fromEntries(rows.slice(0, MOST_PEOPLE).map(({ id, assets }) => [id, assets])),
  };
  await tx.run("select graphile_worker.add_job('routine-mail', $1::json, max_attempts => 8)", [JSON.stringify(mail)]);
}

/** The work of the job: a mail to each, of the assets that they may see. Nobody is written to twice. @returns to how many */
export async function mailOfRoutine(
  db: Database,
  config: Config,
  { runId, step, people }: RoutineMail,
): Promise<number> {
  const run = await db.one<{ name: string; routineId: string; step: Tell; keeper: string | null }>(
    `
      select r.name, r.id as "routineId", x.steps -> $2::int as step, p.name as keeper
      from routine_run x
      join routine r on r.id = x.routine_id
      left join person p on p.id = x.person_id
      where x.id = $1`,
    [runId, step],
  );
  if (!run || !config.mail || !config.address) return 0;
  let sent = 0;
  for (const [personId, assetIds] of Object.entries(people)) {
    const who = await loadWho(db, personId);
    const person = await db.one<{ name: string; email: string | null }>(
      'select name, email from person where id = $1',
      [personId],
    );
    if (!who || !person?.email) continue;
    const assets = await db.rows<{ id: string; path: string; source: string }>(
      `
        select a.id, ${pathOf('a', 's')} as path, s.name as source
        from asset a
        join source s on s.id = a.source_id
        where a.id = any($1::uuid[]) and ${isSeen('a', '$2')}
        order by s.name, path`,
      [assetIds, who.domainsAs('reader')],
    );
    if (assets.length === 0) continue;
    const { address } = config;
    const text = letterOf(address, person.name, run, runId, assets);
    // Written first and sent last: who cannot be reached is tried again, and nobody is told twice of what was sent.
    await db.transaction(async (tx) => {
      const fresh = await tx.run(
        'insert into routine_told (run_id, step, person_id) values ($1, $2, $3) on conflict do nothing',
        [runId, step, personId],
      );
      if (fresh === 0) return;
      await tx.run('update routine_run set told = told + 1 where id = $1', [runId]);
      await sendMail(config, {
        to: person.email ?? '',
        subject: assets.length === 1 ? `${run.name}: ${assets[0]?.path}` : `${run.name}: ${assets.length} assets`,
        text,
      });
      sent += 1;
    });
  }
  return sent;
}

/** What is written to somebody by a step of a routine. */
function letterOf(
  address: string,
  name: string,
  run: { readonly name: string; readonly routineId: string; readonly step: Tell; readonly keeper: string | null },
  runId: string,
  assets: readonly { readonly id: string; readonly path: string; readonly source: string }[],
): string {
  const more = assets.length - MOST_IN_MAIL;
  return [
    `Hello ${name},`,
    run.step.text,
    ...(run.step.do === 'ask'
      ? [
          `Answer within ${run.step.days} ${run.step.days === 1 ? 'day' : 'days'}; without an answer ${run.step.silence === 'keep' ? 'all stays as it is' : 'it goes on'}:\n${address}/worklist?kind=routine`,
        ]
      : []),
    [
      ...assets.slice(0, MOST_IN_MAIL).map(({ id, path, source }) => `${path} in ${source}\n${address}/assets/${id}`),
      ...(more > 0 ? [`and ${more} more: ${address}/routines?routine=${run.routineId}&run=${runId}`] : []),
    ].join('\n\n'),
    `The routine “${run.name}” of ${run.keeper ?? 'somebody who has left'} has written this.\n`,
  ].join('\n\n');
}
