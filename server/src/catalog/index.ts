export { classesOf } from './classesSql.ts';
export { Binder, filterToSql } from './filterSql.ts';
export { type FinderClient, finderClient, type WithFinder } from './finderClient.ts';
export { forgetTouched } from './keptFinder.ts';
export { kindsSql } from './kindsSql.ts';
export { notesOn } from './notices.ts';
export { catalogRoutes } from './routes.ts';
export { CLASSES_OF, FROM, GRAVEST_FIRST, NOTICES, PATH, ROW } from './rows.ts';
export { chosenBy, findAssets, getAsset, readFilter, whereVisible } from './service.ts';
