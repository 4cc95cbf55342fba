import { Button } from '@mantine/core';
import { useSearchParams } from 'react-router';
import { useIsAdministrator } from '../forms/Frame.tsx';
import { ChooseFrom } from '../marks/ChooseFrom.tsx';
import { Choice, Pane, Panes } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useDomainsQuery } from './api.ts';
import { DomainForm } from './DomainForm.tsx';
import { inLines } from './domainChoices.ts';

/** Domains: what each is for, who answers for it, where it lies, who may do what in it. */
export function Component() {
  const [params, setParams] = useSearchParams();
  const { data, error, refetch } = useDomainsQuery();
  const may = useIsAdministrator();
  const search = params.get('search') ?? '';
  const chosen = params.get('domain');
  useCrumbs({ text: 'Settings', to: '/settings' }, { text: 'Domains', to: '/settings/domains' });
  const go = (changes: Record<string, string | null>) => {
    const next = new URLSearchParams(params);
    for (const [key, value] of Object.entries(changes)) {
      if (value) next.set(key, value);
      else next.delete(key);
    }
    setParams(next, { replace: true });
  };
  if (error) return <Trouble error={error} what="The domains cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const lines = inLines(data);
  const shown = lines.filter(({ name }) => name.toLowerCase().includes(search.toLowerCase()));
  const domain = data.find(({ id }) => id === chosen);
  return (
    <Panes first="320px">
      <ChooseFrom
        title="Domains"
        make={
          may ? (
            <Button size="compact-sm" onClick={() => go({ domain: 'new' })}>
              New domain
            </Button>
          ) : null
        }
        label="domains"
        search={search}
        setSearch={(text) => go({ search: text })}
      >
        {shown.map(({ id, name, depth, owner }) => (
          <Choice key={id} chosen={id === chosen} choose={() => go({ domain: id })} depth={search ? 0 : depth}>
            <span className="grow cut">{name}</span>
            <span className="quiet small cut">{owner?.name ?? ''}</span>
          </Choice>
        ))}
      </ChooseFrom>
      <Pane as="one">
        {domain || (chosen === 'new' && may) ? (
          <DomainForm key={chosen} domain={domain} domains={lines} open={(id) => go({ domain: id })} />
        ) : (
          <Empty title="Choose a domain">
            <p>What it is for, who answers for it, what lies in it, and who may do what there.</p>
          </Empty>
        )}
      </Pane>
    </Panes>
  );
}
