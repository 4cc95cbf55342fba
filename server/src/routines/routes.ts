import { routineEndpoints } from '@idrel/contract/routines';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import {
  addRoutine,
  bringBackRoutine,
  changeRoutine,
  listRoutines,
  listRuns,
  previewRoutine,
  removeRoutine,
  runRoutine,
  undoRun,
} from './service.ts';

export function routineRoutes(router: Router, { db }: Context): void {
  serve(router, routineEndpoints.list, ({ who }) => listRoutines(db, who));
  serve(router, routineEndpoints.create, ({ who, body }) => db.transaction((tx) => addRoutine(tx, who, body)));
  serve(router, routineEndpoints.preview, ({ who, body }) => previewRoutine(db, who, body.filter, body.action));
  serve(router, routineEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeRoutine(tx, who, params.id, version, body)),
  );
  serve(router, routineEndpoints.remove, ({ who, params }) =>
    db.transaction((tx) => removeRoutine(tx, who, params.id)),
  );
  serve(router, routineEndpoints.bringBack, ({ who, params }) =>
    db.transaction((tx) => bringBackRoutine(tx, who, params.id)),
  );
  serve(router, routineEndpoints.run, ({ who, params, body }) =>
    db.transaction((tx) => runRoutine(tx, who, params.id, body.changes)),
  );
  serve(router, routineEndpoints.runs, ({ params }) => listRuns(db, params.id));
  serve(router, routineEndpoints.undo, ({ who, params }) => db.transaction((tx) => undoRun(tx, who, params.id)));
}
