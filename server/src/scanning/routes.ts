import {
  agentEndpoints,
  isEnded,
  type LogLine,
  planEndpoints,
  runEventEndpoints,
  scanEndpoints,
} from '@idrel/contract/scanning';
import { pushEndpoints, sourceEndpoints } from '@idrel/contract/sources';
import type { Router } from 'express';
import { sessionTopic, whoOfSession } from '../people/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { answerAsk } from './agentAsks.ts';
import { agentOf, beat, claimRun, endRun, takeBatch } from './agentRuns.ts';
import { addAgent, changeAgent, listAgents, removeAgent } from './agents.ts';
import { outline, testConnection } from './askSource.ts';
import { compareRuns } from './compareRuns.ts';
import { listFlowRuns } from './flowRuns.ts';
import { previewPlan } from './planPreview.ts';
import { addPlan, changePlan, getPlan, leaveOut, listPlans, removePlan, runPlan } from './plans.ts';
import { pushAssets } from './push.ts';
import { settleRename } from './renames.ts';
import { eventsOf, makeEventKey, receiveEvent, sourceOfKey } from './runEvents.ts';
import { cancelRun, getRun, listRuns, runFailedAgain, startRun } from './service.ts';

export function scanRoutes(router: Router, { db, signals, config }: Context): void {
  const asking = { config, signals };
  const logLines = (runId: string, after = 0) =>
    db.rows<LogLine>(
      'select id::int, at, level, text from scan_log where run_id = $1 and id > $2 order by id limit 5000',
      [runId, after],
    );

  serve(router, agentEndpoints.list, ({ who }) => listAgents(db, who));
  serve(router, agentEndpoints.add, ({ who, body }) => db.transaction((tx) => addAgent(tx, who, body)));
  serve(router, agentEndpoints.change, ({ who, params, version, body }) =>
    db.transaction((tx) => changeAgent(tx, who, params.id, version, body)),
  );
  serve(router, agentEndpoints.remove, ({ who, params }) => db.transaction((tx) => removeAgent(tx, who, params.id)));
  serve(router, agentEndpoints.claim, async ({ request, body }) =>
    claimRun(db, config, await agentOf(db, request), body),
  );
  serve(router, agentEndpoints.answer, async ({ request, params, body }) =>
    answerAsk(db, (await agentOf(db, request)).id, params.id, body),
  );
  serve(router, agentEndpoints.beat, async ({ request, params, body }) =>
    beat(db, await agentOf(db, request), params.id, body),
  );
  serve(router, agentEndpoints.batch, async ({ request, params, body }) =>
    takeBatch(db, await agentOf(db, request), params.id, body),
  );
  serve(router, agentEndpoints.end, async ({ request, params, body }) =>
    endRun(db, config, await agentOf(db, request), params.id, body),
  );
  serve(router, runEventEndpoints.receive, async ({ bearer, body }) => {
    const sourceId = await sourceOfKey(db, bearer);
    await db.transaction((tx) => receiveEvent(tx, sourceId, body));
  });
  serve(router, runEventEndpoints.makeKey, ({ who, params }) =>
    db.transaction((tx) => makeEventKey(tx, who, params.id)),
  );
  serve(router, runEventEndpoints.events, ({ who, params }) => eventsOf(db, who, params.id));
  serve(router, runEventEndpoints.runs, ({ who, params, query }) => listFlowRuns(db, who, params.id, query.limit));
  serve(router, planEndpoints.list, ({ who, params }) => listPlans(db, who, params.id));
  serve(router, planEndpoints.get, ({ who, params }) => getPlan(db, who, params.id));
  serve(router, planEndpoints.add, ({ who, params, body }) =>
    db.transaction((tx) => addPlan(tx, who, params.id, body)),
  );
  serve(router, planEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changePlan(tx, who, params.id, version, body)),
  );
  serve(router, planEndpoints.leaveOut, ({ who, params, body }) =>
    db.transaction((tx) => leaveOut(tx, who, params.id, body.paths, body.out)),
  );
  serve(router, planEndpoints.remove, ({ who, params }) => db.transaction((tx) => removePlan(tx, who, params.id)));
  serve(router, planEndpoints.run, ({ who, params }) => db.transaction((tx) => runPlan(tx, who, params.id)));
  serve(router, planEndpoints.outline, ({ who, params }) => outline(db, asking, who, params.id));
  serve(router, planEndpoints.preview, ({ who, params, body }) => previewPlan(db, asking, who, params.id, body));
  serve(router, sourceEndpoints.test, ({ who, params }) => testConnection(db, asking, who, params.id));
  serve(router, pushEndpoints.push, ({ who, params, body }) =>
    db.transaction((tx) => pushAssets(tx, who, params.id, body)),
  );
  serve(router, scanEndpoints.start, ({ who, params, body }) =>
    db.transaction((tx) => startRun(tx, who, params.id, body)),
  );
  serve(router, scanEndpoints.list, ({ who, params }) => listRuns(db, who, params.id));
  serve(router, scanEndpoints.get, ({ who, params }) => getRun(db, who, params.id));
  serve(router, scanEndpoints.settleRename, ({ who, params, body }) =>
    db.transaction((tx) => settleRename(tx, who, params.id, body)),
  );
  serve(router, scanEndpoints.compare, ({ who, params, query }) => compareRuns(db, who, params.id, query.with));
  serve(router, scanEndpoints.again, ({ who, params }) => db.transaction((tx) => runFailedAgain(tx, who, params.id)));
  serve(router, scanEndpoints.cancel, ({ who, params }) => db.transaction((tx) => cancelRun(tx, who, params.id)));
  serve(router, scanEndpoints.log, async ({ who, params }) => {
    const run = await getRun(db, who, params.id);
    return logLines(run.id);
  });

  serve(router, scanEndpoints.events, async ({ who, params, request, response }) => {
    const { id } = await getRun(db, who, params.id);
    const session = String(response.locals.session);
    response.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-cache, no-transform',
      'x-accel-buffering': 'no',
    });
    let lastLine = 0;
    let sending = false;
    let again = false;
    const send = (event: string, data: unknown) => response.write(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`);
    const tell = async (): Promise<void> => {
      if (sending) {
        again = true;
        return;
      }
      sending = true;
      do {
        again = false;
        // News go to whoever may still see them: the session open, the rights as they are now.
        const still = await whoOfSession(db, session);
        if (!still) return close();
        // The state first, then the log: its last line is written before the state that ends the run.
        const run = await getRun(db, still, id);
        const lines = await logLines(id, lastLine);
        lastLine = lines.at(-1)?.id ?? lastLine;
        if (lines.length > 0) send('log', lines);
        send('run', run);
        if (isEnded(run.state)) return close();
      } while (again);
      sending = false;
    };
    const stop = signals.listen(`run:${id}`, () => void tell().catch(() => close()));
    const signedOut = signals.listen(sessionTopic(session), () => close());
    const quiet = setInterval(
      () =>
        void whoOfSession(db, session).then((still) => (still ? response.write(': still here\n\n') : close()), close),
      15_000,
    );
    const close = () => {
      stop();
      signedOut();
      clearInterval(quiet);
      response.end();
    };
    request.on('close', close);
    await tell();
  });
}
