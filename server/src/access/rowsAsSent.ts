import type { Duplex } from 'node:stream';
import type pg from 'pg';

/** Rows as their source sends them: whole messages of PostgreSQL's protocol, one after the other, with their values as texts. */
export class SentRows {
  readonly #all: Buffer;
  /** Where each row ends. */
  readonly #ends: readonly number[];
  readonly #from: number;
  readonly #to: number;

  constructor(all: Buffer, ends: readonly number[], from = 0, to = ends.length) {
    this.#all = all;
    this.#ends = ends;
    this.#from = from;
    this.#to = to;
  }

  get length(): number {
    return this.#to - this.#from;
  }

  get bytes(): Buffer {
    const at = (row: number) => (row === 0 ? 0 : (this.#ends[row - 1] ?? 0));
    return this.#all.subarray(at(this.#from), at(this.#to));
  }

  /** Some of them, without a copy of their bytes. */
  slice(from: number, to: number): SentRows {
    const within = (row: number) => Math.min(this.#from + row, this.#to);
    return new SentRows(this.#all, this.#ends, within(from), within(to));
  }
}

/** What is asked of a connection of the driver beside its typed methods. */
interface Wire {
  readonly stream: Duplex;
  parse(query: { name: string; text: string; types: number[] }): void;
  bind(config: { portal: string; statement: string; values: readonly (string | null)[] }): void;
  describe(what: { type: 'P'; name: string }): void;
  execute(config: { portal: string; rows: number }): void;
  close(what: { type: 'P'; name: string }): void;
  flush(): void;
  sync(): void;
}

const DATA_ROW = 0x44;
const HEAD = 5;

/**
 * A cursor whose rows are not read here: their messages are taken out of what the source sends, all others go on to the driver. To take a million rows apart and put
 * them together again costs more than everything else between a source and a reader.
 */
export class SentCursor {
  readonly #text: string;
  readonly #values: readonly (string | null)[];
  #wire: Wire | undefined;
  /** What the driver reads messages by, while it does not. */
  #driver: ((chunk: Buffer) => void) | undefined;
  #rest: Buffer = Buffer.alloc(0);
  #parts: Buffer[] = [];
  #ends: number[] = [];
  #size = 0;
  #waiting: { resolve: (rows: SentRows) => void; reject: (error: unknown) => void } | undefined;
  #wanted = 0;
  #state: 'begins' | 'rests' | 'runs' | 'done' | 'over' = 'begins';
  #failed: { readonly error: unknown } | undefined;
  #closed: (() => void) | undefined;
  fields: readonly pg.FieldDef[] = [];

  constructor(text: string, values: readonly (string | null)[]) {
    this.#text = text;
    this.#values = values;
  }

  /** Called by the driver when it is this statement's turn. */
  submit(connection: pg.Connection): void {
    const wire = connection as unknown as Wire;
    this.#wire = wire;
    // The driver's own listener is the first: it was there before anything was asked.
    const [driver] = wire.stream.listeners('data') as ((chunk: Buffer) => void)[];
    if (!driver) throw new Error('The connection is not read.');
    this.#driver = driver;
    wire.stream.off('data', driver);
    wire.stream.on('data', this.#came);
    wire.parse({ name: '', text: this.#text, types: [] });
    wire.bind({ portal: '', statement: '', values: this.#values });
    wire.describe({ type: 'P', name: '' });
    wire.flush();
  }

  /** The next rows, at most so many; fewer when there are no more. @throws what the source fails with */
  read(most: number): Promise<SentRows> {
    if (this.#failed) return Promise.reject(this.#failed.error);
    if (this.#state === 'done' || this.#state === 'over') return Promise.resolve(new SentRows(Buffer.alloc(0), []));
    return new Promise((resolve, reject) => {
      this.#waiting = { resolve, reject };
      this.#wanted = most;
      if (this.#state === 'rests') this.#run();
    });
  }

  /** Ends it at the source, whatever is left of it. */
  async close(): Promise<void> {
    if (this.#state === 'over' || this.#failed) return;
    const over = new Promise<void>((resolve) => {
      this.#closed = resolve;
    });
    if (this.#state !== 'done') {
      this.#state = 'done';
      this.#wire?.close({ type: 'P', name: '' });
      this.#wire?.sync();
    }
    await over;
  }

  #run(): void {
    this.#state = 'runs';
    this.#wire?.execute({ portal: '', rows: this.#wanted });
    this.#wire?.flush();
  }

  readonly #came = (chunk: Buffer): void => {
    const bytes = this.#rest.length === 0 ? chunk : Buffer.concat([this.#rest, chunk]);
    let at = 0;
    /** Rows that lie one after the other are taken at once. */
    let rowsFrom = 0;
    const takeRows = () => {
      if (at > rowsFrom) this.#parts.push(bytes.subarray(rowsFrom, at));
    };
    while (at + HEAD <= bytes.length) {
      const end = at + 1 + bytes.readInt32BE(at + 1);
      if (end > bytes.length) break;
      if (bytes[at] === DATA_ROW) {
        this.#size += end - at;
        this.#ends.push(this.#size);
        at = end;
        continue;
      }
      takeRows();
      this.#driver?.(bytes.subarray(at, end));
      at = end;
      rowsFrom = at;
      if (this.#state === 'over' || this.#failed) {
        // The driver reads again by itself: what came behind is its own.
        this.#rest = Buffer.alloc(0);
        if (at < bytes.length) this.#driver?.(bytes.subarray(at));
        return;
      }
    }
    takeRows();
    this.#rest = bytes.subarray(at);
  };

  #given(): void {
    const rows = new SentRows(Buffer.concat(this.#parts), this.#ends);
    this.#parts = [];
    this.#ends = [];
    this.#size = 0;
    const waiting = this.#waiting;
    this.#waiting = undefined;
    waiting?.resolve(rows);
  }

  #giveBack(): void {
    if (!this.#wire || !this.#driver) return;
    this.#wire.stream.off('data', this.#came);
    this.#wire.stream.prependListener('data', this.#driver);
  }

  // What the driver tells of the messages that went on to it.

  handleRowDescription({ fields }: { fields: pg.FieldDef[] }): void {
    this.fields = fields;
    this.#state = 'rests';
    if (this.#waiting) this.#run();
  }

  handlePortalSuspended(): void {
    this.#state = 'rests';
    this.#given();
  }

  handleCommandComplete(): void {
    this.#state = 'done';
    this.#wire?.sync();
    this.#given();
  }

  handleError(error: unknown): void {
    const waiting = this.#waiting;
    this.#waiting = undefined;
    this.#failed = { error };
    this.#giveBack();
    this.#wire?.sync();
    waiting?.reject(error);
    this.#closed?.();
  }

  handleReadyForQuery(): void {
    this.#state = 'over';
    this.#giveBack();
    this.#closed?.();
  }
}
