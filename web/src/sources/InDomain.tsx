import type { SourceAnswer } from '@idrel/contract/sources';
import { Box, Button, Group, Select } from '@mantine/core';
import { useState } from 'react';
import { Coming, Trouble } from '../marks/states.tsx';
import { MoveChanges, useDomainsQuery } from '../people/index.ts';
import { useSourceMoveEffectQuery } from './api.ts';

/** The domain of a source, and the way to put it into another one, after what that would change was shown. */
export function InDomain({ source, move }: { source: SourceAnswer; move: (domainId: string) => void }) {
  const domains = useDomainsQuery();
  const [to, setTo] = useState(source.domainId);
  return (
    <Box component="section" aria-label="Domain" maw={560} mb={22}>
      <h2>Domain</h2>
      <Select
        label="Lies in"
        description="Who may see and document what the source holds follows from it."
        allowDeselect={false}
        searchable
        data={(domains.data ?? []).map(({ id, name }) => ({ value: id, label: name }))}
        value={to}
        onChange={(id) => id && setTo(id)}
      />
      {to === source.domainId ? null : (
        <>
          <Effects id={source.id} to={to} />
          <Group mt={8}>
            <Button onClick={() => move(to)}>Move {source.name}</Button>
            <Button variant="default" onClick={() => setTo(source.domainId)}>
              Leave it in {source.domain}
            </Button>
          </Group>
        </>
      )}
    </Box>
  );
}

function Effects({ id, to }: { id: string; to: string }) {
  const { currentData, error, refetch } = useSourceMoveEffectQuery({ id, to });
  if (error) return <Trouble error={error} what="What it would change cannot be told" again={() => void refetch()} />;
  if (!currentData) return <Coming lines={2} />;
  return <MoveChanges effect={currentData} where="in what it holds" />;
}
