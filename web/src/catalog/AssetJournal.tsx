import { Trouble } from '../marks/states.tsx';
import { useJournalQuery } from './api.ts';
import { History } from './History.tsx';

export function Journal({ id }: { id: string }) {
  const { data, error } = useJournalQuery(id);
  if (error) return <Trouble error={error} what="The history cannot be shown" />;
  return <History entries={data ?? []} />;
}
