export { useAttributesOfPeopleQuery, useDomainsQuery, useGroupsQuery, usePeopleQuery } from './api.ts';
export { ClientKeys } from './ClientKeys.tsx';
export { useDomainChoices } from './domainChoices.ts';
export { MoveChanges, MoveOfAssets } from './MoveOfDomain.tsx';
export { OpenSessions } from './OpenSessions.tsx';
export { OwnPassword } from './OwnPassword.tsx';
export { useOurGroups } from './ourGroups.ts';
export { useOwnerChoices } from './ownerChoices.ts';
export { SignIn } from './SignIn.tsx';
