import type { SentRows } from '../rowsAsSent.ts';
import type { Ran, ShownColumn, TextRow } from '../runQuery.ts';

/** Rows as texts, or as the source sends them. */
export type SomeRows = TextRow[] | SentRows;

type Run = (
  take: (columns: readonly ShownColumn[], rows: SomeRows) => Promise<void>,
  left: AbortSignal,
) => Promise<Pick<Ran, 'rows' | 'capped' | 'notes'>>;

interface Ended {
  readonly failed?: unknown;
  readonly capped?: boolean;
  readonly notes?: readonly string[];
}

/** The rows of a statement that runs, taken bit by bit: the source waits with what is not taken yet. */
export class Answer {
  readonly columns: Promise<readonly ShownColumn[]>;
  readonly #left = new AbortController();
  #rows: SomeRows = [];
  #at = 0;
  #taken: (() => void) | undefined;
  #news: (() => void) | undefined;
  #end: Ended | undefined;

  constructor(run: Run) {
    let known: (columns: readonly ShownColumn[]) => void = () => undefined;
    let unknown: (error: unknown) => void = () => undefined;
    this.columns = new Promise((resolve, reject) => {
      known = resolve;
      unknown = reject;
    });
    this.columns.catch(() => undefined); // whoever takes rows is told
    const take = async (columns: readonly ShownColumn[], rows: SomeRows): Promise<void> => {
      known(columns);
      if (rows.length === 0) return;
      this.#rows = rows;
      this.#at = 0;
      this.#news?.();
      await new Promise<void>((resolve) => {
        this.#taken = resolve;
        if (this.#left.signal.aborted) resolve();
      });
    };
    run(take, this.#left.signal).then(
      ({ capped, notes = [] }) => this.#ended({ capped, notes }),
      (failed: unknown) => {
        unknown(failed);
        this.#ended({ failed });
      },
    );
  }

  #ended(end: Ended): void {
    this.#end = end;
    this.#news?.();
  }

  /** Whether the source gave less than there is, since that is all that one answer may hold. */
  get capped(): boolean {
    return this.#end?.capped ?? false;
  }

  /** What is to be said of it, when it has ended. */
  get notes(): readonly string[] {
    return this.#end?.notes ?? [];
  }

  /** The next rows, at most so many; null: there are no more. @throws what the statement fails with */
  async next(most: number): Promise<SomeRows | null> {
    for (;;) {
      if (this.#at < this.#rows.length) {
        const rows =
          this.#at === 0 && most >= this.#rows.length ? this.#rows : this.#rows.slice(this.#at, this.#at + most);
        this.#at += rows.length;
        if (this.#at >= this.#rows.length) {
          this.#rows = [];
          this.#at = 0;
          this.#taken?.();
        }
        return rows;
      }
      if (this.#end) {
        if ('failed' in this.#end) throw this.#end.failed;
        return null;
      }
      await new Promise<void>((resolve) => {
        this.#news = resolve;
      });
    }
  }

  /** Ends it at the source, whatever is left of it. */
  close(): void {
    this.#left.abort();
    this.#taken?.();
  }
}
