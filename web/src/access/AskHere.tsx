import { Button, Group, Stack } from '@mantine/core';
import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import { When } from '../marks/index.tsx';
import { useRequestsQuery } from './requestsApi.ts';
import { answererWords, stateWords } from './requestWords.ts';

const AskAccess = lazy(async () => ({ default: (await import('./AskAccess.tsx')).AskAccess }));
const SHOWN = 3;

/** On the page of an asset: what one has asked for it, and the way to ask. Give it the asset's id as its key. */
export function AskHere({ id }: { id: string }) {
  const { data } = useRequestsQuery({ which: 'own', asset: id, limit: SHOWN });
  const [asking, setAsking] = useState(false);
  const requests = data?.items ?? [];
  const waits = requests.some(({ state }) => state === 'waiting');
  return (
    <Stack gap={8}>
      {requests.map((request) => (
        <p key={request.id}>
          <Link to={`/access?show=requests&request=${request.id}`}>Request {request.number}</Link>,{' '}
          <When at={request.askedAt} />:{' '}
          {request.state === 'waiting' ? `waits for ${answererWords(request.answerers)}` : stateWords(request)}
        </p>
      ))}
      {asking ? (
        <Suspense>
          <AskAccess assetIds={[id]} close={() => setAsking(false)} />
        </Suspense>
      ) : waits || !data ? null : (
        <Group>
          <Button variant="default" onClick={() => setAsking(true)}>
            Ask for access
          </Button>
        </Group>
      )}
    </Stack>
  );
}
