import { Link } from 'react-router';
import { plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { usePersonRightsQuery } from './api.ts';

/** What a person may do in each domain, and by which role of theirs. */
export function TheirRights({ id }: { id: string }) {
  const { data, error } = usePersonRightsQuery(id);
  if (error) return <Trouble error={error} what="What they may do cannot be told" />;
  if (!data) return <Coming lines={3} />;
  if (data.every(({ roles }) => roles.length === 0)) return <p className="quiet">Nothing: they have no role.</p>;
  const some = data.filter(({ roles }) => roles.length > 0);
  const others = data.length - some.length;
  return (
    <>
      <Listing label="What they may do, domain by domain" heads={['Domain', 'Role', 'By what was given']} maw={620}>
        {some.map(({ domainId, domain, depth, roles }) => (
          <tr key={domainId}>
            <td style={{ paddingLeft: 8 + depth * 16 }}>
              <Link to={`/settings/domains?domain=${domainId}`}>{domain}</Link>
            </td>
            <td>{roles.map(({ role }) => role).join(', ')}</td>
            <td className="quiet">
              {[
                ...new Set(
                  roles.map(({ from }) => (from === null ? 'everywhere' : from === domain ? 'here' : `in ${from}`)),
                ),
              ].join(', ')}
            </td>
          </tr>
        ))}
      </Listing>
      {others > 0 ? <p className="quiet small">Nothing in the other {plural(others, 'domain')}.</p> : null}
    </>
  );
}
