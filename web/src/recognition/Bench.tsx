import { useMayAnywhere } from '../forms/Frame.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { BenchForm } from './BenchForm.tsx';
import { useOwnDetectorQuery } from './detectorsApi.ts';

/** The bench on which a detector is written: the rule at the left, what it takes and misses at the right. */
export function Bench({ id, choose }: { id: string | null; choose: (id: string | null) => void }) {
  const own = useOwnDetectorQuery(id ?? '', { skip: !id });
  const may = useMayAnywhere('steward');
  if (id && own.error) return <Trouble error={own.error} what="The detector cannot be shown" />;
  if (id && own.data?.id !== id) return <Coming />;
  if (!may)
    return (
      <Empty title="Detectors are written by stewards">
        <p>With the role steward in any domain you can write detectors of your own here.</p>
      </Empty>
    );
  return <BenchForm key={own.data && id ? id : 'new'} own={id ? own.data : undefined} choose={choose} />;
}
