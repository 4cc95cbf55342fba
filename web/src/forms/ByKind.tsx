import type { ReactNode } from 'react';
import { useSearchParams } from 'react-router';
import { ChooseFrom } from '../marks/ChooseFrom.tsx';
import { KindMark } from '../marks/index.tsx';
import { Choice, Pane, Panes } from '../marks/layout.tsx';
import { Coming, Trouble } from '../marks/states.tsx';

/** What is set for each kind of asset: the kinds at the left, the chosen one's at the right. The choice and the search stand in the address. */
export function ByKind<T extends { readonly kind: string }>({
  title,
  found: { data, error, refetch },
  told,
  one,
  none,
}: {
  title: string;
  found: { readonly data?: readonly T[] | undefined; readonly error?: unknown; readonly refetch: () => unknown };
  /** What stands beside a kind in the list. */
  told: (entry: T) => ReactNode;
  one: (entry: T) => ReactNode;
  /** What stands at the right before one is chosen. */
  none: ReactNode;
}) {
  const [params, setParams] = useSearchParams();
  const chosen = params.get('kind');
  const search = params.get('search') ?? '';
  const go = (kind: string | null, text: string) =>
    setParams({ ...(kind ? { kind } : {}), ...(text ? { search: text } : {}) }, { replace: true });
  if (error) return <Trouble error={error} what={`${title} cannot be shown`} again={() => void refetch()} />;
  if (!data) return <Coming />;
  const entry = data.find(({ kind }) => kind === chosen);
  return (
    <Panes first="300px">
      <ChooseFrom title={title} make={null} label="kinds" search={search} setSearch={(text) => go(chosen, text)}>
        {data
          .filter(({ kind }) => kind.includes(search.toLowerCase()))
          .map((other) => (
            <Choice key={other.kind} chosen={other.kind === chosen} choose={() => go(other.kind, search)}>
              <KindMark kind={other.kind} />
              <span className="grow cut">{other.kind}</span>
              <span className="quiet small">{told(other)}</span>
            </Choice>
          ))}
      </ChooseFrom>
      <Pane as="one">{entry ? one(entry) : none}</Pane>
    </Panes>
  );
}
