import { History, useJournalQuery } from '../journal/index.ts';
import { Trouble } from '../marks/states.tsx';

export function Journal({ id }: { id: string }) {
  const { data, error } = useJournalQuery(id);
  if (error) return <Trouble error={error} what="The history cannot be shown" />;
  return <History entries={data ?? []} />;
}
