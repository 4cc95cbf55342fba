import type { SourceKind } from '@idrel/contract/sources';
import { folder } from './folder/index.ts';
import { mariadb } from './mariadb/index.ts';
import { objects } from './objects/index.ts';
import { orchestrator } from './orchestrator/index.ts';
import { postgresql } from './postgresql/index.ts';
import { pushed } from './pushed.ts';
import { reports } from './reports/index.ts';
import { sqliteFile } from './sqlite/index.ts';
import type { Connector } from './types.ts';

/** The connector of each kind of source. */
export const CONNECTORS: Record<SourceKind, Connector> = { postgresql, mariadb, sqlite: sqliteFile, folder, objects, reports, orchestrator, pushed };
export { connectToPostgres, readCallables, SESSION, setSecretly } from './postgresql/index.ts';
export * from './types.ts';
