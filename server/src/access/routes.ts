import { accessEndpoints, type Explained, type RowsAnswer, type TryAnswer } from '@idrel/contract/access';
import { catalogEndpoints } from '@idrel/contract/catalog';
import { recognitionEndpoints } from '@idrel/contract/recognition';
import { DIGEST_SETTINGS, decideTable } from '@idrel/core/access';
import type { Router } from 'express';
import { getAsset, kindsSql, notesOn } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { begunAt } from '../platform/database.ts';
import { ONLY_SHOWN } from '../platform/images.ts';
import { notFound, toApiProblem } from '../platform/problems.ts';
import { askedSource, sourceFacts } from '../sources/index.ts';
import { gatewayFor, outcomeOf, tablesOf } from './asPerson.ts';
import { checkedPolicies } from './checked.ts';
import { columnValues } from './columnValues.ts';
import {
  changeEnforcement,
  checkEnforcement,
  endEnforcement,
  enforce,
  enforcementOf,
  planEnforcing,
} from './enforce/service.ts';
import { type Asking, factsFor, readPeople, sharesReadBy } from './facts.ts';
import { explained } from './gateway.ts';
import { givenOn, giveOn, takeGiven } from './give.ts';
import { letGo, letGoEffect, listHeld } from './held.ts';
import { imageFor, readImage } from './image.ts';
import { linesOf } from './lines.ts';
import { readableBy, readersOf } from './lists.ts';
import { maskSample } from './maskSample.ts';
import { acceptBypass, forgetAccepted, listBypasses } from './native/bypasses.ts';
import { planClosing } from './native/plan.ts';
import { matchRole, nativeRoles, nativeWays } from './native/roles.ts';
import { inDomains, lookingAt } from './past.ts';
import { changePolicy, createPolicy, listPolicies, removePolicy } from './policies.ts';
import { exportPolicies, importPolicies } from './policyFile.ts';
import { reach } from './reach.ts';
import { reachLater } from './reachLater.ts';
import { reportFile, whoCouldRead } from './report.ts';
import { changeDeputy, deputyOf } from './requests/deputies.ts';
import { answerOf, listRequests, precedentsOf, readRequest } from './requests/read.ts';
import { answerRequest, askForAccess, grantEffect, seeRequest, takeRequestBack } from './requests/service.ts';
import { listItems, listReviews } from './reviews/read.ts';
import { decideRight, endReview, reviewEffect, rightsForReview, startReview } from './reviews/service.ts';
import { listRights } from './rights.ts';
import { rowsElsewhere } from './rowsElsewhere.ts';
import type { Bounds, ShownColumn, TextRow } from './runQuery.ts';
import { sampleOf } from './sample.ts';
import { seenProfiles } from './seenProfiles.ts';
import { shareRoutes } from './shares/routes.ts';
import { beside, readsWhole } from './tryAs.ts';
import { takeTurn } from './turns.ts';

/** What a try shows; a query that is streamed has the bounds of the configuration. */
const TRIED: Bounds = { rows: 200, bytes: 4 << 20, seconds: 60 };
/** What a page shows of a table. */
const SHOWN: Omit<Bounds, 'rows'> = { bytes: 2 << 20, seconds: 30 };

export function accessRoutes(router: Router, context: Context): void {
  const { db, config } = context;
  const gateway = gatewayFor(context);
  const { run, note, reachingFor } = gateway;
  const lines = linesOf(context, gateway);
  /** Takes a turn for what is read for a person, and notes how it went; with how long it took. */
  const noted = async <T extends { readonly rows: readonly TextRow[] }>(
    who: Who,
    { personId, purpose }: Asking,
    sourceId: string,
    sql: string,
    read: () => Promise<T>,
  ): Promise<T & { milliseconds: number }> => {
    const started = performance.now();
    const turn = takeTurn(who.id);
    try {
      const answered = await read();
      await note(who, personId, sourceId, sql, 'answered', answered.rows.length, started, purpose);
      return { ...answered, milliseconds: Math.round(performance.now() - started) };
    } catch (error) {
      await note(who, personId, sourceId, sql, outcomeOf(error), null, started, purpose);
      throw error;
    } finally {
      turn();
    }
  };
  /** Runs a statement for a person and keeps its rows, which are few. */
  const collect = async (
    who: Who,
    asking: Asking,
    source: { id: string; version: number },
    sql: string,
    bounds: Bounds,
    left: AbortSignal,
  ) => {
    let columns: string[] = [];
    const rows: TextRow[] = [];
    const take = (shown: readonly ShownColumn[], batch: TextRow[]) => {
      columns = shown.map(({ name }) => name);
      rows.push(...batch);
    };
    const answered = await noted(who, asking, source.id, sql, async () => {
      const { personId, purpose, preview } = asking;
      const { prepared, done } = await run(who, personId, source, sql, bounds, take, left, { purpose, preview });
      return { rows, notes: [...(await notesOn(db, tablesOf(prepared))), ...(done.notes ?? [])], prepared, done };
    });
    return { ...answered, columns };
  };

  serve(router, accessEndpoints.list, ({ who, query }) => listPolicies(db, who, query.domain));
  serve(router, accessEndpoints.reach, ({ who, body }) => reach(db, who, body.policyId, body.draft));
  serve(router, accessEndpoints.later, ({ who, body }) => reachLater(db, who, body));
  serve(router, accessEndpoints.create, ({ who, body }) => db.transaction((tx) => createPolicy(tx, who, body)));
  serve(router, accessEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changePolicy(tx, who, params.id, version, body)),
  );
  serve(router, accessEndpoints.remove, ({ who, params }) => db.transaction((tx) => removePolicy(tx, who, params.id)));
  serve(router, accessEndpoints.maskSample, ({ who, body }) => maskSample(db, who, body.mask, body.classKeys));
  serve(router, accessEndpoints.checked, ({ who }) => checkedPolicies(db, who));
  serve(router, accessEndpoints.held, ({ who }) => listHeld(db, who));
  serve(router, accessEndpoints.letGoEffect, ({ who, query }) => letGoEffect(db, who, query.asset, query));
  serve(router, accessEndpoints.letGo, ({ who, body }) => db.transaction((tx) => letGo(tx, who, body.asset, body)));
  serve(router, accessEndpoints.rights, ({ who, query }) => listRights(db, who, query));
  serve(router, accessEndpoints.readers, ({ who, query }) => readersOf(db, who, query.asset, query.at));
  serve(router, accessEndpoints.readable, ({ who, query }) => readableBy(db, who, query.person, query.at));
  serve(router, accessEndpoints.policiesOut, ({ who, query }) => exportPolicies(db, who, query.format));
  serve(router, accessEndpoints.policiesIn, ({ who, query, body }) => importPolicies(db, who, body, query.preview));
  serve(router, accessEndpoints.knownFrom, async () => ({ at: new Date(await begunAt(db)).toISOString() }));
  serve(router, accessEndpoints.report, ({ who, query }) => whoCouldRead(db, who, query));
  serve(router, accessEndpoints.reportFile, ({ who, query }) => reportFile(db, who, query, query.format));
  serve(router, accessEndpoints.bypasses, ({ who, query }) => listBypasses(db, who, query));
  serve(router, accessEndpoints.closingPlan, ({ who, body }) => planClosing(db, who, body));
  serve(router, accessEndpoints.accept, ({ who, body }) => db.transaction((tx) => acceptBypass(tx, who, body)));
  serve(router, accessEndpoints.accepted, ({ who, params }) =>
    db.transaction((tx) => forgetAccepted(tx, who, params.id)),
  );
  serve(router, accessEndpoints.roles, ({ who, params }) => nativeRoles(db, who, params.id));
  serve(router, accessEndpoints.match, ({ who, params, body, version }) =>
    db.transaction((tx) => matchRole(tx, who, params.id, version, body)),
  );
  serve(router, accessEndpoints.enforcement, ({ who, params }) => enforcementOf(db, who, params.id));
  serve(router, accessEndpoints.changeEnforcement, ({ who, params, body, version }) =>
    db.transaction((tx) => changeEnforcement(tx, who, params.id, version, body.credentialId)),
  );
  serve(router, accessEndpoints.enforcingPlan, ({ who, params }) => planEnforcing(db, config, who, params.id));
  serve(router, accessEndpoints.enforce, ({ who, params, body }) => enforce(db, config, who, params.id, body.digest));
  serve(router, accessEndpoints.checkEnforcement, ({ who, params, body }) =>
    checkEnforcement(db, config, who, params.id, body.accept),
  );
  serve(router, accessEndpoints.endEnforcement, ({ who, params }) => endEnforcement(db, config, who, params.id));
  serve(router, accessEndpoints.requests, ({ who, query }) => listRequests(db, who, query));
  serve(router, accessEndpoints.request, async ({ who, params }) => answerOf(await readRequest(db, who, params.id)));
  serve(router, accessEndpoints.precedents, ({ who, params }) => precedentsOf(db, who, params.id));
  serve(router, accessEndpoints.ask, ({ who, body }) => db.transaction((tx) => askForAccess(tx, who, body)));
  serve(router, accessEndpoints.grantEffect, ({ who, params, body }) => grantEffect(db, who, params.id, body));
  serve(router, accessEndpoints.answerRequest, ({ who, params, body, version }) =>
    db.transaction((tx) => answerRequest(tx, who, params.id, version, body)),
  );
  serve(router, accessEndpoints.takeBack, ({ who, params }) =>
    db.transaction((tx) => takeRequestBack(tx, who, params.id)),
  );
  serve(router, accessEndpoints.seenRequest, ({ who, params, body }) =>
    db.transaction((tx) => seeRequest(tx, who, params.id, body)),
  );
  serve(router, accessEndpoints.reviews, ({ who }) => listReviews(db, who));
  serve(router, accessEndpoints.reviewed, ({ who, body }) => rightsForReview(db, who, body.filter));
  serve(router, accessEndpoints.startReview, ({ who, body }) => db.transaction((tx) => startReview(tx, who, body)));
  serve(router, accessEndpoints.reviewItems, ({ who, params, query }) => listItems(db, who, params.id, query));
  serve(router, accessEndpoints.decideRight, ({ who, params, body }) =>
    db.transaction((tx) => decideRight(tx, who, params.id, body)),
  );
  serve(router, accessEndpoints.reviewEffect, ({ who, params }) => reviewEffect(db, who, params.id));
  serve(router, accessEndpoints.endReview, ({ who, params, body }) =>
    db.transaction((tx) => endReview(tx, who, params.id, body)),
  );
  serve(router, accessEndpoints.deputy, ({ who, params }) => deputyOf(db, who, params.id));
  serve(router, accessEndpoints.changeDeputy, ({ who, params, body, version }) =>
    db.transaction((tx) => changeDeputy(tx, who, params.id, version, body)),
  );
  // What of values somebody may see is decided here, wherever it is shown.
  serve(router, catalogEndpoints.profiles, ({ who, params }) => seenProfiles(db, who, params.id));
  serve(router, recognitionEndpoints.columnValues, ({ who, body }) => {
    who.mustAnywhere('steward');
    return columnValues(db, config, who, body.assetId, body.rows);
  });

  serve(router, accessEndpoints.explain, async ({ who, query }) => {
    const asset = await getAsset(db, who, query.asset);
    if (query.person !== who.id) who.must('policy administrator', asset.domainId);
    return lookingAt(db, query.at, async (then) => {
      const about = [
        `(t.id = $1 or t.id = $2 or t.parent_id = $1) and t.kind in (${kindsSql('holdsRows')}) and ${inDomains(then, '$3')}`,
        [asset.id, asset.parentId, who.domainsAs(query.person === who.id ? 'reader' : 'policy administrator')],
        'any',
      ] as const;
      const asking = { personId: query.person, purpose: query.purpose, preview: true };
      // Who is of a partner reads by each of its shares for itself.
      const shares = await sharesReadBy(then, query.person);
      const each = shares.length > 0 ? shares : [null];
      const told: Explained[] = [];
      for (const share of each) {
        const facts = await factsFor(then, share ? { ...asking, share: { ...share, assetIds: [] } } : asking, ...about);
        if (!facts) throw notFound('The person');
        const ways = await nativeWays(then, query.person, facts.tables);
        // It may have had another name then.
        const named = facts.tables.flatMap(({ columns }) => columns).find(({ id }) => id === asset.id)?.name;
        for (const table of facts.tables) {
          const decided = explained(decideTable(facts.policies, facts.person, table));
          told.push({
            ...decided,
            path: share ? `${table.path}, by share ${share.number ?? ''}` : table.path,
            columns: asset.kind === 'column' ? decided.columns.filter(({ name }) => name === named) : decided.columns,
            atSource: ways.get(table.id) ?? [],
          });
        }
      }
      return told;
    });
  });

  serve(router, accessEndpoints.tryIt, async ({ who, body, left }): Promise<TryAnswer> => {
    const source = await sourceFacts(db, who, body.sourceId);
    who.must('policy administrator', source.domainId);
    const { personId, sql, purpose } = body;
    if (!(await readPeople(db, [personId])).length) throw notFound('The person');
    const { prepared, done, ...answer } = await collect(who, { personId, purpose }, source, sql, TRIED, left);
    const rewritten = Object.values(DIGEST_SETTINGS).reduce(
      (text, setting) => text.replaceAll(`current_setting('${setting}')`, "'key of digests'"),
      prepared.sql,
    );
    const theirs = { ...answer, capped: done.capped, rewritten, tables: prepared.tables };
    // What they state they read for is theirs: who tries states nothing.
    const mine = await collect(who, { personId: who.id, purpose: null }, source, sql, TRIED, left).catch(
      (error: unknown) => {
        const { status, message } = toApiProblem(error);
        if (status === 500) throw error;
        return message;
      },
    );
    if (typeof mine === 'string') return { ...theirs, yours: null, yoursNot: mine, beside: [], pairs: [] };
    const { tables } = mine.prepared;
    const yours = {
      columns: mine.columns,
      rows: mine.rows,
      capped: mine.done.capped,
      milliseconds: mine.milliseconds,
      whole: readsWhole(tables),
    };
    return { ...theirs, yours, yoursNot: null, ...(await beside(db, sql, { ...yours, tables }, theirs)) };
  });

  serve(router, accessEndpoints.rows, async ({ who, params, query, left }): Promise<RowsAnswer> => {
    const sample = await sampleOf(db, who, params.id, query.limit, query.purpose);
    const { source, table, columns, more, sql, limit } = sample;
    const asking: Asking = { personId: who.id, purpose: query.purpose, preview: true };
    if (sql === null) return { columns: [], rows: [], more, table, notes: [], milliseconds: 0 };
    if (source.kind !== 'postgresql') {
      const { rows, notes, milliseconds } = await noted(who, asking, source.id, sql, async () => {
        const { key, organisation } = sample;
        const elsewhere = { config, source, reaching: reachingFor(source.id), key, organisation };
        const found = await rowsElsewhere(elsewhere, sample.decision, columns, limit, left);
        return { ...found, notes: [...(await notesOn(db, [sample.id])), ...found.notes] };
      });
      return { columns, rows, more, table, notes, milliseconds };
    }
    const found = await collect(who, asking, source, sql, { ...SHOWN, rows: limit }, left);
    const { rows, notes, milliseconds } = found;
    return { columns, rows, more, table, notes, milliseconds };
  });

  serve(router, accessEndpoints.image, async ({ who, params, left, response }) => {
    const { source, path, at } = await imageFor(db, who, params.id);
    const { type, bytes } = await noted(
      who,
      { personId: who.id, purpose: null },
      source.id,
      `image of ${path}`,
      async () => ({
        ...(await readImage(await reachingFor(source.id), at, left)),
        rows: [],
      }),
    );
    response.set(ONLY_SHOWN).set('cache-control', 'private, no-store').type(type).send(bytes);
  });

  serve(router, accessEndpoints.query, async ({ who, params, body, response, left }) => {
    const reaching = reachingFor(params.id);
    const asked = await askedSource(db, who, params.id);
    const { sql, limit, purpose } = body;
    await lines({ who, ...asked, sql, limit, purpose, reaching }, response, left);
  });
  shareRoutes(router, context, lines);
  serve(router, accessEndpoints.given, ({ who, params }) => givenOn(db, who, params.id));
  serve(router, accessEndpoints.give, ({ who, params, body }) =>
    db.transaction((tx) => giveOn(tx, who, params.id, body)),
  );
  serve(router, accessEndpoints.takeGiven, ({ who, params }) => db.transaction((tx) => takeGiven(tx, who, params.id)));
}
