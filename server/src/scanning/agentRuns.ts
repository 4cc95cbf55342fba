import { gunzipSync, gzipSync } from 'node:zlib';
import type {
  AgentLimits,
  AgentLoad,
  ClaimedAsk,
  ClaimedRun,
  RunCounts,
  RunOptions,
  RunState,
} from '@idrel/contract/scanning';
import { KINDS } from '@idrel/contract/sources';
import { type Known, SourceProblem } from '@idrel/readers/connectors';
import { Cancelled, fromLines, WireProblem } from '@idrel/readers/scans';
import type { NextFunction, Request, Response } from 'express';
import type { Config } from '../platform/config.ts';
import type { Context } from '../platform/context.ts';
import type { Database, Db } from '../platform/database.ts';
import { ApiProblem, conflict, invalid } from '../platform/problems.ts';
import { digest } from '../platform/secrets.ts';
import { TELL } from '../platform/signals.ts';
import { connectorInput } from '../sources/index.ts';
import { takeAsk } from './agentAsks.ts';
import { below } from './agents.ts';
import { relationsFor } from './relationsAt.ts';
import { afterRun, endBadly, knownFor, withOwn, writeRun } from './run.ts';

interface Agent {
  id: string;
  name: string;
  limits: AgentLimits;
}

/** The agent behind a request, by the key that it bears. */
export async function agentOf(db: Db, request: Request): Promise<Agent> {
  const key = /^Bearer (idrel_agent_.+)$/.exec(request.get('authorization') ?? '')?.[1];
  const agent = key
    ? await db.one<Agent>('select id, name, limits from agent where key_hash = $1', [digest(key)])
    : undefined;
  if (!agent)
    throw new ApiProblem('unknown-agent', 'The key is that of no agent.', {
      mend: 'Make a key under Sources, Agents, and start the agent with it.',
    });
  return agent;
}

/** Lets nobody but agents past, before anything of what they send is read. */
export const agentsOnly =
  ({ db }: Pick<Context, 'db'>) =>
  (request: Request, _response: Response, next: NextFunction): void =>
    void agentOf(db, request).then(() => next(), next);

const wire = (known: Known | undefined): ClaimedRun['known'] =>
  known ? { marks: [...known.marks], data: known.data } : null;

/** Notes the contact, and gives the agent the oldest run that waits for its group in its domain, when it is free. */
export async function claimRun(
  db: Database,
  config: Config,
  agent: Agent,
  body: { version: string; host: string; load: AgentLoad; free: boolean },
): Promise<{ name: string; limits: AgentLimits; run: ClaimedRun | null; ask: ClaimedAsk | null }> {
  await db.run('update agent set software = $2, host = $3, load = $4, last_contact = now() where id = $1', [
    agent.id,
    body.version,
    body.host,
    JSON.stringify(body.load),
  ]);
  const none = { name: agent.name, limits: agent.limits, run: null, ask: await takeAsk(db, config, agent.id) };
  if (!body.free) return none;
  const [run] = await db.rows<{ id: string; source_id: string; options: RunOptions }>(
    `
      update scan_run
      set state = 'structure', started_at = now(), beat_at = now(), agent_id = $1
      where id = (
        select r.id
        from scan_run r
        join source s on s.id = r.source_id
        join agent a on a.id = $1
        where r.state = 'waiting'
          and (r.not_before is null or r.not_before <= now())
          and s.agent_group = a.group_name
          and s.domain_id in (${below('a.domain_id')})
        order by r.asked_at
        limit 1
        for update of r skip locked
      )
      returning id, source_id, options`,
    [agent.id],
  );
  if (!run) return none;
  try {
    const source = await connectorInput(db, config, run.source_id);
    const needed = KINDS[source.kind].credential;
    await db.run("insert into scan_log (run_id, level, text) values ($1, 'info', $2)", [
      run.id,
      `Taken by the agent ${agent.name} on ${body.host}.`,
    ]);
    await db.rows(TELL, [`run:${run.id}`]);
    return {
      ...none,
      run: {
        id: run.id,
        source,
        relations: await relationsFor(db, source),
        secretOfYours: needed !== 'none' && !source.secret ? needed : null,
        options: await withOwn(db, run.options),
        known: wire(await knownFor(db, run)),
      },
    };
  } catch (error) {
    await endBadly(db, run.id, 'failed', error, {});
    return none;
  }
}

interface AgentRun {
  id: string;
  source_id: string;
  options: RunOptions;
  cancel_asked: boolean;
}

/** The run that this agent is at. @throws when it has ended, or is another's: the agent stops reading then */
async function runOf(db: Db, agent: Agent, id: string): Promise<AgentRun> {
  const run = await db.one<AgentRun>(
    'select id, source_id, options, cancel_asked from scan_run where id = $1 and agent_id = $2 and ended_at is null',
    [id, agent.id],
  );
  if (!run) throw conflict('run-ended', 'The run has ended, or is not yours.', 'Leave it.');
  return run;
}

export async function beat(
  db: Db,
  agent: Agent,
  id: string,
  body: { state: RunState; counts: RunCounts; log: readonly { readonly level: string; readonly text: string }[] },
): Promise<{ cancel: boolean }> {
  const run = await runOf(db, agent, id);
  await db.run(
    `
      update scan_run
      set state = $2, counts = $3, beat_at = now(), pace = paced(pace, started_at, $3)
      where id = $1 and ended_at is null`,
    [id, body.state, JSON.stringify(body.counts)],
  );
  await db.run('update agent set last_contact = now() where id = $1', [agent.id]);
  for (const { level, text } of body.log)
    await db.run('insert into scan_log (run_id, level, text) values ($1, $2, $3)', [id, level, text.slice(0, 2000)]);
  await db.rows(TELL, [`run:${id}`]);
  return { cancel: run.cancel_asked };
}

export async function takeBatch(
  db: Db,
  agent: Agent,
  id: string,
  { number, lines }: { number: number; lines: string },
): Promise<void> {
  await runOf(db, agent, id);
  await db.run('update scan_run set beat_at = now() where id = $1', [id]);
  await db.run(
    `
      insert into agent_batch (run_id, number, content)
      values ($1, $2, $3)
      on conflict (run_id, number)
      do update set content = excluded.content`,
    [id, number, gzipSync(lines)],
  );
}

async function* linesOf(db: Db, id: string, batches: number): AsyncGenerator<string> {
  for (let number = 0; number < batches; number += 1) {
    const batch = await db.one<{ content: Buffer }>(
      'select content from agent_batch where run_id = $1 and number = $2',
      [id, number],
    );
    if (!batch) throw new WireProblem(`Part ${number + 1} of ${batches} did not arrive.`);
    yield* gunzipSync(batch.content).toString().split('\n');
  }
}

export interface EndBody {
  batches: number;
  problems: number;
  counts: RunCounts;
  failed?: { what: string; mend: string };
  cancelled?: boolean;
}

/** Writes what the agent has sent, all of it or nothing, and ends the run. */
export async function endRun(
  db: Database,
  config: Config,
  agent: Agent,
  id: string,
  body: EndBody,
): Promise<{ state: RunState }> {
  const run = await runOf(db, agent, id);
  try {
    if (body.failed) throw new SourceProblem(body.failed.what, body.failed.mend);
    if (body.cancelled || run.cancel_asked) throw new Cancelled();
    const { kind } = await connectorInput(db, config, run.source_id);
    const lines: string[] = [];
    for await (const line of linesOf(db, id, body.batches)) lines.push(line);
    await writeRun(db, run, kind, fromLines(lines), body);
    await afterRun(db, id);
  } catch (error) {
    await endBadly(db, id, error instanceof Cancelled ? 'cancelled' : 'failed', error, body.counts);
    if (error instanceof WireProblem)
      throw invalid(
        `What was sent of the run cannot be taken: ${error.message}`,
        'Run the agent in the same version as the server.',
      );
  } finally {
    await db.run('delete from agent_batch where run_id = $1', [id]);
  }
  const ended = await db.one<{ state: RunState }>('select state from scan_run where id = $1', [id]);
  return { state: ended?.state ?? 'failed' };
}
