import type { AssetAnswer } from '@idrel/contract/catalog';
import { Button, Group, Stack, Textarea } from '@mantine/core';
import { useEffect, useRef } from 'react';
import { FormNotice } from '../forms/FormNotice.tsx';
import { Editable } from '../marks/Editable.tsx';
import { useAssetForm } from './useAssetForm.ts';

const factsOf = (asset: AssetAnswer) => ({ description: asset.description ?? '' });

/** What an asset means: a text that becomes a field where it stands. Give it the asset's id as its key. */
export function Description({
  asset,
  empty,
  open,
  onOpen,
}: {
  asset: AssetAnswer;
  empty: string;
  open: boolean;
  onOpen: (open: boolean) => void;
}) {
  const edit = useAssetForm(asset, 'description', factsOf, () => onOpen(false));
  const field = useRef<HTMLTextAreaElement>(null);
  useEffect(() => {
    if (open) field.current?.focus();
  }, [open]);
  const close = () => {
    edit.discard();
    onOpen(false);
  };
  const may = edit.clashes.length === 0 && !edit.saving;
  const keep = () => {
    if (!edit.differs) close();
    else if (may) void edit.save();
  };
  if (!open) {
    const shown = asset.description || <span className="quiet">{empty}</span>;
    if (!asset.mayEdit) return <span className="written">{shown}</span>;
    return (
      <Editable label="Description" onOpen={() => onOpen(true)}>
        {shown}
        {edit.differs ? <span className="attention small"> · unsaved text</span> : null}
      </Editable>
    );
  }
  return (
    <Stack>
      <Textarea
        ref={field}
        aria-label="Description"
        {...edit.form.getInputProps('description')}
        onKeyDown={(event) => {
          if (event.key === 'Escape') close();
          if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) keep();
        }}
      />
      <FormNotice edit={edit} words={{ description: 'Description' }} />
      <Group>
        <Button onClick={keep} loading={edit.saving} disabled={edit.clashes.length > 0}>
          Save
        </Button>
        <Button variant="default" onClick={close}>
          Leave as it was
        </Button>
        <span className="quiet small">
          <kbd>Ctrl Enter</kbd> saves
        </span>
      </Group>
    </Stack>
  );
}
