import { Button, Group } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { Trouble } from '../marks/states.tsx';
import { useTermsOfCarrierQuery } from './api.ts';
import { TermChooser } from './TermChooser.tsx';
import { useCarrying } from './useCarrying.ts';

/** Which terms say what a class or a tag means; editors give it others, and take them away. */
export function TermsOf({ of, name }: { of: { class: string } | { tag: string }; name: string }) {
  const { data, error, refetch } = useTermsOfCarrierQuery(of);
  const may = useMayAnywhere('editor', 'steward');
  const carry = useCarrying();
  const [chosen, setChosen] = useState('');
  if (error) return <Trouble error={error} what="Its terms cannot be shown" again={() => void refetch()} />;
  return (
    <>
      {data?.length ? (
        <ul className="bare">
          {data.map((term) => (
            <li key={term.id} className="row line">
              <Link to={`/glossary?term=${term.id}`}>{term.name}</Link>
              {term.status === 'agreed' ? null : <span className="quiet small">{term.status}</span>}
              {may ? (
                <Button
                  variant="subtle"
                  size="compact-xs"
                  aria-label={`Take away: ${term.name}`}
                  onClick={() => void carry({ id: term.id, name: term.name, of, called: name, carries: false })}
                >
                  Take away
                </Button>
              ) : null}
            </li>
          ))}
        </ul>
      ) : (
        <p className="quiet">No term says what it means.</p>
      )}
      {may ? (
        <Group align="flex-end" gap={8}>
          <TermChooser label="Term" value={chosen} put={setChosen} />
          <Button
            variant="default"
            disabled={!chosen}
            onClick={() => {
              void carry({ id: chosen, of, called: name, carries: true });
              setChosen('');
            }}
          >
            Give it the term
          </Button>
        </Group>
      ) : null}
    </>
  );
}
