import { Button } from '@mantine/core';
import type { EditForm } from './useEditForm.ts';

/** Saves what stands in a strip of fields, or leaves it: what was typed is then given up. */
export function StripButtons<T extends object>({
  edit,
  words,
  ready,
  close,
}: {
  edit: EditForm<T>;
  words: string;
  /** What has to be there is there. */
  ready: boolean;
  close: () => void;
}) {
  return (
    <>
      <Button type="submit" loading={edit.saving} disabled={!ready || edit.clashes.length > 0}>
        {words}
      </Button>
      <Button
        variant="default"
        onClick={() => {
          edit.discard();
          close();
        }}
      >
        Leave it
      </Button>
    </>
  );
}
