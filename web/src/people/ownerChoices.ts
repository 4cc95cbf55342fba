import { usePeopleQuery } from './api.ts';
import { useOurGroups } from './ourGroups.ts';

/** Who can answer for something: people, then groups. */
export function useOwnerChoices(): { value: string; label: string }[] {
  const people = usePeopleQuery();
  const groups = useOurGroups();
  return [
    ...(people.data ?? []).map(({ id, name }) => ({ value: id, label: name })),
    ...(groups.data ?? []).map(({ id, name }) => ({ value: id, label: `${name} (group)` })),
  ];
}
