import type { RequestAnswer } from '@idrel/contract/access';
import { Button, Group, SegmentedControl, Stack } from '@mantine/core';
import { useState } from 'react';
import { useAddress } from '../app/address.ts';
import { useKeys } from '../app/keys.tsx';
import { plural, When } from '../marks/index.tsx';
import { Beside, Choice, Note } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { AskAccess } from './AskAccess.tsx';
import { lastDay } from './Conditions.tsx';
import { RequestPane } from './RequestPane.tsx';
import { UnusedOrEnding } from './Rights.tsx';
import { useRequestQuery, useRequestsQuery } from './requestsApi.ts';
import { stateWords, whatFor } from './requestWords.ts';

type Which = 'own' | 'waiting' | 'answered' | 'granted';
const WHICH = [
  ['own', 'Yours'],
  ['waiting', 'To answer'],
  ['granted', 'In force'],
  ['answered', 'Answered'],
] as const satisfies readonly (readonly [Which, string])[];
const AT_ONCE = 50;

const NONE: Readonly<Record<Which, string>> = {
  own: 'You have not asked for access to anything. Ask here, or on the page of a table: whoever owns it sees what it would open, and answers.',
  waiting: 'No request waits for your answer. They come here, and onto your worklist.',
  granted: 'Nothing that you could end is in force by a request.',
  answered: 'No request that you could answer has been answered yet.',
};

/** Requests for access: one's own, those to be answered, what is in force by them. */
export function Requests() {
  const [params, put] = useAddress();
  const asked = params.get('ask');
  const chosen = params.get('request');
  const which = (WHICH.find(([key]) => key === params.get('which'))?.[0] ?? 'own') as Which;
  const [unusedFor, endingWithin] = [params.get('unused'), params.get('ending')];
  const waiting = useRequestsQuery({ which: 'waiting', limit: 1 });
  const asking = asked !== null;
  const ids = (asked ?? '').split(',').filter((id) => id !== '' && id !== 'new');
  useKeys('Requests', [{ key: 'n', what: 'ask for access', act: () => put({ ask: 'new' }) }]);
  return (
    <Stack>
      <Group justify="space-between">
        <SegmentedControl
          aria-label="Which requests"
          value={which}
          onChange={(next) => put({ which: next, request: null, unused: null, ending: null })}
          data={WHICH.map(([value, label]) => ({
            value,
            label:
              value === 'waiting' && waiting.data && waiting.data.total > 0
                ? `${label} (${waiting.data.total})`
                : label,
          }))}
        />
        {asking ? null : <Button onClick={() => put({ ask: 'new' })}>Ask for access</Button>}
      </Group>
      {asking ? <AskAccess key={asked} assetIds={ids} choose close={() => put({ ask: null, which: 'own' })} /> : null}
      {which === 'granted' ? <UnusedOrEnding /> : null}
      <List
        key={`${which} ${unusedFor} ${endingWithin}`}
        which={which}
        more={{
          ...(unusedFor ? { unusedFor: Number(unusedFor) } : {}),
          ...(endingWithin ? { endingWithin: Number(endingWithin) } : {}),
        }}
        chosen={chosen}
        choose={(id) => put({ request: id })}
      />
    </Stack>
  );
}

function List({
  which,
  more,
  chosen,
  choose,
}: {
  which: Which;
  more: { unusedFor?: number; endingWithin?: number };
  chosen: string | null;
  choose: (id: string | null) => void;
}) {
  const [limit, setLimit] = useState(AT_ONCE);
  const { data, error, refetch } = useRequestsQuery({ which, limit: Math.min(limit, 200), ...more });
  const items = data?.items ?? [];
  const one = items.find(({ id }) => id === chosen) ?? items[0];
  // The one that the address names is shown also where it is not in the list.
  const named = useRequestQuery(chosen ?? '', { skip: !chosen || !data || items.some(({ id }) => id === chosen) });
  const shown = chosen && one?.id !== chosen ? named.data : one;
  const at = items.findIndex(({ id }) => id === shown?.id);
  const move = (step: number) => choose(items[Math.max(0, Math.min(items.length - 1, at + step))]?.id ?? null);
  useKeys('Requests', [
    { key: 'j', what: 'next request', act: () => move(1) },
    { key: 'k', what: 'request before', act: () => move(-1) },
  ]);
  if (error) return <Trouble error={error} what="The requests cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={4} />;
  if (items.length === 0 && !shown)
    return (
      <Empty title="None">
        <p>{NONE[which]}</p>
      </Empty>
    );
  return (
    <Beside first="minmax(240px, 320px)">
      <div>
        <ul className="tree flat" aria-label="Requests">
          {items.map((request) => (
            <Choice key={request.id} chosen={request.id === shown?.id} choose={() => choose(request.id)}>
              <span className="grow cut">
                {which === 'own' ? whatFor(request) : request.person.name}
                {which === 'own' ? null : <Note>{whatFor(request)}</Note>}
                <Note>
                  {request.purpose} · <Standing request={request} />
                </Note>
              </span>
            </Choice>
          ))}
        </ul>
        {data.total > items.length ? (
          limit < 200 ? (
            <Button variant="subtle" onClick={() => setLimit(limit + AT_ONCE)}>
              {plural(data.total - items.length, 'more request')}
            </Button>
          ) : (
            <p className="quiet small">and {plural(data.total - items.length, 'more request')}</p>
          )
        ) : null}
      </div>
      {shown ? (
        <RequestPane key={shown.id} request={shown} />
      ) : named.error ? (
        <Trouble error={named.error} what="This request cannot be shown" />
      ) : (
        <Coming lines={4} />
      )}
    </Beside>
  );
}

const Standing = ({ request }: { request: RequestAnswer }) =>
  request.state === 'waiting' ? (
    <When at={request.askedAt} />
  ) : request.state === 'granted' && request.granted?.until ? (
    `until ${lastDay(request.granted.until)}`
  ) : (
    stateWords(request)
  );
