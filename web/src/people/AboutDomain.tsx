import type { DomainAnswer } from '@idrel/contract/people';
import { Group } from '@mantine/core';
import { Link } from 'react-router';
import { usePoliciesQuery } from '../access/index.ts';
import { FiguresOfOne, useCoverageQuery } from '../coverage/index.ts';
import { Subscribe } from '../exchange/index.ts';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { History, useJournalQuery } from '../journal/index.ts';
import { plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useDomainRightsQuery } from './api.ts';

/** What lies in a domain, what governs it, who may do what in it, and what became of it. */
export function AboutDomain({ domain }: { domain: DomainAnswer }) {
  const history = useJournalQuery(domain.id);
  return (
    <>
      <Group mt={12}>
        <Subscribe what="domain" of={domain.id} called={domain.name} />
      </Group>
      <h3 className="under">What lies in it</h3>
      <Held domain={domain} />
      <h3 className="under">Policies</h3>
      <Governed domain={domain} />
      <h3 className="under">Who may do what</h3>
      <Rights domain={domain} />
      <h3 className="under">History</h3>
      <History entries={history.data ?? []} />
    </>
  );
}

function Held({ domain }: { domain: DomainAnswer }) {
  const { data, error } = useCoverageQuery({ by: 'domain' });
  const may = useMayAnywhere('source administrator');
  if (error) return <Trouble error={error} what="What lies in it cannot be counted" />;
  if (!data) return <Coming lines={2} />;
  const row = data.rows.find(({ name }) => name === domain.name);
  const give = may ? (
    <p>
      <Link to={`/catalog?give=domain:${domain.id}`}>Find assets and move them here</Link>
    </p>
  ) : null;
  if (!row)
    return (
      <>
        <p className="quiet">Nothing that you may see. What sources hold lies in their domains, until it is moved.</p>
        {give}
      </>
    );
  return (
    <>
      {give}
      <p>With what lies in the domains below it; each figure opens the assets behind it.</p>
      <FiguresOfOne data={data} row={row} />
    </>
  );
}

const SHOWN = 20;
function Governed({ domain }: { domain: DomainAnswer }) {
  const { data, error } = usePoliciesQuery({ domain: domain.id });
  if (error) return <Trouble error={error} what="Its policies cannot be shown" />;
  if (!data) return <Coming lines={1} />;
  if (data.length === 0)
    return <p className="quiet">None names anything in it. Those that hold by class alone hold here as well.</p>;
  return (
    <Listing label="Policies that name something in it" maw={620}>
      {data.slice(0, SHOWN).map(({ id, name, effect, enabled }) => (
        <tr key={id}>
          <td>
            <Link to={`/access?edit=${id}`}>{name}</Link>
          </td>
          <td className="quiet">{effect}</td>
          <td className="quiet">{enabled ? '' : 'switched off'}</td>
        </tr>
      ))}
      {data.length > SHOWN ? (
        <tr>
          <td colSpan={3} className="quiet small">
            and {plural(data.length - SHOWN, 'more policy', 'more policies')}
          </td>
        </tr>
      ) : null}
    </Listing>
  );
}

function Rights({ domain }: { domain: DomainAnswer }) {
  const { data, error } = useDomainRightsQuery(domain.id);
  if (error) return <Trouble error={error} what="The roles in it cannot be shown" />;
  if (!data) return <Coming lines={2} />;
  if (data.rights.length === 0) return <p className="quiet">Nobody has a role here.</p>;
  return (
    <>
      <Listing label="Roles in it" heads={['Person', 'Role', 'Given']} maw={620}>
        {data.rights.map(({ person, role, from }) => (
          <tr key={`${person.id} ${role} ${from}`}>
            <td>
              <Link to={`/settings/people?person=${person.id}`}>{person.name}</Link>
            </td>
            <td>{role}</td>
            <td className="quiet">{from === null ? 'everywhere' : from === domain.name ? 'here' : `in ${from}`}</td>
          </tr>
        ))}
      </Listing>
      {data.total > data.rights.length ? (
        <p className="quiet small">and {plural(data.total - data.rights.length, 'more role')}</p>
      ) : null}
    </>
  );
}
