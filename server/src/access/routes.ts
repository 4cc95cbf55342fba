import { accessEndpoints, type PolicyBody, type TryAnswer } from '@idrel/contract/access';
import { decideTable } from '@idrel/core/access';
import type { Router } from 'express';
import { getAsset } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { ApiProblem, notFound, toProblem } from '../platform/problems.ts';
import { getSource } from '../sources/index.ts';
import { policiesInForce, readPeople, readTables } from './facts.ts';
import { explained, prepare, runPrepared } from './gateway.ts';
import { changePolicy, createPolicy, listPolicies, reach, removePolicy } from './policies.ts';

const SHOWN = 200;

export function accessRoutes(router: Router, { db, config }: Context): void {
  const draft = (body: Record<string, unknown>) => body as unknown as PolicyBody;
  /** Notes what went through the gateway: the statement and its outcome, never a value. */
  const note = (who: Who, asPerson: string, sourceId: string, sql: string, outcome: string, rows: number | null, started: number) =>
    db.run('insert into gateway_query (asked_by, as_person, source_id, statement, outcome, rows, milliseconds) values ($1, $2, $3, $4, $5, $6, $7)', [
      who.id,
      asPerson,
      sourceId,
      sql,
      outcome,
      rows,
      Math.round(performance.now() - started),
    ]);

  serve(router, accessEndpoints.list, ({ who }) => listPolicies(db, who));
  serve(router, accessEndpoints.reach, ({ who, body }) => reach(db, who, body.policyId as string | null, body.draft as PolicyBody | null));
  serve(router, accessEndpoints.create, ({ who, body }) => db.transaction((tx) => createPolicy(tx, who, draft(body))));
  serve(router, accessEndpoints.change, ({ who, params, body, version }) => db.transaction((tx) => changePolicy(tx, who, params.id ?? '', version, draft(body))));
  serve(router, accessEndpoints.remove, ({ who, params }) => db.transaction((tx) => removePolicy(tx, who, params.id ?? '')));

  serve(router, accessEndpoints.explain, async ({ who, query }) => {
    const asset = await getAsset(db, who, String(query.asset));
    if (query.person !== who.id) who.must('policy administrator', asset.domainId);
    const [person] = await readPeople(db, [String(query.person)]);
    if (!person) throw notFound('The person');
    const tables = await readTables(db, 't.id = $1 or t.id = $2 or t.parent_id = $1', [asset.id, asset.parentId]);
    const policies = await policiesInForce(db);
    const decided = tables.map((table) => explained(decideTable(policies, person, table)));
    return asset.kind === 'column' ? decided.map((table) => ({ ...table, columns: table.columns.filter((column) => column.name === asset.name) })) : decided;
  });

  serve(router, accessEndpoints.tryIt, async ({ who, body }): Promise<TryAnswer> => {
    const source = await getSource(db, who, String(body.sourceId));
    who.must('policy administrator', source.domainId);
    const [personId, sql, started] = [String(body.personId), String(body.sql), performance.now()];
    try {
      const prepared = await prepare(db, config, personId, source.id, sql);
      let columns: string[] = [];
      const rows: (string | null)[][] = [];
      const { capped } = await runPrepared(db, config, source.id, prepared, SHOWN, (names, batch) => {
        columns = names;
        rows.push(...batch);
      });
      await note(who, personId, source.id, sql, 'answered', rows.length, started);
      return { columns, rows, capped, milliseconds: Math.round(performance.now() - started), rewritten: prepared.sql, tables: prepared.tables };
    } catch (error) {
      await note(who, personId, source.id, sql, error instanceof ApiProblem ? error.code : 'failed', null, started);
      throw error;
    }
  });

  serve(router, accessEndpoints.query, async ({ who, params, body, response }) => {
    const source = await getSource(db, who, params.id ?? '');
    const [sql, started] = [String(body.sql), performance.now()];
    let gone = false;
    response.on('close', () => {
      gone = true;
    });
    try {
      const prepared = await prepare(db, config, who.id, source.id, sql);
      const done = await runPrepared(db, config, source.id, prepared, Number(body.limit), async (names, batch) => {
        if (!response.headersSent) {
          response.writeHead(200, { 'content-type': 'application/x-ndjson', 'cache-control': 'no-store' });
          response.write(`${JSON.stringify(names)}\n`);
        }
        if (batch.length === 0) return;
        const room = response.write(`${batch.map((row) => JSON.stringify(row)).join('\n')}\n`);
        if (!room && !gone)
          await new Promise<void>((resolve) => {
            response.once('drain', resolve);
            response.once('close', resolve);
          });
        if (gone) throw new ApiProblem(499, 'gone', 'The reader went away.');
      });
      response.end(`${JSON.stringify(done)}\n`);
      await note(who, who.id, source.id, sql, 'answered', done.rows, started);
    } catch (error) {
      await note(who, who.id, source.id, sql, error instanceof ApiProblem ? error.code : 'failed', null, started);
      if (!response.headersSent) throw error;
      response.end(`${JSON.stringify({ problem: error instanceof ApiProblem ? toProblem(error) : { detail: 'The query failed.' } })}\n`);
    }
    return undefined;
  });
}
