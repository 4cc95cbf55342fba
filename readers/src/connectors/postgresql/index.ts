import { loadParser } from '@idrel/core/sql';
import { inWordsOf } from '../network.ts';
import type { Connector, ConnectorInput, Reading } from '../types.ts';
import { connect, explainConnectError } from './connect.ts';
import { readForeignLinks, readViewFlows } from './flows.ts';
import { readRights } from './grants.ts';
import { readSchemaCatalog } from './lineageFacts.ts';
import { readAskedFlows, readQueries } from './queries.ts';
import { readRoutineFlows } from './routineFlows.ts';
import { readProfile, readSample } from './sample.ts';
import { readOutline, readStructure } from './structure.ts';
import { testPostgres } from './test.ts';

/** PostgreSQL, through its own catalog. */
export const postgresql: Connector = { test: testPostgres, open };
export { readCallables } from './callables.ts';
export { connect as connectToPostgres, SESSION } from './connect.ts';
export { setSecretly } from './fastPath.ts';

async function open(input: ConnectorInput): Promise<Reading> {
  const client = await connect(input);
  const database = String(input.address.database);
  const kinds = new Map<string, string>();
  const inWords = inWordsOf(explainConnectError, input);
  return {
    outline: () => inWords(readOutline(client)),
    structure: async (progress, known) => {
      const structure = await inWords(readStructure(client, database, progress, known));
      for (const asset of structure.assets) if (asset.kind !== 'column') kinds.set(asset.key, asset.kind);
      return structure;
    },
    sample: (table, rows, method) => readSample(client, table, kinds.get(table.key) ?? 'table', rows, method),
    profile: (table, measures, rows) => readProfile(client, table, kinds.get(table.key) ?? 'table', measures, rows),
    flows: async () => {
      await loadParser();
      const catalog = await inWords(readSchemaCatalog(client));
      return [
        ...(await inWords(readViewFlows(client, database, catalog))),
        ...(await inWords(readRoutineFlows(client, database, catalog))),
        ...(await inWords(readAskedFlows(client, database, catalog))),
        ...(await inWords(readForeignLinks(client, database))),
      ];
    },
    queries: () => inWords(readQueries(client, database)),
    rights: () => inWords(readRights(client, database)),
    // Breaking the connection ends the statement on the client at once; the server notices and ends it there.
    abort: () => (client as unknown as { connection: { stream: { destroy(): void } } }).connection.stream.destroy(),
    close: () => client.end().catch(() => undefined),
  };
}
