import {
  causeEndpoints,
  keptViewEndpoints,
  lineageEndpoints,
  proposedEndpoints,
  saidEndpoints,
  statementEndpoints,
} from '@idrel/contract/lineage';
import { without } from '@idrel/core/lineage';
import type { Router } from 'express';
import { getAsset } from '../catalog/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import type { Db } from '../platform/database.ts';
import { follow } from '../platform/jobs.ts';
import { settleAround } from '../recognition/index.ts';
import { causesOf } from './causes.ts';
import { takeEdges } from './edgeSheet.ts';
import { exportLineage } from './exported.ts';
import { fitting } from './fitting.ts';
import { impactList } from './impact.ts';
import { momentsAsked, momentsOf } from './moments.ts';
import { fieldOrigins } from './origins.ts';
import { lineagePicture, pictureColumns } from './picture.ts';
import { type PictureFormat, pictureFile } from './pictureFile.ts';
import { proposedImpact } from './proposed.ts';
import { edgesOf, sayEdges, sayRight, sayWrong, unsayEdge } from './said.ts';
import { statementsOf } from './statements.ts';
import { tellOfProposed } from './tellOfProposed.ts';
import { bringBackView, changeView, getView, keepView, listViews, removeView } from './views.ts';

/** Classes travel along what is said of edges, and levels follow them. */
async function withLevels<T>(tx: Db, said: Promise<T>): Promise<T> {
  const answer = await said;
  await settleAround(tx, []);
  await follow(tx, 'priority', 'broken');
  return answer;
}

export function lineageRoutes(router: Router, { db }: Context): void {
  serve(router, lineageEndpoints.origins, ({ who, query }) => fieldOrigins(db, who, query.asset));
  serve(router, causeEndpoints.causes, ({ who, query }) => causesOf(db, who, query.asset, query.days));
  serve(router, proposedEndpoints.proposed, ({ who, query }) => proposedImpact(db, who, query));
  serve(router, proposedEndpoints.tell, ({ who, body }) => db.transaction((tx) => tellOfProposed(tx, who, body)));
  serve(router, statementEndpoints.statements, ({ who, params, query }) => statementsOf(db, who, params.id, query));
  serve(router, saidEndpoints.edges, ({ who, query }) =>
    edgesOf(db, who, query.asset, query.direction === 'downstream' ? 'downstream' : 'upstream', query),
  );
  serve(router, saidEndpoints.say, ({ who, body }) =>
    db.transaction((tx) => withLevels(tx, sayEdges(tx, who, body.edges))),
  );
  serve(router, saidEndpoints.sheet, ({ who, query, body }) => takeEdges(db, who, body, query.preview));
  serve(router, saidEndpoints.unsay, ({ who, params }) =>
    db.transaction((tx) => withLevels(tx, unsayEdge(tx, who, params.id))),
  );
  serve(router, saidEndpoints.wrong, ({ who, body }) =>
    db.transaction((tx) => withLevels(tx, sayWrong(tx, who, body.from, body.to, body.reason))),
  );
  serve(router, saidEndpoints.right, ({ who, query }) =>
    db.transaction((tx) => withLevels(tx, sayRight(tx, who, query.from, query.to))),
  );
  serve(router, lineageEndpoints.picture, ({ who, query }) =>
    lineagePicture(db, who, query.focus, { ...query, moments: momentsAsked(query) }),
  );
  serve(router, lineageEndpoints.columns, ({ who, body }) => pictureColumns(db, who, body, momentsAsked(body)));
  serve(router, keptViewEndpoints.fitting, ({ who, body }) => fitting(db, who, body.filter, body.ids));
  serve(router, keptViewEndpoints.list, ({ who }) => listViews(db, who));
  serve(router, keptViewEndpoints.get, ({ who, params }) => getView(db, who, params.id));
  serve(router, keptViewEndpoints.create, ({ who, body }) => db.transaction((tx) => keepView(tx, who, body)));
  serve(router, keptViewEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeView(tx, who, params.id, version, body)),
  );
  serve(router, keptViewEndpoints.remove, ({ who, params }) => db.transaction((tx) => removeView(tx, who, params.id)));
  serve(router, keptViewEndpoints.bringBack, ({ who, params }) =>
    db.transaction((tx) => bringBackView(tx, who, params.id)),
  );
  serve(router, lineageEndpoints.pictureFile, async ({ who, query }) => {
    const { name, kind, parentId } = await getAsset(db, who, query.focus);
    const picture = await lineagePicture(db, who, query.focus, { ...query, moments: momentsAsked(query), whole: true });
    const fits =
      query.only &&
      (await fitting(
        db,
        who,
        query.only,
        [...picture.nodes, ...picture.flows].map(({ id }) => id),
      ));
    const shown = without(
      picture,
      kind === 'column' ? (parentId ?? query.focus) : query.focus,
      new Set(query.hide?.split(',')),
      fits ? new Set(fits) : null,
    );
    return pictureFile(db, shown, query.format as PictureFormat, name);
  });
  serve(router, lineageEndpoints.exported, ({ who, params }) => exportLineage(db, who, params.id));
  serve(router, lineageEndpoints.moments, ({ who, query }) => momentsOf(db, who, query.asset));
  serve(router, lineageEndpoints.impact, ({ who, query }) =>
    impactList(db, who, query.asset, query.direction === 'upstream' ? 'upstream' : 'downstream', query.rule),
  );
}
