import { useGroupsQuery, usePeopleQuery } from './api.ts';

/** Who can answer for something: people, then groups. */
export function useOwnerChoices(): { value: string; label: string }[] {
  const people = usePeopleQuery();
  const groups = useGroupsQuery();
  return [
    ...(people.data ?? []).map(({ id, name }) => ({ value: id, label: name })),
    ...(groups.data ?? []).map(({ id, name }) => ({ value: id, label: `${name} (group)` })),
  ];
}
