import { Button, Group, Stack } from '@mantine/core';
import type { ReactNode } from 'react';
import { type FieldWords, FormNotice } from './FormNotice.tsx';
import type { EditForm } from './useEditForm.ts';

/** A small form where something stands, in a frame of its own: its fields, what is wrong, the buttons that save it and leave it. */
export function Framed<T extends object>({
  label,
  edit,
  fields,
  words,
  ready = true,
  also,
  close,
  children,
}: {
  label: string;
  edit: EditForm<T>;
  /** What the fields are called where two versions of them stand side by side. */
  fields: FieldWords<T>;
  /** What the button that saves says. */
  words: string;
  ready?: boolean;
  /** What is saved with what the fields hold. */
  also?: Partial<T>;
  close: () => void;
  children: ReactNode;
}) {
  const save = () => void edit.save(also);
  const leave = () => {
    edit.discard();
    close();
  };
  return (
    <Stack
      className="framed"
      gap={8}
      role="group"
      aria-label={label}
      onKeyDown={(event) => {
        if (event.key === 'Escape') leave();
        if (event.key === 'Enter' && event.ctrlKey && ready) save();
      }}
    >
      {children}
      <FormNotice edit={edit} words={fields} />
      <Group>
        <Button size="compact-sm" disabled={!ready || edit.clashes.length > 0} loading={edit.saving} onClick={save}>
          {words}
        </Button>
        <Button size="compact-sm" variant="default" onClick={leave}>
          Leave it
        </Button>
      </Group>
    </Stack>
  );
}
