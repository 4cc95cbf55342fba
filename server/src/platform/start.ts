import { pino } from 'pino';
import { readConfig } from './config.ts';
import type { Context } from './context.ts';
import { openDatabase } from './database.ts';
import { Signals } from './signals.ts';

/** What a server and a worker both begin with. */
export function openContext(): Context {
  const config = readConfig();
  return {
    config,
    db: openDatabase(config.databaseUrl),
    log: pino({ level: config.logLevel }),
    signals: new Signals(config.databaseUrl),
  };
}

/** Ends tidily on SIGINT and SIGTERM, once. */
export function onStop(stop: () => Promise<void>): void {
  let stopping = false;
  for (const signal of ['SIGINT', 'SIGTERM'] as const) {
    process.on(signal, () => {
      if (stopping) return;
      stopping = true;
      setTimeout(() => process.exit(0), 5000).unref();
      void stop().finally(() => process.exit(0));
    });
  }
}
