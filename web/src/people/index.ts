export { useDomainsQuery, useGroupsQuery, usePeopleQuery } from './api.ts';
export { OpenSessions } from './OpenSessions.tsx';
export { OwnPassword } from './OwnPassword.tsx';
export { SignIn } from './SignIn.tsx';
