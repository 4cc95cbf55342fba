import type { SourceKind } from '@idrel/contract/sources';
import { apart } from './apart/index.ts';
import { mariadb } from './mariadb/index.ts';
import { orchestrator } from './orchestrator/index.ts';
import { postgresql } from './postgresql/index.ts';
import { pushed } from './pushed.ts';
import { reports } from './reports/index.ts';
import type { Connector } from './types.ts';

/** The connector of each kind of source. What reads files of others does so in a process of its own. */
export const CONNECTORS: Record<SourceKind, Connector> = {
  postgresql,
  mariadb,
  sqlite: apart('sqlite'),
  folder: apart('folder'),
  objects: apart('objects'),
  reports,
  orchestrator,
  pushed,
};
export { connectToPostgres, readCallables, SESSION, setSecretly } from './postgresql/index.ts';
export * from './types.ts';
