export { type AskedThere, keepAskedThere } from './asked.ts';
export { POLICY_CLASS_USE } from './classUse.ts';
export { openClients } from './clients/server.ts';
export { type Prepared, prepare } from './gateway.ts';
export { POLICIES_HELD } from './holdings.ts';
export { accessRoutes } from './routes.ts';
export { openGateway } from './runQuery.ts';
export { seenProfiles } from './seenProfiles.ts';
export { callablesOf } from './sourceCallables.ts';
