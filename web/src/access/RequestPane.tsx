import type { RequestAnswer } from '@idrel/contract/access';
import { Button, Group, Stack } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { Name, plural, When } from '../marks/index.tsx';
import { Listing, Said } from '../marks/Listing.tsx';
import { AnswerForm } from './AnswerForm.tsx';
import { AskAccess } from './AskAccess.tsx';
import { AskedAssets } from './AskedAssets.tsx';
import { lastDay } from './Conditions.tsx';
import { asSentence } from './maskWords.ts';
import { useAnswerRequestMutation, usePrecedentsQuery, useTakeRequestBackMutation } from './requestsApi.ts';
import { answererWords, grantWords, stateWords, whatFor } from './requestWords.ts';

/** A request with all that is known of it, and what can be done: its answer, or what whoever asked can do. */
export function RequestPane({ request }: { request: RequestAnswer }) {
  const { number, person, mine, purpose, note, until, askedAt, assets, hidden, answerers, columns } = request;
  return (
    <Stack gap={16}>
      <div>
        <h2>
          {mine ? 'You asked' : `${person.name} ${request.state === 'waiting' ? 'asks' : 'asked'}`} to read{' '}
          {assets.length === 1 ? <Name text={assets[0]?.path ?? ''} most={60} /> : whatFor(request)}
        </h2>
        <p className="quiet">
          Request {number} · {mine ? '' : `${person.job} · `}
          <When at={askedAt} /> · {stateWords(request)}
        </p>
      </div>
      <Listing label="What is said of it" widths={[110]}>
        <Said words="What for">{purpose}</Said>
        {note ? (
          <Said words="Besides">
            <span className="written">{note}</span>
          </Said>
        ) : null}
        <Said words="Until">{until ? `the end of ${lastDay(until)}` : 'without an end'}</Said>
        {columns ? (
          <Said words="Columns">
            <span className="mono">{columns.join(', ')}</span>
          </Said>
        ) : null}
        {request.state === 'waiting' ? <Said words="Waits for">{answererWords(answerers)}</Said> : null}
      </Listing>
      {request.mayAnswer ? null : (
        <AskedAssets
          label="What is asked for"
          assets={assets}
          last={(asset) =>
            request.state === 'granted' && !asset.granted ? <span className="quiet">not granted</span> : null
          }
        />
      )}
      {hidden > 0 ? <p className="quiet small">and {plural(hidden, 'asset')} that you may not see</p> : null}
      <Answered request={request} />
      {mine ? <Own request={request} /> : null}
      {request.mayAnswer ? (
        <>
          <Precedents id={request.id} />
          {request.state === 'granted' ? <End request={request} /> : null}
          <AnswerForm key={request.id} request={request} />
        </>
      ) : request.whyNot && request.state === 'waiting' ? (
        <p className="notice calm">{request.whyNot}</p>
      ) : null}
    </Stack>
  );
}

/** What was answered, by whom, and whether it is used. */
function Answered({ request }: { request: RequestAnswer }) {
  const { answeredAt, answeredBy, answeredFor, answer, granted, state, purpose, lastUsed } = request;
  if (answeredAt === null) return null;
  return (
    <section aria-label="The answer">
      <p>
        <strong>{asSentence(stateWords(request))}</strong>
        {answeredBy ? ` by ${answeredBy}` : ''}
        {answeredFor ? `, for ${answeredFor}` : ''}, <When at={answeredAt} />
        {granted && (state === 'granted' || state === 'ended') ? `: ${grantWords(granted, purpose).join('; ')}` : ''}.
      </p>
      {answer ? <p className="written">{answer}</p> : null}
      {state === 'granted' ? (
        <p className="quiet">
          {lastUsed ? (
            <>
              Last read through the gateway <When at={lastUsed} />.
            </>
          ) : (
            'Not read through the gateway yet, as far as that is kept.'
          )}
        </p>
      ) : null}
    </section>
  );
}

/** What whoever asked can do. */
function Own({ request }: { request: RequestAnswer }) {
  const { id, version, state, assets, purpose } = request;
  const [takeBack] = useTakeRequestBackMutation();
  const [asking, setAsking] = useState(false);
  const ids = assets.map((asset) => asset.id);
  if (asking) return <AskAccess assetIds={ids} purpose={purpose} close={() => setAsking(false)} />;
  const take = () =>
    void takeBack(id)
      .unwrap()
      .then(
        () => sayDone('Your request is taken back.'),
        (error: unknown) => sayProblem(error, 'It was not taken back'),
      );
  return (
    <Group>
      {state === 'waiting' ? (
        <Button variant="default" onClick={take}>
          Take it back
        </Button>
      ) : ids.length > 0 ? (
        <Button variant="default" onClick={() => setAsking(true)}>
          {state === 'granted' ? 'Ask for longer, or for more' : 'Ask again'}
        </Button>
      ) : null}
      {state === 'granted' ? <EndButton id={id} version={version} words="I need it no more" /> : null}
    </Group>
  );
}

/** Ends what was granted, at once. */
function End({ request }: { request: RequestAnswer }) {
  return (
    <Group>
      <EndButton id={request.id} version={request.version} words="End it now" />
      <span className="quiet small">Or grant it otherwise:</span>
    </Group>
  );
}

function EndButton({ id, version, words }: { id: string; version: number; words: string }) {
  const [answer, { isLoading }] = useAnswerRequestMutation();
  return (
    <Button
      variant="default"
      loading={isLoading}
      onClick={() =>
        void answer({ id, version, body: { decision: 'ended', text: '', grant: null } })
          .unwrap()
          .then(
            ({ person, granted, mayAnswer, version: now }) =>
              sayDone(
                `What was granted to ${person.name} has ended.`,
                mayAnswer && granted
                  ? () => answer({ id, version: now, body: { decision: 'granted', text: '', grant: granted } }).unwrap()
                  : undefined,
              ),
            (error: unknown) => sayProblem(error, 'It has not ended'),
          )
      }
    >
      {words}
    </Button>
  );
}

/** How requests like it were answered. */
function Precedents({ id }: { id: string }) {
  const { data } = usePrecedentsQuery(id);
  if (!data || data.length === 0) return null;
  return (
    <section aria-label="How it was answered before">
      <h3>How it was answered before</h3>
      <Listing heads={['Who', 'What', 'What for', 'Answer', 'When']}>
        {data.map((request) => (
          <tr key={request.id}>
            <td>{request.person.name}</td>
            <td>
              <Link to={`/access?show=requests&which=answered&request=${request.id}`}>
                <Name text={whatFor(request)} most={34} />
              </Link>
            </td>
            <td>{request.purpose}</td>
            <td>{stateWords(request)}</td>
            <td className="oneline">
              <When at={request.answeredAt} />
            </td>
          </tr>
        ))}
      </Listing>
    </section>
  );
}
