export { useDomainsQuery, useGroupsQuery, usePeopleQuery } from './api.ts';
export { SignIn } from './SignIn.tsx';
