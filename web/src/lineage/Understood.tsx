import { Link } from 'react-router';
import { Part } from '../marks/layout.tsx';
import { useStatementsQuery } from './api.ts';
import { understood } from './understood.ts';

/** Of a source: how much is understood of the statements that it runs. Nothing where it runs none. */
export function Understood({ id }: { id: string }) {
  const { data } = useStatementsQuery({ id, limit: 1 });
  if (!data || data.statements === 0) return null;
  return (
    <Part title="Statements">
      <p>
        Lineage: <Link to={`/sources/${id}/statements`}>{understood(data)}</Link>
        {data.partly > 0 ? ', some of them not wholly' : ''}.
      </p>
    </Part>
  );
}
