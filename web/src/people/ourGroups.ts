import type { GroupAnswer } from '@idrel/contract/people';
import { useMemo } from 'react';
import { useGroupsQuery } from './api.ts';

/** The groups of people of this organisation, for whatever is not said of partners. */
export function useOurGroups(): { readonly data: GroupAnswer[] | undefined; readonly error: unknown } {
  const { data, error } = useGroupsQuery();
  return { data: useMemo(() => data?.filter(({ partner }) => partner === null), [data]), error };
}
