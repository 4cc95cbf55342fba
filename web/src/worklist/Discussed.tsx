import type { WorkItem } from '@idrel/contract/worklist';
import { Button, Group, Stack } from '@mantine/core';
import { Link } from 'react-router';
import { OneDiscussion } from '../writing/index.ts';

/** A question that waits for whoever answers for the asset, or a discussion in which they are mentioned. */
export function Discussed({
  item: { discussion, why },
  note,
}: {
  item: Extract<WorkItem, { kind: 'discussion' }>;
  note: () => void;
}) {
  const { asset } = discussion;
  return (
    <Stack gap={16}>
      <div>
        <h2>
          {why === 'asked' ? 'A question about ' : 'You are mentioned in what is said about '}
          <Link to={`/assets/${asset.id}#discussion`} className="mono">
            {asset.name}
          </Link>
        </h2>
        <p className="quiet">
          {asset.kind} · {asset.path}
        </p>
      </div>
      <OneDiscussion discussion={discussion} here={asset.id} />
      {why === 'mentioned' ? (
        <Group>
          <Button variant="default" onClick={note}>
            Noted <kbd>n</kbd>
          </Button>
        </Group>
      ) : null}
    </Stack>
  );
}
