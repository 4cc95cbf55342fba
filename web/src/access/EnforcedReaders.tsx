import type { EnforcingPlanAnswer } from '@idrel/contract/access';
import { count } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';

/** Roles of a database by which those who come in as their logins read: how many tables as they stand, how many by views. */
export const EnforcedReaders = ({
  readers,
  label = 'Who reads by it',
}: {
  readers: EnforcingPlanAnswer['readers'];
  label?: string;
}) => (
  <Listing label={label} heads={['Role', 'Logins', 'Who that is', num('As they stand'), num('By views')]}>
    {readers.map(({ role, logins, people, rights, views }) => (
      <tr key={role}>
        <td className="mono">{role}</td>
        <td className="mono">{logins.join(', ')}</td>
        <td>{people.map(({ name }) => name).join(', ')}</td>
        <td className="num">{count(rights)}</td>
        <td className="num">{count(views)}</td>
      </tr>
    ))}
  </Listing>
);
