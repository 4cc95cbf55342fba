import { routineEndpoints } from '@idrel/contract/routines';
import type { Router } from 'express';
import type { WithFinder } from '../catalog/index.ts';
import { serve } from '../platform/api.ts';
import { answerQuestions, questionsFor } from './questions.ts';
import { replayRoutine } from './replay.ts';
import { getRun, goOn, listRuns, runAssets, runRoutine, stopRun, undoRun } from './runs.ts';
import {
  addRoutine,
  bringBackRoutine,
  changeRoutine,
  listRoutines,
  previewRoutine,
  removeRoutine,
  takeRoutine,
} from './service.ts';

export function routineRoutes(router: Router, { db, finder }: WithFinder): void {
  serve(router, routineEndpoints.list, ({ who }) => listRoutines(db, who));
  serve(router, routineEndpoints.create, ({ who, body }) => db.transaction((tx) => addRoutine(tx, who, body, finder)));
  serve(router, routineEndpoints.preview, ({ who, body }) => previewRoutine(db, who, body, finder));
  serve(router, routineEndpoints.replay, ({ who, body }) => replayRoutine({ db, finder }, who, body));
  serve(router, routineEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeRoutine(tx, who, params.id, version, body, finder)),
  );
  serve(router, routineEndpoints.take, ({ who, params }) => db.transaction((tx) => takeRoutine(tx, who, params.id)));
  serve(router, routineEndpoints.remove, ({ who, params }) =>
    db.transaction((tx) => removeRoutine(tx, who, params.id)),
  );
  serve(router, routineEndpoints.bringBack, ({ who, params }) =>
    db.transaction((tx) => bringBackRoutine(tx, who, params.id)),
  );
  serve(router, routineEndpoints.run, ({ who, params, body }) =>
    db.transaction((tx) => runRoutine(tx, who, params.id, body.changes, finder)),
  );
  serve(router, routineEndpoints.runs, ({ params }) => listRuns(db, params.id));
  serve(router, routineEndpoints.oneRun, ({ who, params }) => getRun(db, who, params.id));
  serve(router, routineEndpoints.runAssets, ({ who, params, query }) => runAssets(db, who, params.id, query));
  serve(router, routineEndpoints.goOn, ({ who, params, body }) =>
    db.transaction((tx) => goOn(tx, who, params.id, body.skip)),
  );
  serve(router, routineEndpoints.stop, ({ who, params }) => db.transaction((tx) => stopRun(tx, who, params.id)));
  serve(router, routineEndpoints.questions, ({ who, params }) => questionsFor(db, who, params.id));
  serve(router, routineEndpoints.answer, ({ who, params, body }) =>
    db.transaction((tx) => answerQuestions(tx, who, params.id, body)),
  );
  serve(router, routineEndpoints.undo, ({ who, params, body }) =>
    db.transaction((tx) => undoRun(tx, who, params.id, body.assetId)),
  );
}
