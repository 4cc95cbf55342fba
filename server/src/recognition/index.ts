import {
  type CertaintyRuleBody,
  type ClassBody,
  type DetectorFile,
  type DetectorSetBody,
  type LevelRuleBody,
  type LevelText,
  type OwnDetectorBody,
  recognitionEndpoints,
  type ThresholdBody,
} from '@idrel/contract/recognition';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { notFound } from '../platform/problems.ts';
import { forgetDismissal, getCertainty, previewCertainty, saveCertaintyRule, setThreshold } from './certainty.ts';
import { addClass, carriersOf, changeClass, listClasses, removeClass, restoreClass } from './classes.ts';
import { readExample } from './exampleFile.ts';
import {
  changeKinds,
  changeLevel,
  getKinds,
  type LevelChange,
  listLevels,
  listRules,
  previewChange,
  removeRule,
  saveRule,
} from './levelRules.ts';
import { levelReasons } from './levels.ts';
import { addOwn, changeOwn, exportOwn, getOwn, importOwn, removeOwn, switchDetectors, switchEffect } from './own.ts';
import { decideFindings, listAlike, listDetectors, listFindings } from './service.ts';
import { listSets, removeSet, saveSet } from './sets.ts';
import { getTrial, startTrial, stopTrial } from './trials.ts';

export function recognitionRoutes(router: Router, context: Context): void {
  const { db } = context;
  serve(router, recognitionEndpoints.findings, ({ who, query }) => listFindings(db, who, query));
  serve(router, recognitionEndpoints.alike, ({ who, query }) =>
    listAlike(db, who, String(query.asset), String(query.class)),
  );
  serve(router, recognitionEndpoints.decide, ({ who, body }) =>
    db.transaction(async (tx) => ({
      decided: await decideFindings(tx, who, body.decisions as Parameters<typeof decideFindings>[2]),
    })),
  );
  serve(router, recognitionEndpoints.detectors, ({ who }) => listDetectors(db, who));
  serve(router, recognitionEndpoints.sets, ({ who }) => listSets(db, who));
  serve(router, recognitionEndpoints.addSet, ({ who, body }) =>
    db.transaction((tx) => saveSet(tx, who, null, undefined, body as unknown as DetectorSetBody)),
  );
  serve(router, recognitionEndpoints.changeSet, ({ who, params, body, version }) =>
    db.transaction((tx) => saveSet(tx, who, params.id ?? '', version, body as unknown as DetectorSetBody)),
  );
  serve(router, recognitionEndpoints.removeSet, ({ who, params }) =>
    db.transaction((tx) => removeSet(tx, who, params.id ?? '')),
  );
  classRoutes(router, db);
  levelRoutes(router, db);
  ownRoutes(router, context);
  certaintyRoutes(router, db);
}

function classRoutes(router: Router, db: Context['db']): void {
  const key = (params: Record<string, string>) => params.key ?? '';
  serve(router, recognitionEndpoints.classes, ({ who }) => listClasses(db, who));
  serve(router, recognitionEndpoints.addClass, ({ who, body }) =>
    db.transaction((tx) => addClass(tx, who, body as unknown as ClassBody)),
  );
  serve(router, recognitionEndpoints.changeClass, ({ who, params, body, version }) =>
    db.transaction((tx) => changeClass(tx, who, key(params), version, body as unknown as ClassBody)),
  );
  serve(router, recognitionEndpoints.carriers, ({ who, params }) => carriersOf(db, who, key(params)));
  serve(router, recognitionEndpoints.removeClass, ({ who, params, query }) =>
    db.transaction((tx) => removeClass(tx, who, key(params), Number(query.columns))),
  );
  serve(router, recognitionEndpoints.restoreClass, ({ who, params }) =>
    db.transaction((tx) => restoreClass(tx, who, key(params))),
  );
}

function levelRoutes(router: Router, db: Context['db']): void {
  serve(router, recognitionEndpoints.levelRules, () => listRules(db));
  serve(router, recognitionEndpoints.addLevelRule, ({ who, body }) =>
    db.transaction((tx) => saveRule(tx, who, null, undefined, body as unknown as LevelRuleBody)),
  );
  serve(router, recognitionEndpoints.changeLevelRule, ({ who, params, body, version }) =>
    db.transaction((tx) => saveRule(tx, who, params.id ?? '', version, body as unknown as LevelRuleBody)),
  );
  serve(router, recognitionEndpoints.removeLevelRule, ({ who, params }) =>
    db.transaction((tx) => removeRule(tx, who, params.id ?? '')),
  );
  serve(router, recognitionEndpoints.previewLevelRule, ({ who, body }) =>
    previewChange(db, who, body as unknown as LevelChange),
  );
  serve(router, recognitionEndpoints.levels, () => listLevels(db));
  serve(router, recognitionEndpoints.changeLevel, ({ who, params, body, version }) =>
    db.transaction((tx) => changeLevel(tx, who, Number(params.level), version, body as unknown as LevelText)),
  );
  serve(router, recognitionEndpoints.levelKinds, () => getKinds(db));
  serve(router, recognitionEndpoints.changeLevelKinds, ({ who, body, version }) =>
    db.transaction((tx) => changeKinds(tx, who, version, body.kinds as string[])),
  );
  serve(router, recognitionEndpoints.levelReasons, async ({ who, params }) => {
    const seen = await db.one('select 1 as yes from asset where id = $1 and domain_id = any($2::uuid[])', [
      params.id,
      who.domainsAs('reader'),
    ]);
    if (!seen) throw notFound('The asset');
    return levelReasons(db, params.id ?? '', who.domainsAs('reader'));
  });
}

function certaintyRoutes(router: Router, db: Context['db']): void {
  const rule = (body: object) => body as unknown as CertaintyRuleBody;
  serve(router, recognitionEndpoints.certainty, ({ who }) => getCertainty(db, who));
  serve(router, recognitionEndpoints.setThreshold, ({ who, params, body, version }) =>
    db.transaction((tx) => setThreshold(tx, who, params.key ?? '', version, body as unknown as ThresholdBody)),
  );
  serve(router, recognitionEndpoints.removeThreshold, ({ who, params }) =>
    db.transaction(async (tx) => void (await setThreshold(tx, who, params.key ?? '', undefined, null))),
  );
  serve(router, recognitionEndpoints.addCertaintyRule, ({ who, body }) =>
    db.transaction((tx) => saveCertaintyRule(tx, who, null, undefined, rule(body))),
  );
  serve(router, recognitionEndpoints.changeCertaintyRule, ({ who, params, body, version }) =>
    db.transaction((tx) => saveCertaintyRule(tx, who, params.id ?? '', version, rule(body))),
  );
  serve(router, recognitionEndpoints.removeCertaintyRule, ({ who, params }) =>
    db.transaction(async (tx) => void (await saveCertaintyRule(tx, who, params.id ?? '', undefined, null))),
  );
  serve(router, recognitionEndpoints.previewCertainty, ({ who, body }) =>
    previewCertainty(db, who, body as unknown as Parameters<typeof previewCertainty>[2]),
  );
  serve(router, recognitionEndpoints.forgetDismissal, ({ who, params }) =>
    db.transaction((tx) => forgetDismissal(tx, who, params.id ?? '')),
  );
}

function ownRoutes(router: Router, { db }: Context): void {
  const id = (params: Record<string, string>) => params.id ?? '';
  serve(router, recognitionEndpoints.own, ({ params }) => getOwn(db, id(params)));
  serve(router, recognitionEndpoints.addOwn, ({ who, body }) =>
    db.transaction((tx) => addOwn(tx, who, body as unknown as OwnDetectorBody)),
  );
  serve(router, recognitionEndpoints.changeOwn, ({ who, params, body, version }) =>
    db.transaction((tx) => changeOwn(tx, who, id(params), version, body as unknown as OwnDetectorBody)),
  );
  serve(router, recognitionEndpoints.removeOwn, ({ who, params }) =>
    db.transaction((tx) => removeOwn(tx, who, id(params))),
  );
  serve(router, recognitionEndpoints.switchOff, ({ who, body }) =>
    db.transaction((tx) => switchDetectors(tx, who, body.ids as string[], Boolean(body.off))),
  );
  serve(router, recognitionEndpoints.exported, ({ response }) => {
    response.set('content-disposition', 'attachment; filename="idrel-detectors.json"');
    return exportOwn(db);
  });
  serve(router, recognitionEndpoints.imported, ({ who, body, query }) =>
    db.transaction((tx) => importOwn(tx, who, body as unknown as DetectorFile, Boolean(query.preview))),
  );
  serve(router, recognitionEndpoints.exampleFile, async ({ who, body }) => {
    who.mustAnywhere('steward');
    return {
      columns: await readExample(String(body.name), Buffer.from(String(body.content), 'base64'), Number(body.rows)),
    };
  });
  serve(router, recognitionEndpoints.switchEffect, ({ who, query }) =>
    switchEffect(db, who, String(query.ids).split(',')),
  );
  serve(router, recognitionEndpoints.startTrial, ({ who, body }) =>
    db.transaction((tx) => startTrial(tx, who, body as unknown as Parameters<typeof startTrial>[2])),
  );
  serve(router, recognitionEndpoints.trial, ({ who, params }) => getTrial(db, who, id(params)));
  serve(router, recognitionEndpoints.stopTrial, ({ who, params }) => stopTrial(db, who, id(params)));
}

export { detectorsNow, knownClasses, lookingDetectors, type OwnVersion, ownDetectors } from './registry.ts';
export { listFindings } from './service.ts';
export { mustHaveSet, setOptions } from './sets.ts';
export { runTrial } from './trials.ts';
