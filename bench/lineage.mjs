import pg from 'pg';
import { readDefinition, readScript, SchemaCatalog } from '../core/dist/lineage/index.js';
import { loadParser, parseScript } from '../core/dist/sql/index.js';
import { readSchemaCatalog, readViews } from '../readers/dist/connectors/postgresql/lineageFacts.js';
import { inTurn, tell } from './lib.mjs';
import { parseAlone } from './parser.mjs';

/** Lineage of PostgreSQL's system views against parsing alone (goal: at most 5 times), and of a long script (goal: at most 3 times, at any length). */
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
      for (const view of views)
        readDefinition(
          view.definition,
          { schema: view.schema, relation: view.name, columns: view.columns, kind: 'view' },
          catalog,
        );
    },
  ]);
  const lines = [
    tell(`Lineage of ${views.length} system views, against parsing them alone`, lineage, parsing, 'at most 5'),
  ];
  const parse = await parseAlone();
  for (const count of [8000, 32_000]) {
    const sql = `create table t (a int, b text);\n${Array.from({ length: count }, (_, index) => `insert into t (a, b) select ${index}, 'value number ${index}; yes' from src s where s.id = ${index};`).join('\n')}`;
    const [bare, read] = await inTurn(5, [() => parse(sql), () => readScript(sql, new SchemaCatalog())]);
    lines.push(
      tell(
        `A script of ${count} statements (${(sql.length / 1e6).toFixed(1)} MB) read for its lineage, against parsing it alone`,
        read,
        bare,
        'at most 3',
      ),
    );
  }
  return lines.join('\n');
}
