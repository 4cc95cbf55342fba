import type { AssetAnswer } from '@idrel/contract/catalog';
import { Button, Group, Stack } from '@mantine/core';
import { useState } from 'react';
import { sayDone } from '../app/say.ts';
import { plural } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { OneDiscussion } from './OneDiscussion.tsx';
import { Saying } from './Saying.tsx';
import { useBeginDiscussionMutation, useDiscussionsQuery } from './writingApi.ts';

/** What is asked and said about an asset and its columns. Give it the asset's id as its key. */
export function Discussions({ asset }: { asset: AssetAnswer }) {
  const [settled, setSettled] = useState(false);
  const { data, error, refetch } = useDiscussionsQuery({ id: asset.id, settled });
  const [begin] = useBeginDiscussionMutation();
  const [saying, setSaying] = useState<'question' | 'remark' | null>(null);
  if (error) return <Trouble error={error} what="The discussion cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={3} />;
  const more = (settled ? data.settled : data.open) - data.items.length;
  const isEmpty = data.open + data.settled === 0;
  return (
    <Stack>
      {isEmpty && !saying ? (
        <p className="quiet">
          Nobody has asked or said anything about it yet. A question reaches those who answer for it.
        </p>
      ) : null}
      {data.items.map((discussion) => (
        <OneDiscussion key={discussion.id} discussion={discussion} here={asset.id} />
      ))}
      {more > 0 ? <p className="quiet small">and {plural(more, 'older discussion')}, which a search finds</p> : null}
      {!isEmpty && data.items.length === 0 ? (
        <p className="quiet">{settled ? 'Nothing is settled yet.' : 'Nothing is open.'}</p>
      ) : null}
      {saying ? (
        <Saying
          label={saying === 'question' ? 'Your question' : 'Your remark'}
          words={saying === 'question' ? 'Ask' : 'Say it'}
          keep={`say:${asset.id}:${saying}`}
          send={async (text) => {
            await begin({ assetId: asset.id, question: saying === 'question', text }).unwrap();
            setSettled(false);
            sayDone(saying === 'question' ? 'Asked. It waits on the worklist of those who answer for it.' : 'Said.');
          }}
          close={() => setSaying(null)}
        />
      ) : (
        <Group>
          <Button variant="default" size="compact-sm" onClick={() => setSaying('question')}>
            Ask something
          </Button>
          <Button variant="subtle" size="compact-sm" onClick={() => setSaying('remark')}>
            Remark on it
          </Button>
          {data.settled > 0 ? (
            <button type="button" className="linkish small" onClick={() => setSettled(!settled)}>
              {settled ? `Back to what is open (${data.open})` : `${plural(data.settled, 'discussion')} settled`}
            </button>
          ) : null}
        </Group>
      )}
    </Stack>
  );
}
