import type { WorkItem } from '@idrel/contract/worklist';
import { Button, Group, Stack } from '@mantine/core';
import { RequestPane } from '../access/index.ts';

/** A request for access that waits for whoever looks, or one of their own that was answered or ends soon. */
export function Asked({
  item: { request, why },
  note,
}: {
  item: Extract<WorkItem, { kind: 'request' }>;
  note: () => void;
}) {
  return (
    <Stack gap={16}>
      <RequestPane request={request} />
      {why === 'answer' ? null : (
        <Group>
          <Button variant="default" onClick={note}>
            Noted <kbd>n</kbd>
          </Button>
        </Group>
      )}
    </Stack>
  );
}
