export { useSourceKindsQuery, useSourceQuery, useSourcesQuery } from './api.ts';
export { CredentialField } from './CredentialField.tsx';
