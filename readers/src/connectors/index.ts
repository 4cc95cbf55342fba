import type { SourceKind } from '@idrel/contract/sources';
import { apart } from './apart/index.ts';
import { orchestrator } from './orchestrator/index.ts';
import { postgresql } from './postgresql/index.ts';
import { drawn, events, pushed } from './pushed.ts';
import { reports } from './reports/index.ts';
import type { Connector } from './types.ts';

/** A connector that is loaded when its kind is first needed. */
function later(load: () => Promise<Connector>): Connector {
  return {
    test: async (input) => (await load()).test(input),
    open: async (input) => (await load()).open(input),
  };
}

/** The connector of each kind of source. What reads files of others does so in a process of its own. */
export const CONNECTORS: Record<SourceKind, Connector> = {
  postgresql,
  mariadb: later(async () => (await import('./mariadb/index.ts')).mariadb),
  sqlite: apart('sqlite'),
  folder: apart('folder'),
  objects: apart('objects'),
  scripts: apart('scripts'),
  reports,
  orchestrator,
  dcat: apart('dcat'),
  events,
  drawn,
  pushed,
};
export { UNREAD_ASKED } from './asked.ts';
export { continued } from './orchestrator/continued.ts';
export { found as foundOfJobs } from './orchestrator/found.ts';
export { type Job, nameDataset, readEvents } from './orchestrator/openLineage.ts';
export { connectToPostgres, readCallables, SESSION, setSecretly } from './postgresql/index.ts';
export * from './types.ts';
