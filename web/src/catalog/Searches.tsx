import type { SearchAnswer } from '@idrel/contract/catalog';
import { Button, Group, Switch } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { useSessionQuery } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { KindMark, Name } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Part } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { KeepSearch } from './KeepSearch.tsx';
import { latelyOf } from './lately.ts';
import { opens } from './opens.ts';
import {
  useBringBackSearchMutation,
  usePinSearchMutation,
  useRemoveSearchMutation,
  useSearchesQuery,
} from './searchesApi.ts';

/** All searches that one keeps or that others share, what was searched for lately, and what was looked at. */
export function Component() {
  useCrumbs({ text: 'Catalog', to: '/catalog' }, { text: 'Searches' });
  const { data, error, refetch } = useSearchesQuery();
  const person = useSessionQuery().data?.person?.id ?? '';
  const [lately] = useState(() => latelyOf(person));
  const [open, setOpen] = useState<string | null>(null);
  const [pin] = usePinSearchMutation();
  const [remove] = useRemoveSearchMutation();
  const [bringBack] = useBringBackSearchMutation();
  if (error) return <Trouble error={error} what="The searches cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const destroy = ({ id, name }: SearchAnswer) =>
    void remove(id)
      .unwrap()
      .then(
        () => sayDone(`“${name}” is kept no more.`, () => bringBack(id)),
        (failed: unknown) => sayProblem(failed, 'The search was not removed'),
      );
  const opened = data.find(({ id }) => id === open);
  return (
    <div className="page">
      <h1>Searches</h1>
      {data.length === 0 ? (
        <Empty title="None is kept yet">
          <p>
            Search <Link to="/catalog">in the catalog</Link>, then Searches → Keep this search. A search that is kept
            stands in the rail, and can be shared.
          </p>
        </Empty>
      ) : (
        <Part title="Kept">
          <Listing heads={['In the rail', 'Name', 'What is searched for', 'Whose', heard('What to do')]} widths={[100]}>
            {data.map((search) => (
              <tr key={search.id}>
                <td>
                  <Switch
                    aria-label={`${search.name} stands in the rail`}
                    checked={search.pinned}
                    onChange={(event) =>
                      void pin({ id: search.id, pinned: event.currentTarget.checked })
                        .unwrap()
                        .catch((failed: unknown) => sayProblem(failed, 'The rail was not changed'))
                    }
                  />
                </td>
                <td>
                  <Link to={opens(search.filter)}>{search.name}</Link>
                </td>
                <td className="mono small">{search.filter}</td>
                <td className="small">{search.madeBy ?? (search.shared ? 'yours, shared' : 'yours')}</td>
                <td>
                  {search.madeBy === null ? (
                    <Group gap={6}>
                      <Button
                        size="compact-sm"
                        variant="default"
                        aria-label={`Edit ${search.name}`}
                        onClick={() => setOpen(open === search.id ? null : search.id)}
                      >
                        Edit
                      </Button>
                      <Button
                        size="compact-sm"
                        variant="subtle"
                        c="var(--buoy)"
                        aria-label={`Remove ${search.name}`}
                        onClick={() => destroy(search)}
                      >
                        Remove
                      </Button>
                    </Group>
                  ) : null}
                </td>
              </tr>
            ))}
          </Listing>
        </Part>
      )}
      {opened ? (
        <KeepSearch key={opened.id} search={opened} filter={opened.filter} close={() => setOpen(null)} />
      ) : null}
      {lately.searches.length > 0 ? (
        <Part title="Searched for lately">
          <ul className="flat">
            {lately.searches.map((text) => (
              <li key={text} className="row line">
                <Link className="mono small" to={opens(text)}>
                  {text}
                </Link>
              </li>
            ))}
          </ul>
        </Part>
      ) : null}
      {lately.assets.length > 0 ? (
        <Part title="Looked at lately">
          <ul className="flat">
            {lately.assets.map((asset) => (
              <li key={asset.id} className="row line">
                <KindMark kind={asset.kind} />
                <Link to={`/assets/${asset.id}`}>
                  <Name text={asset.path} />
                </Link>
              </li>
            ))}
          </ul>
        </Part>
      ) : null}
    </div>
  );
}
