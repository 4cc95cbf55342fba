import type { AskAnswer, ClaimedAsk, DraftTrial } from '@idrel/contract/scanning';
import { KINDS } from '@idrel/contract/sources';
import type { TriedTable } from '@idrel/readers/scans';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem, conflict } from '../platform/problems.ts';
import { type Signals, TELL } from '../platform/signals.ts';
import { connectorInput } from '../sources/index.ts';
import { AWAY, below } from './agents.ts';

const PATIENCE_MS = 30_000;
/** An ask that nobody waits for any more. */
const STALE = "interval '1 minute'";

/**
 * Asks the agents of a source's group something, and waits for the first that answers.
 * @throws 409 when none is there, or none answers in time
 */
export async function askAgents(
  db: Db,
  signals: Pick<Signals, 'listen'>,
  source: { id: string; name: string; agentGroup: string | null },
  kind: ClaimedAsk['kind'],
  given: DraftTrial | null = null,
  patience = PATIENCE_MS,
): Promise<AskAnswer> {
  const present = await db.one<{ n: number }>(
    `
      select count(*)::int as n
      from agent x
      join source s on s.id = $1
      where x.group_name = s.agent_group and x.last_contact > now() - ${AWAY} and s.domain_id in (${below('x.domain_id')})`,
    [source.id],
  );
  if (!present?.n)
    throw conflict(
      'no-agent',
      `${source.name} is read by agents of the group “${source.agentGroup}”, and none of them is there.`,
      'Start one with `idrel agent`, or look at it under Sources, Agents.',
    );
  const [ask] = await db.rows<{ id: string }>(
    'insert into agent_ask (source_id, kind, given) values ($1, $2, $3) returning id',
    [source.id, kind, given && JSON.stringify(given)],
  );
  const id = ask?.id ?? '';
  const answered = async () =>
    (await db.one<{ answer: AskAnswer | null }>('select answer from agent_ask where id = $1', [id]))?.answer;
  try {
    return await new Promise<AskAnswer>((resolve, reject) => {
      const late = setTimeout(
        () =>
          done(() =>
            reject(
              new ApiProblem(
                'agent-silent',
                `No agent of the group “${source.agentGroup}” answered within ${patience / 1000} seconds.`,
                {
                  mend: 'Look whether it is busy under Sources, Agents, and try again.',
                },
              ),
            ),
          ),
        patience,
      );
      const look = () =>
        void answered().then(
          (answer) => answer && done(() => resolve(answer)),
          (error: unknown) => done(() => reject(error)),
        );
      const stop = signals.listen(`ask:${id}`, look);
      const often = setInterval(look, 2000);
      function done(act: () => void) {
        clearTimeout(late);
        clearInterval(often);
        stop();
        act();
      }
      look();
    });
  } finally {
    await db.run('delete from agent_ask where id = $1', [id]);
  }
}

/** The oldest ask for the group of an agent in its domain, if any waits. */
export async function takeAsk(db: Db, config: Config, agentId: string): Promise<ClaimedAsk | null> {
  const [ask] = await db.rows<{ id: string; kind: ClaimedAsk['kind']; source_id: string; given: DraftTrial | null }>(
    `
      update agent_ask
      set agent_id = $1
      where id = (
        select k.id
        from agent_ask k
        join source s on s.id = k.source_id
        join agent a on a.id = $1
        where k.agent_id is null
          and k.asked_at > now() - ${STALE}
          and s.agent_group = a.group_name
          and s.domain_id in (${below('a.domain_id')})
        order by k.asked_at
        limit 1
        for update of k skip locked
      )
      returning id, kind, source_id, given`,
    [agentId],
  );
  if (!ask) return null;
  const source = await connectorInput(db, config, ask.source_id);
  const needed = KINDS[source.kind].credential;
  return {
    id: ask.id,
    kind: ask.kind,
    given: ask.given,
    source,
    secretOfYours: needed !== 'none' && !source.secret ? needed : null,
  };
}

/** Takes the answer of the agent that took the ask. */
export async function answerAsk(db: Db, agentId: string, id: string, answer: AskAnswer): Promise<void> {
  const taken = await db.run('update agent_ask set answer = $3 where id = $1 and agent_id = $2 and answer is null', [
    id,
    agentId,
    JSON.stringify(answer),
  ]);
  if (taken === 0) throw conflict('ask-ended', 'Nobody waits for this any more, or it is not yours.', 'Leave it.');
  await db.rows(TELL, [`ask:${id}`]);
}

/** What the agents answered, or the problem that they met, in their words. */
export function unlessFailed<T extends AskAnswer>(answer: AskAnswer): Exclude<T, { failed: unknown }> {
  if ('failed' in answer) throw new ApiProblem('source-unreachable', answer.failed.what, { mend: answer.failed.mend });
  return answer as Exclude<T, { failed: unknown }>;
}

/** How long agents may try a draft on a whole source. */
const TRIAL_MS = 300_000;
/** Nobody tells a worker the news: it looks every other second. */
const NO_NEWS: Pick<Signals, 'listen'> = { listen: () => () => undefined };

/** Has the agents of a source try a draft of a detector, table by table. */
export async function tryByAgents(
  db: Db,
  source: { id: string; name: string; agentGroup: string | null },
  given: DraftTrial,
): Promise<readonly TriedTable[]> {
  return unlessFailed<{ tables: TriedTable[] }>(await askAgents(db, NO_NEWS, source, 'trial', given, TRIAL_MS)).tables;
}
