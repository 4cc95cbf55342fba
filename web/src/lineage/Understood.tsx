import { Anchor } from '@mantine/core';
import { Link } from 'react-router';
import { saveFile } from '../app/files.ts';
import { sayProblem } from '../app/say.ts';
import { Part } from '../marks/layout.tsx';
import { useLineageExportMutation, useStatementsQuery } from './api.ts';
import { understood } from './understood.ts';

/** Of a source: how much is understood of the statements that it runs, and what is made of it as a file. */
export function Understood({ id }: { id: string }) {
  const { data } = useStatementsQuery({ id, limit: 1 });
  const [make, { isLoading }] = useLineageExportMutation();
  if (!data) return null;
  const take = async (): Promise<void> => {
    try {
      saveFile(await make(id).unwrap());
    } catch (failed) {
      sayProblem(failed, 'The file was not written');
    }
  };
  return (
    <Part title="Lineage">
      {data.statements > 0 ? (
        <p>
          <Link to={`/sources/${id}/statements`}>{understood(data)}</Link>
          {data.partly > 0 ? ', some of them not wholly' : ''}.
        </p>
      ) : null}
      <p>
        <Anchor
          component="button"
          type="button"
          inherit
          underline="always"
          disabled={isLoading}
          onClick={() => void take()}
        >
          {isLoading ? 'Being written …' : 'Save what is made of it'}
        </Anchor>
        , to ask <code>idrel impact --catalog</code> what a change of scripts breaks where no server can be reached.
      </p>
    </Part>
  );
}
