import type { Logger } from 'pino';
import type { Config } from './config.ts';
import type { Database } from './database.ts';
import type { Signals } from './signals.ts';

/** What every area of the server is given. */
export interface Context {
  readonly db: Database;
  readonly config: Config;
  readonly log: Logger;
  readonly signals: Signals;
}
