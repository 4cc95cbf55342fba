import { readFileSync, statSync } from 'node:fs';
import { hostname } from 'node:os';
import type { AnswerOf, Endpoint, SentBody } from '@idrel/contract/http';
import { addressOf, callOf, type Inputs } from '@idrel/contract/http/address';
import {
  type AgentLimits,
  type AgentLoad,
  type AskAnswer,
  agentEndpoints,
  type ClaimedAsk,
  type ClaimedRun,
  RUN_SILENCE_SECONDS,
  type RunCounts,
} from '@idrel/contract/scanning';
import { CONNECTORS, type Known, type Secret, type SourceProblem } from '@idrel/readers/connectors';
import { Cancelled, type Pulse, readSource, toLines, tryDraft } from '@idrel/readers/scans';
import { CliProblem } from './problem.ts';

/** Version of what agents and servers say to each other. */
const VERSION = '0.1.0';
const ASK_MS = 2000;
const BEAT_MS = 700;
/** How long a lost network is waited for: until the server is about to give the run up. */
const PATIENCE_MS = (RUN_SILENCE_SECONDS - 5) * 1000;
const BATCH = 1_000_000;

type Say = (text: string) => void;
/** The server said no: asking again would not help. */
class Refused extends Error {
  readonly status: number;
  constructor(status: number, message: string) {
    super(message);
    this.status = status;
  }
}

/** Calls the server; what fails for the network's sake is tried again for a while. */
export function caller(server: string, key: string, patience = PATIENCE_MS) {
  const base = `${server.replace(/\/$/, '')}/api/v1`;
  return async <E extends Endpoint>(endpoint: E, ...input: Inputs<E>): Promise<AnswerOf<E>> => {
    const asked = callOf(endpoint, ...input);
    const until = Date.now() + patience;
    for (let wait = 250; ; wait = Math.min(4000, wait * 2)) {
      try {
        const response = await fetch(base + addressOf(asked), {
          method: asked.method,
          headers: { 'content-type': 'application/json', authorization: `Bearer ${key}` },
          body: JSON.stringify(asked.body),
          redirect: 'error',
          signal: AbortSignal.timeout(60_000),
        });
        const text = await response.text();
        if (response.ok) return (text ? JSON.parse(text) : undefined) as AnswerOf<E>;
        const problem = (text.startsWith('{') ? JSON.parse(text) : {}) as { detail?: string; mend?: string };
        const message = [problem.detail ?? `The server answers ${response.status}.`, problem.mend]
          .filter(Boolean)
          .join(' ');
        if (response.status < 500) throw new Refused(response.status, message);
        throw new Error(message);
      } catch (error) {
        if (error instanceof Refused || Date.now() + wait > until) throw error;
        await new Promise((resolve) => setTimeout(resolve, wait));
      }
    }
  };
}
type Call = ReturnType<typeof caller>;
type Beat = SentBody<typeof agentEndpoints.beat>;

/** Secrets that stay on this machine: a JSON file, by the names of sources. Nobody else may be able to read it. */
export function readSecrets(path: string): Record<string, Secret> {
  let mode: number;
  let text: string;
  try {
    mode = statSync(path).mode;
    text = readFileSync(path, 'utf8');
  } catch (error) {
    throw new CliProblem(`${path} cannot be read: ${(error as Error).message}`, 'Check the path.');
  }
  if (mode & 0o077) throw new CliProblem(`${path} can be read by others on this machine.`, `chmod 600 '${path}'`);
  const wrong = new CliProblem(
    `${path} is not a list of secrets.`,
    'It is JSON like {"Name of the source": {"username": "…", "password": "…"}}; for a token, "password" alone.',
  );
  let secrets: Record<string, Partial<Secret>>;
  try {
    secrets = JSON.parse(text) as Record<string, Partial<Secret>>;
  } catch {
    throw wrong;
  }
  return Object.fromEntries(
    Object.entries(secrets ?? {}).map(([source, secret]) => {
      if (typeof secret?.password !== 'string') throw wrong;
      return [source, { username: secret.username ?? '', password: secret.password }];
    }),
  );
}

/** One run as this agent does it: what it tells goes to the server, and the server's word to end it comes back with that. */
class RemotePulse implements Pulse {
  cancelled = false;
  problems = 0;
  counts: RunCounts = {};
  /** Why the run must end although nobody asked for that: the server cannot be reached, or knows nothing of it. */
  lost: Error | undefined;
  readonly #call: Call;
  readonly #id: string;
  readonly #timer: NodeJS.Timeout;
  #state: Beat['state'] = 'structure';
  #log: Beat['log'][number][] = [];
  #onCancel: () => void = () => undefined;
  #beating: Promise<void> = Promise.resolve();

  constructor(call: Call, id: string) {
    this.#call = call;
    this.#id = id;
    this.#timer = setInterval(() => void this.beat(), BEAT_MS);
  }

  onCancel(act: () => void): void {
    this.#onCancel = act;
  }
  count(counts: RunCounts): void {
    this.counts = { ...this.counts, ...counts };
  }
  async log(level: 'info' | 'caution' | 'problem', text: string): Promise<void> {
    if (level === 'problem') this.problems += 1;
    this.#log.push({ level, text: text.slice(0, 4000) });
    if (this.#log.length >= 500) await this.beat();
  }
  async enter(state: Beat['state']): Promise<void> {
    if (this.cancelled) throw new Cancelled();
    this.#state = state;
    await this.beat();
  }

  /** One beat after the other, so that the log keeps its order. */
  beat(): Promise<void> {
    this.#beating = this.#beating.then(async () => {
      if (this.lost) return;
      const log = this.#log;
      this.#log = [];
      try {
        const { cancel } = await this.#call(agentEndpoints.beat, {
          params: { id: this.#id },
          body: { state: this.#state, counts: this.counts, log },
        });
        if (cancel) this.end();
      } catch (error) {
        this.lost = error as Error;
        this.end();
      }
    });
    return this.#beating;
  }
  end(): void {
    if (this.cancelled) return;
    this.cancelled = true;
    this.#onCancel();
  }
  close(): void {
    clearInterval(this.#timer);
  }
  /** Says the last of the log. */
  async stop(): Promise<void> {
    this.close();
    await this.beat();
  }
}

/** Reads one source and sends what was read. @returns the state in which the run ended */
async function doRun(
  call: Call,
  run: ClaimedRun,
  limits: AgentLimits,
  secrets: Record<string, Secret>,
  stopping: AbortSignal,
): Promise<string> {
  const pulse = new RemotePulse(call, run.id);
  const stop = () => pulse.end();
  stopping.addEventListener('abort', stop);
  const params = { id: run.id };
  const end = (more: Partial<SentBody<typeof agentEndpoints.end>>) =>
    call(agentEndpoints.end, {
      params,
      body: { batches: 0, problems: pulse.problems, counts: pulse.counts, ...more },
    });
  try {
    const secret = run.source.secret ?? secrets[run.source.name] ?? null;
    if (run.secretOfYours && !secret) {
      await end({
        failed: noSecret(run.source.name, run.secretOfYours),
      });
      return 'failed';
    }
    const known: Known | undefined = run.known ? { data: run.known.data, marks: new Map(run.known.marks) } : undefined;
    const reading = await readSource(
      pulse,
      { ...run.source, secret, memoryMb: limits.memoryMb, relations: run.relations ?? [] },
      run.options,
      known,
      limits.rowsPerSecond === null ? {} : { rowsPerSecond: limits.rowsPerSecond },
    );
    await pulse.stop();
    let batches = 0;
    let lines = '';
    const send = async () => {
      if (lines === '') return;
      await call(agentEndpoints.batch, { params, body: { number: batches, lines } });
      batches += 1;
      lines = '';
    };
    for (const line of toLines(reading)) {
      lines += line;
      if (lines.length > BATCH) await send();
    }
    await send();
    return (await end({ batches })).state;
  } catch (error) {
    await pulse.stop();
    if (pulse.lost) throw pulse.lost;
    if (stopping.aborted)
      return (await end({ failed: { what: 'The agent was stopped.', mend: 'Start it again, and scan again.' } })).state;
    if (pulse.cancelled || error instanceof Cancelled) return (await end({ cancelled: true })).state;
    const { message, mend } = error as SourceProblem;
    return (await end({ failed: { what: message, mend: mend ?? 'Look at the log, and scan again.' } })).state;
  } finally {
    pulse.close();
    stopping.removeEventListener('abort', stop);
  }
}

const noSecret = (source: string, needed: string) => ({
  what: `${source} has no credential, and its agent has none of its own for it.`,
  mend: `Add ${JSON.stringify(source)} to the file of secrets of the agent (a ${needed}), or give the source a credential.`,
});

/** Tests a connection, or looks what is there, and says so. */
async function doAsk(call: Call, ask: ClaimedAsk, secrets: Record<string, Secret>): Promise<void> {
  const secret = ask.source.secret ?? secrets[ask.source.name] ?? null;
  const input = { ...ask.source, secret };
  const look = async (): Promise<AskAnswer> => {
    if (ask.secretOfYours && !secret) {
      const { what, mend } = noSecret(ask.source.name, ask.secretOfYours);
      return ask.kind === 'test'
        ? { steps: [{ step: 'Credential', state: 'failed', detail: what, mend, milliseconds: 0 }] }
        : { failed: { what, mend } };
    }
    if (ask.kind === 'test') return { steps: await CONNECTORS[ask.source.kind].test(input) };
    const reading = await CONNECTORS[ask.source.kind].open(input);
    try {
      if (!ask.given) return { items: await reading.outline() };
      const tables = [];
      for await (const table of tryDraft(reading, await reading.structure(() => undefined), ask.given))
        tables.push(table);
      return { tables };
    } finally {
      await reading.close().catch(() => undefined);
    }
  };
  const answer = await look().catch((error: SourceProblem) => ({
    failed: { what: error.message, mend: error.mend ?? 'Look at the output of the agent.' },
  }));
  await call(agentEndpoints.answer, { params: { id: ask.id }, body: answer });
}

/** Asks for runs and does them, until it is told to stop; then it ends those that it is at. @throws when the server does not know the key */
export async function serveRuns(
  call: Call,
  secrets: Record<string, Secret>,
  stopping: AbortSignal,
  say: Say,
): Promise<void> {
  const going = new Set<Promise<void>>();
  const asked = new Set<Promise<void>>();
  let limits: AgentLimits = { memoryMb: 512, parallel: 1, rowsPerSecond: null };
  let used = process.cpuUsage();
  let at = Date.now();
  let greeted = false;
  const loadNow = (): AgentLoad => {
    const { user, system } = process.cpuUsage(used);
    const processor = (user + system) / 1000 / Math.max(1, Date.now() - at);
    used = process.cpuUsage();
    at = Date.now();
    return {
      memoryMb: Math.round(process.memoryUsage().rss / 1024 / 1024),
      processor: Math.round(processor * 100) / 100,
      runs: going.size,
    };
  };
  while (!stopping.aborted) {
    let run: ClaimedRun | null = null;
    try {
      const answer = await call(agentEndpoints.claim, {
        body: { version: VERSION, host: hostname(), load: loadNow(), free: going.size < limits.parallel },
      });
      limits = answer.limits;
      run = answer.run;
      if (answer.ask) {
        const { kind, source } = answer.ask;
        say(
          `${kind === 'test' ? 'Testing' : kind === 'trial' ? 'Trying a detector on' : 'Looking into'} ${source.name}.`,
        );
        const work = doAsk(call, answer.ask, secrets)
          .catch((error: Error) => say(`${source.name} was asked in vain: ${error.message}`))
          .finally(() => asked.delete(work));
        asked.add(work);
      }
      if (!greeted) say(`Known to the server as ${answer.name}. Waiting for runs.`);
      greeted = true;
    } catch (error) {
      if (error instanceof Refused) throw new CliProblem(error.message, 'Start the agent again with another key.');
      say(`The server cannot be reached: ${(error as Error).message}. Asking again.`);
    }
    if (run) {
      const { id, source } = run;
      say(`Reading ${source.name} (run ${id}).`);
      const work = doRun(call, run, limits, secrets, stopping)
        .then((state) => say(`Run ${id} of ${source.name}: ${state}.`))
        .catch((error: Error) => say(`Run ${id} of ${source.name} was left: ${error.message}`))
        .finally(() => going.delete(work));
      going.add(work);
      continue; // perhaps another waits
    }
    await new Promise<void>((resolve) => {
      const timer = setTimeout(done, ASK_MS);
      function done() {
        clearTimeout(timer);
        stopping.removeEventListener('abort', done);
        resolve();
      }
      stopping.addEventListener('abort', done);
    });
  }
  await Promise.all([...going, ...asked]);
}

/** `idrel agent`: reads sources from where it runs. */
export async function agent({
  server,
  key,
  secrets,
}: {
  server: string;
  key?: string;
  secrets?: string;
}): Promise<void> {
  const bears = key ?? process.env.IDREL_AGENT_KEY;
  if (!bears)
    throw new CliProblem(
      'The agent has no key.',
      'Make one under Sources, Agents, and give it with --key or as IDREL_AGENT_KEY.',
    );
  if (!/^https?:\/\//.test(server))
    throw new CliProblem(`${server} is no address of a server.`, 'Give it like https://idrel.example.org');
  const own = secrets ? readSecrets(secrets) : {};
  const stopping = new AbortController();
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => stopping.abort());
  const say: Say = (text) => void process.stdout.write(`${new Date().toISOString()} ${text}\n`);
  if (server.startsWith('http://') && !/^http:\/\/(127\.|localhost|\[::1\])/.test(server))
    say('Caution: this address is not encrypted, and credentials travel over it.');
  await serveRuns(caller(server, bears), own, stopping.signal, say);
  process.exitCode = 0;
}
