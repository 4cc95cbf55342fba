import { coverageEndpoints } from '@idrel/contract/coverage';
import type { Router } from 'express';
import type { WithFinder } from '../catalog/index.ts';
import { serve } from '../platform/api.ts';
import { course, keepFigures } from './course.ts';
import { readPrice, setPrice } from './price.ts';
import { readsReports, setReadsReports } from './report.ts';
import { coverage, levelReport } from './service.ts';
import { addTarget, changeTarget, listTargets, removeTarget } from './targets.ts';
import { use } from './use.ts';
import { week } from './week.ts';

export function coverageRoutes(router: Router, { db, config, finder }: WithFinder): void {
  serve(router, coverageEndpoints.levels, ({ who, query }) => levelReport(db, finder, who, query.by, query.days));
  serve(router, coverageEndpoints.read, ({ who, query }) => coverage(db, finder, who, query.by, query.domain));
  serve(router, coverageEndpoints.course, ({ who, query }) => course(db, who, query));
  serve(router, coverageEndpoints.keep, ({ who }) => {
    who.mustEverywhere('administrator');
    return keepFigures(db, finder);
  });
  serve(router, coverageEndpoints.targets, ({ who }) => listTargets(db, who));
  serve(router, coverageEndpoints.addTarget, ({ who, body }) => db.transaction((tx) => addTarget(tx, who, body)));
  serve(router, coverageEndpoints.changeTarget, ({ who, params, body, version }) =>
    db.transaction((tx) => changeTarget(tx, who, params.id, version, body)),
  );
  serve(router, coverageEndpoints.removeTarget, ({ who, params }) =>
    db.transaction((tx) => removeTarget(tx, who, params.id)),
  );
  serve(router, coverageEndpoints.price, ({ who }) => readPrice(db, who));
  serve(router, coverageEndpoints.setPrice, ({ who, body, version }) =>
    db.transaction((tx) => setPrice(tx, who, version, body)),
  );
  serve(router, coverageEndpoints.use, ({ who, query }) => use(db, finder, who, query.domain));
  serve(router, coverageEndpoints.week, ({ who }) => week(db, finder, who));
  serve(router, coverageEndpoints.reports, ({ who }) => readsReports(db, config, who));
  serve(router, coverageEndpoints.setReports, ({ who, body }) =>
    db.transaction((tx) => setReadsReports(tx, config, who, body.sent)),
  );
}
