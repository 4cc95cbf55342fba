import type { DomainAnswer } from '@idrel/contract/people';
import { Switch } from '@mantine/core';
import { sayDone, sayProblem } from '../app/say.ts';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useDomainsQuery, useShowOutsideMutation } from './api.ts';

/** Domains as a tree, in lines. */
function inLines(
  domains: readonly DomainAnswer[],
  parent: string | null = null,
  depth = 0,
): (DomainAnswer & { depth: number })[] {
  return domains
    .filter(({ parentId }) => parentId === parent)
    .flatMap((domain) => [{ ...domain, depth }, ...inLines(domains, domain.id, depth + 1)]);
}

/** What addresses of each domain show where they are pasted. */
export function Component() {
  const { data, error, refetch } = useDomainsQuery();
  // In which domains is for the server to say: it tells where the role is missing.
  const may = useMayAnywhere('administrator');
  const [show, { isLoading }] = useShowOutsideMutation();
  useCrumbs({ text: 'Settings', to: '/settings' }, { text: 'Domains', to: '/settings/domains' });
  if (error) return <Trouble error={error} what="The domains cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const put = ({ id, name }: DomainAnswer, shown: boolean) =>
    show({ id, shown })
      .unwrap()
      .then(
        () =>
          sayDone(
            shown ? `Addresses of ${name} show what they lead to.` : `Addresses of ${name} show nothing to strangers.`,
            () => show({ id, shown: !shown }),
          ),
        (failed: unknown) => sayProblem(failed, 'It was not saved'),
      );
  return (
    <div className="page stack apart">
      <h1>Domains</h1>
      <section>
        <h2>Addresses pasted elsewhere</h2>
        <p className="prose">
          Who pastes the address of an asset into a chat or a ticket can have it show what it leads to: what the asset
          is called, how it stands, who answers for it and what it means. Whoever reads there sees that, whether they
          may sign in here or not. Of the other domains an address shows only that it leads to Idrel.
        </p>
        <Listing heads={['Domain', 'Shown to whoever has the address']} maw={620}>
          {inLines(data).map((domain) => (
            <tr key={domain.id}>
              <td style={{ paddingLeft: 8 + domain.depth * 20 }}>{domain.name}</td>
              <td>
                <Switch
                  aria-label={`Show addresses of ${domain.name} to strangers`}
                  label={domain.shownOutside ? 'shown' : 'not shown'}
                  checked={domain.shownOutside}
                  disabled={!may || isLoading}
                  onChange={(event) => void put(domain, event.currentTarget.checked)}
                />
              </td>
            </tr>
          ))}
        </Listing>
        {may ? null : <p className="quiet small">Administrators of a domain change it.</p>}
      </section>
    </div>
  );
}
