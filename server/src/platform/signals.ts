import { EventEmitter } from 'node:events';
import pg from 'pg';

/**
 * News between all servers and workers over PostgreSQL's LISTEN/NOTIFY: one connection listens, whoever is interested gets the text.
 * A lost connection is opened again; whoever listens then reads the state anew, since news may have been missed.
 */
export class Signals {
  readonly #url: string;
  readonly #emitter = new EventEmitter();
  #client: pg.Client | undefined;
  #closed = false;

  constructor(url: string) {
    this.#url = url;
    this.#emitter.setMaxListeners(0);
  }

  async open(): Promise<void> {
    const client = new pg.Client({ connectionString: this.#url, application_name: 'idrel signals' });
    client.on('error', () => this.#reopen());
    client.on('end', () => this.#reopen());
    client.on('notification', (message) => this.#emitter.emit('news', message.payload ?? ''));
    await client.connect();
    await client.query('listen idrel_news');
    this.#client = client;
  }

  #reopen(): void {
    if (this.#closed || !this.#client) return;
    this.#client = undefined;
    setTimeout(() => {
      this.open().then(
        () => this.#emitter.emit('news', 'again'),
        () => {
          this.#client = {} as pg.Client; // so that the next try is made
          this.#reopen();
        },
      );
    }, 1000).unref();
  }

  /** Calls back for news of this topic (`run:<id>`) and after a lost connection; returns the way to stop. */
  listen(topic: string, heard: () => void): () => void {
    const listener = (text: string) => {
      if (text === topic || text === 'again') heard();
    };
    this.#emitter.on('news', listener);
    return () => this.#emitter.off('news', listener);
  }

  async close(): Promise<void> {
    this.#closed = true;
    await this.#client?.end?.();
  }
}

/** The statement that tells all servers; inside a transaction it is heard when that commits. */
export const TELL = "select pg_notify('idrel_news', $1)";
