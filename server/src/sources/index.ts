export { splitAddressSecrets } from './addressSecrets.ts';
export { resealCredentials } from './credentials.ts';
export { CREDENTIAL, SOURCE } from './models.ts';
export { sourceRoutes } from './routes.ts';
export { askedSource, checkCredential, connectorInput, type SourceFacts, sourceFacts } from './service.ts';
