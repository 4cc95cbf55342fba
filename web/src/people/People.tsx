import { Button, Group, SegmentedControl } from '@mantine/core';
import { useSearchParams } from 'react-router';
import { useIsAdministrator } from '../forms/Frame.tsx';
import { ChooseFrom } from '../marks/ChooseFrom.tsx';
import { plural } from '../marks/index.tsx';
import { Choice, Pane, Panes } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useEverybodyQuery, usePersonQuery } from './api.ts';
import { DirectoryFile } from './DirectoryFile.tsx';
import { GroupForm } from './GroupForm.tsx';
import { Leaving } from './Leaving.tsx';
import { useOurGroups } from './ourGroups.ts';
import { PersonForm } from './PersonForm.tsx';

/** People and groups: who they are, what they may do, what they hold, and what becomes of it when they leave. */
export function Component() {
  const [params, setParams] = useSearchParams();
  const isGroups = params.get('show') === 'groups';
  const kind = isGroups ? 'group' : 'person';
  const chosen = params.get(kind);
  const search = params.get('search') ?? '';
  const people = useEverybodyQuery();
  const groups = useOurGroups();
  const may = useIsAdministrator();
  useCrumbs({ text: 'Settings', to: '/settings' }, { text: 'People', to: '/settings/people' });
  const go = (changes: Record<string, string | null>) => {
    const next = new URLSearchParams(params);
    for (const [key, value] of Object.entries(changes)) {
      if (value) next.set(key, value);
      else next.delete(key);
    }
    setParams(next, { replace: true });
  };
  const error = people.error ?? groups.error;
  if (error) return <Trouble error={error} what="People cannot be shown" again={() => void people.refetch()} />;
  if (!people.data || !groups.data) return <Coming />;
  const taking = chosen === null && params.get('take') === 'in' && may;
  const fits = ({ name }: { name: string }) => name.toLowerCase().includes(search.toLowerCase());
  const group = groups.data.find(({ id }) => id === chosen);
  return (
    <Panes first="320px">
      <ChooseFrom
        title={isGroups ? 'Groups' : 'People'}
        make={
          may ? (
            <Group gap={6}>
              {isGroups ? null : (
                <Button variant="default" size="compact-sm" onClick={() => go({ person: null, take: 'in' })}>
                  File
                </Button>
              )}
              <Button size="compact-sm" onClick={() => go({ [kind]: 'new' })}>
                {isGroups ? 'New group' : 'New person'}
              </Button>
            </Group>
          ) : null
        }
        above={
          <SegmentedControl
            fullWidth
            aria-label="People or groups"
            value={isGroups ? 'groups' : 'people'}
            onChange={(show) => go({ show: show === 'groups' ? 'groups' : null, search: null })}
            data={[
              { value: 'people', label: `People ${people.data.filter(({ leftAt }) => leftAt === null).length}` },
              { value: 'groups', label: `Groups ${groups.data.length}` },
            ]}
          />
        }
        label={isGroups ? 'groups' : 'people'}
        search={search}
        setSearch={(text) => go({ search: text })}
      >
        {isGroups
          ? groups.data.filter(fits).map((entry) => (
              <Choice key={entry.id} chosen={entry.id === chosen} choose={() => go({ group: entry.id })}>
                <span className="grow cut">{entry.name}</span>
                <span className="quiet small">{plural(entry.members.length, 'person', 'people')}</span>
              </Choice>
            ))
          : people.data.filter(fits).map((entry) => (
              <Choice key={entry.id} chosen={entry.id === chosen} choose={() => go({ person: entry.id })}>
                <span className={`grow cut ${entry.leftAt ? 'gone' : ''}`}>{entry.name}</span>
                <span className="quiet small cut">{entry.leftAt ? 'has left' : entry.job}</span>
              </Choice>
            ))}
      </ChooseFrom>
      <Pane as="one">
        {taking ? (
          <DirectoryFile done={() => go({ take: null })} />
        ) : isGroups ? (
          group || (chosen === 'new' && may) ? (
            <GroupForm key={chosen} group={group} may={may} open={(id) => go({ group: id })} />
          ) : (
            <Empty title="Choose a group">
              <p>Policies and tags name groups; whoever is in one may do what it may, from their next request on.</p>
            </Empty>
          )
        ) : chosen === 'new' && may ? (
          <PersonForm key="new" may open={(id) => go({ person: id })} />
        ) : chosen ? (
          <One key={chosen} id={chosen} may={may} open={(id) => go({ person: id })} />
        ) : (
          <Empty title="Choose a person">
            <p>Who they are, what they may do where, and what they answer for.</p>
          </Empty>
        )}
      </Pane>
    </Panes>
  );
}

function One({ id, may, open }: { id: string; may: boolean; open: (id: string) => void }) {
  const { data, error, refetch } = usePersonQuery(id);
  if (error) return <Trouble error={error} what="This person cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  return (
    <PersonForm
      person={data}
      may={may && data.leftAt === null}
      open={open}
      holds={may ? <Leaving person={data} /> : null}
    />
  );
}
