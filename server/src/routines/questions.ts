import type { AnswerOf, BodyOf } from '@idrel/contract/http';
import type { RoutineStep, routineEndpoints } from '@idrel/contract/routines';
import { pathOf } from '../catalog/index.ts';
import { record } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, forbidden } from '../platform/problems.ts';
import { queueRoutineRun } from './runs.ts';
import { tellLater } from './tell.ts';

type Ask = Extract<RoutineStep, { do: 'ask' }>;

/** Questions `q` of assets `a` that nobody has answered yet, of runs `x` that wait for it. */
export const OPEN_QUESTIONS = `
  routine_run x
  join routine_ask q on q.run_id = x.id and q.step = x.step and q.answer is null
  join asset a on a.id = q.asset_id and a.gone_at is null and x.state = 'waiting'`;

/** Whether a question was put to a person: for themselves, as one of a group, or standing in for somebody. @param person SQL of their id */
export const MINE_TO_ANSWER = (person: string): string => `
  q.asked && array(
    with me as (
      select ${person}::uuid as id
      union
      select d.person_id from deputy d where d.deputy_id = ${person}::uuid and now() between d.from_at and d.until_at
    )
    select id from me
    union
    select m.group_id from group_member m join me on me.id = m.person_id
  )`;

/** Whom a step asks of an asset: who owns it, or what it lies in; or who looks after it. @param asset SQL of its id */
const ASKED: Readonly<Record<Ask['to'], (asset: string) => string>> = {
  owner: (asset) => `array_remove(array[answers_for(${asset})], null)`,
  steward: (asset) =>
    `array(select k.person_id from asset_person k where k.asset_id = ${asset} and k.role = 'steward')`,
};

/**
 * The step that asks: at first it does, and the run waits; then what is to be kept is left out, and the run goes on.
 * @returns whether all is answered, or the time is over
 */
export async function answered(tx: Db, runId: string, step: number, { to, days, silence }: Ask): Promise<boolean> {
  const asked = await tx.one('select 1 as yes from routine_ask where run_id = $1 and step = $2 limit 1', [runId, step]);
  if (!asked) {
    await tx.run(
      `
        insert into routine_ask (run_id, step, asset_id, asked)
        select g.run_id, $2, g.asset_id, ${ASKED[to]('g.asset_id')}
        from routine_asset g
        where g.run_id = $1`,
      [runId, step],
    );
    await tellLater(tx, runId, step);
    await tx.run("update routine_run set state = 'waiting', due_at = now() + $2 * interval '1 day' where id = $1", [
      runId,
      days,
    ]);
    return false;
  }
  await tx.run(
    `
      delete from routine_asset g
      using routine_ask q
      where g.run_id = $1 and q.run_id = $1 and q.step = $2 and q.asset_id = g.asset_id
        and coalesce(q.answer, $3) = 'keep'`,
    [runId, step, silence],
  );
  return true;
}

/** So many are told at once. */
const SHOWN = 500;

/** What a run asks a person, of what they answer for and may see. */
export async function questionsFor(
  db: Db,
  who: Who,
  runId: string,
): Promise<AnswerOf<(typeof routineEndpoints)['questions']>> {
  const rows = await db.rows<{
    id: string;
    kind: never;
    path: string;
    source: string;
    text: string;
    until: string | null;
    total: number;
  }>(
    `
      select
        a.id, a.kind, ${pathOf('a', 's')} as path, s.name as source, x.steps -> x.step ->> 'text' as text, x.due_at as until,
        count(*) over ()::int as total
      from ${OPEN_QUESTIONS}
      join source s on s.id = a.source_id
      where x.id = $1 and ${MINE_TO_ANSWER('$2')} and ${isSeen('a', '$3')}
      order by s.name, a.key
      limit ${SHOWN}`,
    [runId, who.id, who.domainsAs('reader')],
  );
  return {
    text: rows[0]?.text ?? '',
    until: rows[0]?.until ?? null,
    assets: rows.map(({ id, kind, path, source }) => ({ id, kind, path, source })),
    total: rows[0]?.total ?? 0,
  };
}

/**
 * Answers what a run asks of assets; with the last answer it goes on.
 * @throws 403 where the person does not answer for one of them; 409 where somebody has answered already, or the time is over
 */
export async function answerQuestions(
  tx: Db,
  who: Who,
  runId: string,
  { assetIds, answer }: BodyOf<(typeof routineEndpoints)['answer']>,
): Promise<{ answered: number }> {
  await tx.rows('select 1 from routine_run where id = $1 for update', [runId]);
  const open = await tx.rows<{ id: string; kind: never; path: string; domainId: string; mine: boolean; name: string }>(
    `
      select
        a.id, a.kind, ${pathOf('a', 's')} as path, a.domain_id as "domainId", r.name,
        ${MINE_TO_ANSWER('$2')} and ${isSeen('a', '$3')} as mine
      from ${OPEN_QUESTIONS}
      join source s on s.id = a.source_id
      join routine r on r.id = x.routine_id
      where x.id = $1 and a.id = any($4::uuid[])`,
    [runId, who.id, who.domainsAs('reader'), assetIds],
  );
  if (open.some(({ mine }) => !mine)) throw forbidden('who answers for each of them');
  if (open.length < assetIds.length)
    throw conflict(
      'begun-already',
      'Of some of them it does not ask any more: somebody has answered, or the time is over.',
      'Look at what it still asks.',
    );
  await tx.run(
    `
      update routine_ask q
      set answer = $3, person_id = $4, at = now()
      from routine_run x
      where x.id = $1 and q.run_id = $1 and q.step = x.step and q.asset_id = any($2::uuid[])`,
    [runId, assetIds, answer, who.id],
  );
  for (const { kind, id, path, domainId, name } of open)
    await record(tx, who, `answered the routine “${name}”`, { kind, id, name: path, domainId }, null, { answer });
  const more = await tx.one(`select 1 as yes from ${OPEN_QUESTIONS} where x.id = $1 limit 1`, [runId]);
  if (!more) {
    await tx.run("update routine_run set state = 'running', due_at = null, beat_at = now() where id = $1", [runId]);
    await queueRoutineRun(tx, runId);
  }
  return { answered: assetIds.length };
}
