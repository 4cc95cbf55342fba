import type { Discussion, Remark } from '@idrel/contract/writing';
import { Button, Group } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { KindMark, When } from '../marks/index.tsx';
import { PutInto } from './PutInto.tsx';
import { Saying } from './Saying.tsx';
import { Written } from './Written.tsx';
import {
  useAddRemarkMutation,
  useBringBackRemarkMutation,
  useChangeRemarkMutation,
  useRemoveRemarkMutation,
  useSettleDiscussionMutation,
} from './writingApi.ts';

/**
 * A question or a remark with what was said to it.
 * @param here the asset on whose page it stands: of another one it says what it is about
 */
export function OneDiscussion({ discussion, here }: { discussion: Discussion; here: string }) {
  const { id, asset, question, settledAt, settledBy, answerId, remarks, maySettle, mayWrite, version } = discussion;
  const [saying, setSaying] = useState(false);
  const [add] = useAddRemarkMutation();
  const [settleIt] = useSettleDiscussionMutation();
  const settle = (settled: boolean, answer?: string) =>
    settleIt({ id, version, settled, ...(answer ? { answerId: answer } : {}) })
      .unwrap()
      .then(
        (after) =>
          sayDone(settled ? 'Settled.' : 'Open again.', () =>
            settleIt({ id, version: after.version, settled: !settled, ...(answerId ? { answerId } : {}) }),
          ),
        (error: unknown) => sayProblem(error, settled ? 'It was not settled' : 'It was not opened'),
      );
  return (
    <section className="discussion" aria-label={question ? 'Question' : 'Remark'}>
      <Group gap={8} className="small">
        <strong>{settledAt ? (question ? 'Answered' : 'Settled') : question ? 'Open question' : 'Remark'}</strong>
        {asset.id === here ? null : (
          <>
            <KindMark kind={asset.kind} />
            <Link to={`/assets/${asset.id}`} className="mono">
              {asset.name}
            </Link>
          </>
        )}
        {settledAt ? (
          <span className="quiet">
            by {settledBy?.name ?? 'somebody'}, <When at={settledAt} />
          </span>
        ) : null}
      </Group>
      {remarks.map((remark, nth) => (
        <OneRemark
          key={remark.id}
          remark={remark}
          first={nth === 0}
          isAnswer={remark.id === answerId}
          answers={question && !settledAt && maySettle && nth > 0 ? () => void settle(true, remark.id) : undefined}
          assetId={asset.id}
          mayWrite={mayWrite}
        />
      ))}
      {saying ? (
        <Saying
          label="Your remark"
          words="Say it"
          keep={`say:${id}`}
          send={async (text) => {
            await add({ id, text }).unwrap();
          }}
          close={() => setSaying(false)}
        />
      ) : (
        <Group gap={10}>
          <Button variant="default" size="compact-xs" onClick={() => setSaying(true)}>
            {question && !settledAt ? 'Answer' : 'Say something to it'}
          </Button>
          {maySettle ? (
            <Button variant="subtle" size="compact-xs" onClick={() => void settle(!settledAt)}>
              {settledAt ? 'Open it again' : 'It is settled'}
            </Button>
          ) : null}
        </Group>
      )}
    </section>
  );
}

function OneRemark({
  remark,
  first,
  isAnswer,
  answers,
  assetId,
  mayWrite,
}: {
  remark: Remark;
  first: boolean;
  isAnswer: boolean;
  answers: (() => void) | undefined;
  assetId: string;
  mayWrite: boolean;
}) {
  const { id, text, by, at, editedAt, gone, mine, version } = remark;
  const [editing, setEditing] = useState(false);
  const [change] = useChangeRemarkMutation();
  const [remove] = useRemoveRemarkMutation();
  const [bringBack] = useBringBackRemarkMutation();
  const takeAway = () =>
    remove(id)
      .unwrap()
      .then(
        () => sayDone('The remark is taken away.', () => bringBack(id)),
        (error: unknown) => sayProblem(error, 'It was not taken away'),
      );
  return (
    <div className={`remark ${first ? 'first' : ''} ${isAnswer ? 'answer' : ''}`}>
      <Group gap={8} className="small quiet">
        <span className="who">{by?.name ?? 'Somebody'}</span>
        <When at={at} />
        {editedAt && !gone ? <span>changed</span> : null}
        {isAnswer ? <strong className="attention">the answer</strong> : null}
        {gone ? null : (
          <span className="remark-actions">
            {answers ? (
              <button type="button" className="linkish" onClick={answers}>
                This answers it
              </button>
            ) : null}
            {mayWrite ? <PutInto assetId={assetId} text={text} /> : null}
            {mine ? (
              <>
                <button type="button" className="linkish" onClick={() => setEditing(true)}>
                  Change
                </button>
                <button type="button" className="linkish" onClick={() => void takeAway()}>
                  Take away
                </button>
              </>
            ) : null}
          </span>
        )}
      </Group>
      {gone ? (
        <p className="quiet">taken away</p>
      ) : editing ? (
        <Saying
          label="Your remark"
          words="Save"
          keep={`remark:${id}`}
          begin={text}
          send={async (next) => {
            await change({ id, version, text: next }).unwrap();
          }}
          close={() => setEditing(false)}
        />
      ) : (
        <Written text={text} under={3} />
      )}
    </div>
  );
}
