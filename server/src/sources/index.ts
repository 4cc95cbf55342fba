export { splitAddressSecrets } from './addressSecrets.ts';
export { resealCredentials } from './credentials.ts';
export { sourceRoutes } from './routes.ts';
export { connectorInput, getSource, type SourceFacts, sourceFacts } from './service.ts';
