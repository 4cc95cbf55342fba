import { recognitionEndpoints } from '@idrel/contract/recognition';
import type { Router } from 'express';
import type { WithFinder } from '../catalog/index.ts';
import { isSeen } from '../people/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { notFound } from '../platform/problems.ts';
import {
  addCertaintyRule,
  CERTAINTY_CLASS_USE,
  changeCertaintyRule,
  forgetDismissal,
  getCertainty,
  previewCertainty,
  removeCertaintyRule,
  removeThreshold,
  setThreshold,
} from './certainty.ts';
import {
  addClass,
  carriersOf,
  changeClass,
  listClasses,
  previewClassTravel,
  removeClass,
  restoreClass,
} from './classes.ts';
import type { ClassUse } from './classUse.ts';
import { exportOwn, importOwn } from './detectorFile.ts';
import { readExample } from './exampleFile.ts';
import {
  addRule,
  changeKinds,
  changeLevel,
  changeRule,
  getKinds,
  LEVEL_CLASS_USE,
  listLevels,
  listRules,
  previewChange,
  removeRule,
} from './levelRules.ts';
import { levelReasons } from './levels.ts';
import { addOwn, changeOwn, getOwn, OWN_CLASS_USE, removeOwn } from './own.ts';
import { decideFindings, FINDING_CLASS_USE, listAlike, listDetectors, listFindings } from './service.ts';
import { addSet, changeSet, listSets, removeSet } from './sets.ts';
import { switchDetectors, switchEffect } from './switching.ts';
import { arrivalsAt } from './travel.ts';
import { getTrial, startTrial, stopTrial } from './trials.ts';

/** What names data classes in this area. */
const OWN_USES: readonly ClassUse[] = [LEVEL_CLASS_USE, OWN_CLASS_USE, CERTAINTY_CLASS_USE, FINDING_CLASS_USE];

/** @param uses what names data classes elsewhere; they are asked first whether one may go */
export function recognitionRoutes(router: Router, context: WithFinder, uses: readonly ClassUse[]): void {
  const { db, finder } = context;
  serve(router, recognitionEndpoints.findings, ({ who, query }) => listFindings(db, finder, who, query));
  serve(router, recognitionEndpoints.alike, ({ who, query }) => listAlike(db, who, query.asset, query.class));
  serve(router, recognitionEndpoints.decide, ({ who, body }) =>
    db.transaction((tx) => decideFindings(tx, who, body.decisions)),
  );
  serve(router, recognitionEndpoints.detectors, ({ who }) => listDetectors(db, who));
  serve(router, recognitionEndpoints.sets, ({ who }) => listSets(db, who));
  serve(router, recognitionEndpoints.addSet, ({ who, body }) => db.transaction((tx) => addSet(tx, who, body)));
  serve(router, recognitionEndpoints.changeSet, ({ who, params, body, version }) =>
    db.transaction((tx) => changeSet(tx, who, params.id, version, body)),
  );
  serve(router, recognitionEndpoints.removeSet, ({ who, params }) =>
    db.transaction((tx) => removeSet(tx, who, params.id)),
  );
  classRoutes(router, db, [...uses, ...OWN_USES]);
  levelRoutes(router, db);
  ownRoutes(router, context);
  certaintyRoutes(router, db);
}

function classRoutes(router: Router, db: Context['db'], uses: readonly ClassUse[]): void {
  serve(router, recognitionEndpoints.classes, ({ who, query }) => listClasses(db, who, query.counted));
  serve(router, recognitionEndpoints.arrivals, ({ who, params }) => arrivalsAt(db, who, params.id));
  serve(router, recognitionEndpoints.previewTravel, ({ who, params, body }) =>
    previewClassTravel(db, who, params.key, body.travels),
  );
  serve(router, recognitionEndpoints.addClass, ({ who, body }) => db.transaction((tx) => addClass(tx, who, body)));
  serve(router, recognitionEndpoints.changeClass, ({ who, params, body, version }) =>
    db.transaction((tx) => changeClass(tx, who, params.key, version, body)),
  );
  serve(router, recognitionEndpoints.carriers, ({ who, params }) => carriersOf(db, who, params.key, uses));
  serve(router, recognitionEndpoints.removeClass, ({ who, params, query }) =>
    db.transaction((tx) => removeClass(tx, who, params.key, query.columns, uses)),
  );
  serve(router, recognitionEndpoints.restoreClass, ({ who, params }) =>
    db.transaction((tx) => restoreClass(tx, who, params.key)),
  );
}

function levelRoutes(router: Router, db: Context['db']): void {
  serve(router, recognitionEndpoints.levelRules, () => listRules(db));
  serve(router, recognitionEndpoints.addLevelRule, ({ who, body }) => db.transaction((tx) => addRule(tx, who, body)));
  serve(router, recognitionEndpoints.changeLevelRule, ({ who, params, body, version }) =>
    db.transaction((tx) => changeRule(tx, who, params.id, version, body)),
  );
  serve(router, recognitionEndpoints.removeLevelRule, ({ who, params }) =>
    db.transaction((tx) => removeRule(tx, who, params.id)),
  );
  serve(router, recognitionEndpoints.previewLevelRule, ({ who, body }) => previewChange(db, who, body));
  serve(router, recognitionEndpoints.levels, () => listLevels(db));
  serve(router, recognitionEndpoints.changeLevel, ({ who, params, body, version }) =>
    db.transaction((tx) => changeLevel(tx, who, params.level, version, body)),
  );
  serve(router, recognitionEndpoints.levelKinds, () => getKinds(db));
  serve(router, recognitionEndpoints.changeLevelKinds, ({ who, body, version }) =>
    db.transaction((tx) => changeKinds(tx, who, version, body.kinds)),
  );
  serve(router, recognitionEndpoints.levelReasons, async ({ who, params }) => {
    const seen = await db.one(`select 1 as yes from asset where id = $1 and ${isSeen('asset', '$2')}`, [
      params.id,
      who.domainsAs('reader'),
    ]);
    if (!seen) throw notFound('The asset');
    return levelReasons(db, params.id, who.domainsAs('reader'));
  });
}

function certaintyRoutes(router: Router, db: Context['db']): void {
  const _rule = (body: object) => body;
  serve(router, recognitionEndpoints.certainty, ({ who }) => getCertainty(db, who));
  serve(router, recognitionEndpoints.setThreshold, ({ who, params, body, version }) =>
    db.transaction((tx) => setThreshold(tx, who, params.key, version, body)),
  );
  serve(router, recognitionEndpoints.removeThreshold, ({ who, params }) =>
    db.transaction((tx) => removeThreshold(tx, who, params.key)),
  );
  serve(router, recognitionEndpoints.addCertaintyRule, ({ who, body }) =>
    db.transaction((tx) => addCertaintyRule(tx, who, body)),
  );
  serve(router, recognitionEndpoints.changeCertaintyRule, ({ who, params, body, version }) =>
    db.transaction((tx) => changeCertaintyRule(tx, who, params.id, version, body)),
  );
  serve(router, recognitionEndpoints.removeCertaintyRule, ({ who, params }) =>
    db.transaction((tx) => removeCertaintyRule(tx, who, params.id)),
  );
  serve(router, recognitionEndpoints.previewCertainty, ({ who, body }) => previewCertainty(db, who, body));
  serve(router, recognitionEndpoints.forgetDismissal, ({ who, params }) =>
    db.transaction((tx) => forgetDismissal(tx, who, params.id)),
  );
}

function ownRoutes(router: Router, { db }: Context): void {
  serve(router, recognitionEndpoints.own, ({ params }) => getOwn(db, params.id));
  serve(router, recognitionEndpoints.addOwn, ({ who, body }) => db.transaction((tx) => addOwn(tx, who, body)));
  serve(router, recognitionEndpoints.changeOwn, ({ who, params, body, version }) =>
    db.transaction((tx) => changeOwn(tx, who, params.id, version, body)),
  );
  serve(router, recognitionEndpoints.removeOwn, ({ who, params }) =>
    db.transaction((tx) => removeOwn(tx, who, params.id)),
  );
  serve(router, recognitionEndpoints.switchOff, ({ who, body }) =>
    db.transaction((tx) => switchDetectors(tx, who, body.ids, body.off)),
  );
  serve(router, recognitionEndpoints.exported, ({ response }) => {
    response.set('content-disposition', 'attachment; filename="idrel-detectors.json"');
    return exportOwn(db);
  });
  serve(router, recognitionEndpoints.imported, ({ who, body, query }) =>
    db.transaction((tx) => importOwn(tx, who, body, query.preview)),
  );
  serve(router, recognitionEndpoints.exampleFile, async ({ who, body }) => {
    who.mustAnywhere('steward');
    return {
      columns: await readExample(body.name, Buffer.from(body.content, 'base64'), body.rows),
    };
  });
  serve(router, recognitionEndpoints.switchEffect, ({ who, query }) => switchEffect(db, who, query.ids.split(',')));
  serve(router, recognitionEndpoints.startTrial, ({ who, body }) => db.transaction((tx) => startTrial(tx, who, body)));
  serve(router, recognitionEndpoints.trial, ({ who, params }) => getTrial(db, who, params.id));
  serve(router, recognitionEndpoints.stopTrial, ({ who, params }) => stopTrial(db, who, params.id));
}
