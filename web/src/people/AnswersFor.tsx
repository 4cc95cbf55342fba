import { where } from '@idrel/core/catalog';
import { Link } from 'react-router';

/** The ways to what somebody, or a group, answers for, and to what they are to answer for. */
export const AnswersFor = ({ id, name }: { id: string; name: string }) => (
  <p>
    <Link to={`/catalog?${new URLSearchParams({ filter: where('owner', name) })}`}>Assets of {name}</Link>
    {' · '}
    <Link to={`/catalog?give=owner:${id}`}>Find assets for {name} to answer for</Link>
  </p>
);
