export { useDomainsQuery, useGroupsQuery, usePeopleQuery } from './api.ts';
export { OpenSessions } from './OpenSessions.tsx';
export { SignIn } from './SignIn.tsx';
