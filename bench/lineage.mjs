import pg from 'pg';
import { readDefinition } from '../core/dist/lineage/index.js';
import { loadParser, parseScript } from '../core/dist/sql/index.js';
import { readSchemaCatalog, readViews } from '../readers/dist/connectors/postgresql/lineageFacts.js';
import { inTurn, tell } from './lib.mjs';

/** Lineage of PostgreSQL's system views against parsing alone. Goal: at most 5 times. */
export async function run(url) {
  await loadParser();
  const client = new pg.Client(url);
  await client.connect();
  const catalog = await readSchemaCatalog(client);
  const views = await readViews(client, { system: true });
  await client.end();
  const [parsing, lineage] = await inTurn(9, [
    () => {
      for (const view of views) parseScript(view.definition);
    },
    () => {
      for (const view of views) readDefinition(view.definition, { schema: view.schema, relation: view.name, columns: view.columns, kind: 'view' }, catalog);
    },
  ]);
  return tell(`Lineage of ${views.length} system views, against parsing them alone`, lineage, parsing, 'at most 5');
}
