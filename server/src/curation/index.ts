export { type ActionSql, actionSql } from './actions.ts';
export { tendBulkEdits } from './bulkEdits.ts';
export { EFFECT_COUNTS, effectColumns, inWords } from './effects.ts';
export { tendNotices } from './notices.ts';
export { curationRoutes } from './routes.ts';
export { runBulkEdit } from './runBulkEdit.ts';
export { editAsset } from './service.ts';
export { writeAssets } from './sheets.ts';
export { certificationTender, lapsedIn } from './standing.ts';
