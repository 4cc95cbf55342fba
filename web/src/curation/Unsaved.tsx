import { Button, Group } from '@mantine/core';
import type { EditForm } from '../forms/useEditForm.ts';

/** What was chosen and is not saved: because it met somebody else's, or was left. */
export const Unsaved = <T extends object>({ edit }: { edit: EditForm<T> }) =>
  edit.differs && !edit.saving ? (
    <Group>
      <Button size="compact-sm" disabled={edit.clashes.length > 0} onClick={() => void edit.save()}>
        Save
      </Button>
      <Button size="compact-sm" variant="subtle" onClick={edit.discard}>
        Leave as it was
      </Button>
    </Group>
  ) : null;
