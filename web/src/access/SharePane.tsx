import type { ShareAnswer } from '@idrel/contract/access';
import { maskInWords } from '@idrel/core/access/masks';
import { Button, Group, Stack, Textarea } from '@mantine/core';
import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import { problemOf } from '../app/api.ts';
import { sayDone } from '../app/say.ts';
import { useKeptText } from '../forms/useKeptText.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { KindMark, Name, plural, When } from '../marks/index.tsx';
import { Listing, Said } from '../marks/Listing.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { lastDay } from './Conditions.tsx';
import { asSentence } from './maskWords.ts';
import { ShareForm } from './ShareForm.tsx';
import { useEndShareMutation } from './sharesApi.ts';

const ShareUse = lazy(() => import('./ShareUse.tsx').then(({ ShareUse }) => ({ default: ShareUse })));

const columnsIn = ({ columns, columnsBut }: Pick<ShareAnswer, 'columns' | 'columnsBut'>): string =>
  columns === null ? 'all, also those added later' : `${columnsBut ? 'all but ' : ''}${columns.join(', ')}`;

const STATES: Readonly<Record<ShareAnswer['state'], string>> = {
  offered: 'nothing is read before it is accepted',
  accepted: 'accepted',
  declined: 'declined',
  ended: 'ended',
};

/** A share with all that is known of it: what is shared, whether it is read, and its end. */
export function SharePane({ share }: { share: ShareAnswer }) {
  const { number, name, partner, state, source, assets, note, masked, rows, until, localName, heldBack } = share;
  const [changing, setChanging] = useState(false);
  const open = state === 'offered' || state === 'accepted';
  const history = useJournalQuery(share.id);
  if (changing) return <ShareForm share={share} close={() => setChanging(false)} />;
  return (
    <Stack gap={16}>
      <div>
        <h2>{name}</h2>
        <p className="quiet">
          Share {number} with {partner} · offered <When at={share.offeredAt} />
          {share.offeredBy ? ` by ${share.offeredBy}` : ''} · {STATES[state]}
        </p>
      </div>
      {heldBack ? (
        <p className="notice">
          Nothing is read by it now: a review of rights has ended it. Change it to open it again, or end it.
        </p>
      ) : null}
      <Listing label="What is shared" widths={[130]}>
        <Said words="Assets">
          {assets.length === 0 ? <span className="attention">none of them is there any more</span> : null}
          {assets.map((asset) => (
            <div key={asset.id}>
              <KindMark kind={asset.kind} />{' '}
              <Link to={`/assets/${asset.id}`}>
                <Name text={asset.path} most={60} />
              </Link>
            </div>
          ))}
          <div className="quiet small">in {source.name}</div>
        </Said>
        <Said words="Columns">{columnsIn(share)}</Said>
        {masked ? (
          <Said words="Masked">
            {columnsIn(masked)}, as {maskInWords(masked.mask)}
          </Said>
        ) : null}
        {rows ? (
          <Said words="Rows">
            only where <span className="mono">{rows.column}</span> is {rows.values.join(' or ')}
          </Said>
        ) : null}
        <Said words="Until">{until ? `the end of ${lastDay(until)}` : 'without an end'}</Said>
        {localName ? (
          <Said words="Read as">
            <span className="mono">{localName}</span>
          </Said>
        ) : null}
        {note ? (
          <Said words="Agreed">
            <span className="written">{note}</span>
          </Said>
        ) : null}
        {share.answeredAt ? (
          <Said words={state === 'declined' ? 'Declined' : 'Accepted'}>
            {share.answeredBy ? `by ${share.answeredBy}, ` : ''}
            <When at={share.answeredAt} />
            {share.answer ? <div className="written">{share.answer}</div> : null}
          </Said>
        ) : null}
        {share.endedAt ? (
          <Said words="Ended">
            {share.endedBy ? `by ${share.endedBy}, ` : 'by its day, '}
            <When at={share.endedAt} />
            {share.endedBecause ? <div className="written">{share.endedBecause}</div> : null}
          </Said>
        ) : null}
      </Listing>
      {share.answeredAt && state !== 'declined' ? (
        <Suspense fallback={null}>
          <ShareUse share={share} />
        </Suspense>
      ) : null}
      {open ? <Ending share={share} change={() => setChanging(true)} /> : null}
      <section>
        <h3>History</h3>
        <History entries={history.data ?? []} />
      </section>
    </Stack>
  );
}

/** Ends a share, with what that stops; or opens it to be changed. */
function Ending({ share, change }: { share: ShareAnswer; change: () => void }) {
  const { id, name, partner, state, use, localName } = share;
  const [end, { error, isLoading }] = useEndShareMutation();
  const [asking, setAsking] = useState(false);
  const [because, setBecause] = useKeptText(`share-end:${id}`);
  if (!asking)
    return (
      <Group>
        <Button variant="default" onClick={change}>
          Change it
        </Button>
        <Button variant="default" onClick={() => setAsking(true)}>
          {state === 'offered' ? 'Take the offer back' : 'End it'}
        </Button>
      </Group>
    );
  return (
    <form
      className="toolbar stack"
      aria-label="End the share"
      onSubmit={(event) => {
        event.preventDefault();
        void end({ id, because })
          .unwrap()
          .then(
            () => {
              setBecause('');
              setAsking(false);
              sayDone(`“${name}” is not shared with ${partner} any more.`);
            },
            // It is told below.
            () => undefined,
          );
      }}
    >
      <p>
        {state === 'offered'
          ? asSentence(`${partner} cannot accept it any more`)
          : `Whatever reads “${localName ?? ''}” is ended at once: ${plural(use.people, 'person has', 'people have')} read by it in the last thirty days.`}{' '}
        It can be offered again, and is then to be accepted anew.
      </p>
      <Textarea
        label="Why"
        description={`${partner} reads it`}
        autosize
        minRows={2}
        maxLength={2000}
        value={because}
        onChange={(event) => setBecause(event.currentTarget.value)}
      />
      <ProblemNotice problem={error ? problemOf(error) : null} />
      <Group>
        <Button type="submit" loading={isLoading}>
          {state === 'offered' ? 'Take it back' : 'End it now'}
        </Button>
        <Button variant="default" onClick={() => setAsking(false)}>
          Leave it
        </Button>
      </Group>
    </form>
  );
}
