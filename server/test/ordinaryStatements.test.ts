import { type ConnectorInput, connectToPostgres } from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
// @ts-expect-error: a plain module of the benchmarks, which measure the same statements.
import { SCHEMA, STATEMENTS } from '../../bench/corpus/statements.mjs';
import { prepare } from '../src/access/gateway.ts';
import { openGateway, runPrepared, type TextRow } from '../src/access/runQuery.ts';
import { callablesOf } from '../src/access/sourceCallables.ts';
import { executeRun } from '../src/scanning/index.ts';
import { addPolicy, freshDatabase, furnish, inputOf, postgresSource, testConfig, urlOf, withClient } from './place.ts';

/** Honest statements pass the gateway, and give what they give without it. */
const system = `ordinary_${process.pid}`;
const config = testConfig();
let place: Awaited<ReturnType<typeof freshDatabase>>;
let sourceId: string;
let personId: string;

beforeAll(async () => {
  place = await freshDatabase();
  const { db } = place;
  const home = await furnish(db);
  personId = home.personId;
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) => client.query(SCHEMA as string));
  sourceId = await postgresSource(db, { name: 'Ordinary', domainId: home.domainId, database: system, key: config.key });
  const [run] = await db.rows<{ id: string }>(
    "insert into scan_run (source_id, options) values ($1, '{}') returning id",
    [sourceId],
  );
  await executeRun(db, config, run?.id ?? '');
  const schemas = await db.rows<{ id: string }>("select id from asset where source_id = $1 and kind = 'schema'", [
    sourceId,
  ]);
  await addPolicy(db, { name: 'all of it', everyone: true, assetIds: schemas.map(({ id }) => id) });
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});

async function through(sql: string): Promise<TextRow[] | string> {
  const gateway = await openGateway(place.db, config, sourceId);
  try {
    const { callables } = await callablesOf(sourceId, 1, gateway.client);
    const prepared = await prepare(place.db, callables, { personId, purpose: null }, sourceId, sql);
    const found: TextRow[] = [];
    await runPrepared(
      gateway,
      config,
      prepared,
      { rows: 10_000, bytes: 1e8, seconds: 60 },
      (_columns, rows) => void found.push(...rows),
    );
    return found;
  } catch (error) {
    return (error as Error).message;
  } finally {
    await gateway.leave(false);
  }
}

describe('ordinary statements', () => {
  const statements = STATEMENTS as string[];

  it('pass, 98 of 100 at least, and give what they give without the gateway', async () => {
    expect(new Set(statements).size).toBeGreaterThanOrEqual(300);
    const client = await connectToPostgres(inputOf(system) as ConnectorInput, { statementTimeout: 20_000 });
    const refused: string[] = [];
    const different: string[] = [];
    try {
      for (const sql of statements) {
        const straight = await client
          .query({ text: sql, rowMode: 'array', types: { getTypeParser: () => (value: string) => value } as never })
          .then(({ rows }) => rows as TextRow[])
          .catch((error: Error) => `straight: ${error.message}`);
        const found = await through(sql);
        if (typeof straight === 'string') different.push(`${sql}: ${straight}`);
        else if (typeof found === 'string') refused.push(`${sql}: ${found}`);
        else if (JSON.stringify(found) !== JSON.stringify(straight)) different.push(sql);
      }
    } finally {
      await client.end();
    }
    expect(different).toEqual([]);
    expect(1 - refused.length / statements.length, refused.join('\n')).toBeGreaterThanOrEqual(0.98);
  });
});
