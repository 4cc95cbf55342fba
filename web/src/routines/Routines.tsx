import { Button, Group } from '@mantine/core';
import { Link } from 'react-router';
import { useAddress } from '../app/address.ts';
import { useSessionQuery } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { When } from '../marks/index.tsx';
import { Choice, Pane, Panes } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useRoutinesQuery } from './api.ts';
import { Overview } from './Overview.tsx';
import { RoutineForm } from './RoutineForm.tsx';

/** Saved searches with an action: the list at the left, the chosen one with what it would do at the right. */
export function Component() {
  const [params, put] = useAddress();
  const chosen = params.get('routine');
  const { data, error, refetch } = useRoutinesQuery();
  const session = useSessionQuery();
  const mayMake =
    session.data?.grants.some((grant) => ['editor', 'steward', 'administrator'].includes(grant.role)) ?? false;
  const routine = data?.find((entry) => entry.id === chosen);
  const choose = (id: string | null) => put({ routine: id, filter: null, run: null });
  const step = (by: number) =>
    data &&
    choose(
      data[Math.max(0, Math.min(data.length - 1, data.findIndex((entry) => entry.id === chosen) + by))]?.id ?? null,
    );
  useCrumbs({ text: 'Routines', to: '/routines' }, ...(routine ? [{ text: routine.name }] : []));
  useKeys('Routines', [
    { key: 'j', what: 'next routine', act: () => step(1) },
    { key: 'k', what: 'routine before', act: () => step(-1) },
    { key: 'n', what: 'new routine', act: () => mayMake && choose('new') },
  ]);
  if (error && !data) return <Trouble error={error} what="The routines cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  if (!chosen && data.length > 0)
    return (
      <div className="page">
        <Group mb={12}>
          <h1 className="grow">Routines</h1>
          {mayMake ? <Button onClick={() => choose('new')}>New routine</Button> : null}
        </Group>
        <Overview routines={data} choose={choose} />
        <p className="quiet small" style={{ marginTop: 12 }}>
          Runs, changes and failures are those of the last 30 days. A routine is a saved search with what is done about
          what it finds: by hand, at set times, or when a scan brings something. It acts with the rights of who keeps
          it, leaves what people decided by hand, and each run can be taken back.
        </p>
      </div>
    );
  return (
    <Panes first="250px">
      <Pane as="list">
        <Group className="above">
          <h1 className="grow">
            <button type="button" className="linkish" onClick={() => choose(null)}>
              Routines
            </button>
          </h1>
          {mayMake ? <Button onClick={() => choose('new')}>New routine</Button> : null}
        </Group>
        <ul className="tree flat" aria-label="Routines">
          {data.map((entry) => (
            <Choice key={entry.id} chosen={entry.id === chosen} choose={() => choose(entry.id)}>
              <span className="grow cut">{entry.name}</span>
              <span className="quiet small">{entry.lastRun ? <When at={entry.lastRun.at} /> : 'never run'}</span>
            </Choice>
          ))}
        </ul>
      </Pane>
      {chosen === 'new' || routine ? (
        <RoutineForm
          key={routine?.id ?? `new:${params.get('filter') ?? ''}`}
          routine={routine}
          filter={params.get('filter') ?? ''}
          close={choose}
          run={params.get('run')}
          chooseRun={(run) => put({ run })}
        />
      ) : (
        <div className="pane">
          <Empty title={chosen ? 'This routine is not there any more' : 'No routine yet'}>
            <p>
              A routine is a saved search with what is done about what it finds: give owners, tags or a standing, write
              to people, scan again; by hand, at set times, or when a scan brings something. What it would change is
              shown first, and each run can be taken back. Any search in the <Link to="/catalog">catalog</Link> becomes
              one.
            </p>
          </Empty>
        </div>
      )}
    </Panes>
  );
}
