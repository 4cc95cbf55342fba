import { type ChildProcess, fork } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { SourceProblem } from '../types.ts';
import type { Asked, FromChild, Question, ToldError } from './messages.ts';

/** A process that says nothing for so long while something is asked of it is ended. */
const SILENT_MS = 150_000;
const LOOKED_EVERY_MS = 100;
/** JavaScript's own memory, which an operator can set, and what the process may take beside it and the engine for files. */
const heapMb = () => Number(process.env.IDREL_READER_HEAP_MB ?? 768);
const BESIDE_MB = 512;
const DEFAULT_MB = 512;
const PAGE = 4096;

/** The process ended before it answered: it took too much, or fell. */
export class ReaderEnded extends SourceProblem {
  /** What it was looking into. */
  readonly at: string | undefined;
  constructor(why: string, at: string | undefined) {
    super(
      `${at ? `Reading ${at}` : 'Reading it'} ${why}, and was ended.`,
      'Make the file smaller or split it, leave it out of the scope, or give the plan more memory.',
    );
    this.at = at;
  }
}

const rebuilt = ({ name, message, code, mend }: ToldError): Error =>
  Object.assign(
    name === 'SourceProblem' ? new SourceProblem(message, mend ?? '') : new Error(message),
    code === undefined ? {} : { code },
  );

/** What the child sees of the environment: nothing that is secret. */
const ENVIRONMENT = [
  'PATH',
  'HOME',
  'TMPDIR',
  'LANG',
  'LC_ALL',
  'TZ',
  'NODE_EXTRA_CA_CERTS',
  'SSL_CERT_FILE',
  'SSL_CERT_DIR',
];

function program(): string {
  const here = fileURLToPath(new URL('./child.js', import.meta.url));
  return existsSync(here) ? here : here.replace('/src/', '/dist/');
}

/** One process that reads, and what is asked of it. */
export class ReaderProcess {
  readonly #child: ChildProcess;
  readonly #waiting = new Map<
    number,
    {
      resolve(value: unknown): void;
      reject(error: Error): void;
      progress: ((objects: number, columns: number) => void) | undefined;
    }
  >();
  readonly #watch: NodeJS.Timeout;
  #next = 0;
  #at: string | undefined;
  #heard = performance.now();
  #ended: string | undefined;

  constructor(memoryMb = DEFAULT_MB) {
    const env = Object.fromEntries(
      ENVIRONMENT.flatMap((name) => (process.env[name] === undefined ? [] : [[name, process.env[name]]])),
    );
    this.#child = fork(program(), [], {
      serialization: 'advanced',
      execArgv: [`--max-old-space-size=${heapMb()}`],
      env,
      stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
    });
    this.#child.on('message', (message: FromChild) => this.#take(message));
    this.#child.on('error', () => this.#fall('could not be begun'));
    this.#child.on('exit', (code, signal) =>
      this.#fall(
        signal === 'SIGABRT' || code === 134 ? 'needed more memory than it may take' : 'ended the process that reads',
      ),
    );
    this.#watch = setInterval(() => this.#look(memoryMb + heapMb() + BESIDE_MB), LOOKED_EVERY_MS);
    this.#watch.unref();
  }

  get hasEnded(): boolean {
    return this.#ended !== undefined;
  }

  /** @throws ReaderEnded; whatever the reading itself throws */
  ask<T>(question: Question, progress?: (objects: number, columns: number) => void): Promise<T> {
    if (this.#ended !== undefined) return Promise.reject(new ReaderEnded(this.#ended, this.#at));
    const id = this.#next;
    this.#next += 1;
    this.#heard = performance.now();
    return new Promise<T>((resolve, reject) => {
      this.#waiting.set(id, { resolve: resolve as (value: unknown) => void, reject, progress });
      this.#child.send(
        { ...question, id } satisfies Asked,
        (error) => error && this.#fall('ended the process that reads'),
      );
    });
  }

  end(why = 'was stopped'): void {
    this.#fall(why);
    this.#child.kill('SIGKILL');
  }

  #take(message: FromChild): void {
    this.#heard = performance.now();
    if ('at' in message) {
      this.#at = message.at;
      return;
    }
    if ('progress' in message) {
      for (const { progress } of this.#waiting.values()) progress?.(...message.progress);
      return;
    }
    const waiting = this.#waiting.get(message.id);
    this.#waiting.delete(message.id);
    if ('error' in message) waiting?.reject(rebuilt(message.error));
    else waiting?.resolve(message.value);
  }

  #look(mostMb: number): void {
    if (this.#waiting.size > 0 && performance.now() - this.#heard > SILENT_MS)
      this.end(`took longer than ${SILENT_MS / 1000} seconds`);
    if (this.residentMb() > mostMb) this.end(`needed more than ${mostMb} MB of memory`);
  }

  /** What the process holds in memory now, where the system tells. */
  residentMb(): number {
    try {
      return (Number(readFileSync(`/proc/${this.#child.pid}/statm`, 'utf8').split(' ')[1]) * PAGE) / 2 ** 20;
    } catch {
      return 0;
    }
  }

  #fall(why: string): void {
    this.#ended ??= why;
    clearInterval(this.#watch);
    for (const { reject } of this.#waiting.values()) reject(new ReaderEnded(this.#ended, this.#at));
    this.#waiting.clear();
  }
}
