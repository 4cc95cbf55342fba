import type { AssetAnswer, AssetRow } from '@idrel/contract/catalog';
import { Textarea } from '@mantine/core';
import { type KeyboardEvent, useEffect, useRef } from 'react';
import { sayDone } from '../app/say.ts';
import { useEditAssetMutation } from '../catalog/index.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';

/** The meaning of one row of a list, written where it stands. Its text is kept as that of the asset's own page is: a draft there goes on here. */
export function MeaningCell({
  row,
  begun,
  close,
}: {
  row: AssetRow;
  /** What was typed or pasted to begin with; nothing: what stands there. */
  begun: string | undefined;
  /** @param step where the keyboard goes on: so many rows further, or nowhere */
  close: (step: number | null) => void;
}) {
  const [save] = useEditAssetMutation();
  const field = useRef<HTMLTextAreaElement>(null);
  const edit = useEditForm<{ description: string }, AssetAnswer>({
    key: `asset:${row.id}:description`,
    now: { version: row.version, values: { description: row.description ?? '' } },
    fresh: { description: '' },
    valuesOf: ({ description }) => ({ description: description ?? '' }),
    send: (change, version) => save({ id: row.id, version, change }).unwrap(),
    done: ({ id, version }, before) => sayDone('Saved.', () => save({ id, version, change: before })),
  });
  const { put } = edit;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was typed to begin with is put in once, as it opens
  useEffect(() => {
    if (begun !== undefined) put({ description: begun });
    const here = field.current;
    here?.focus();
    here?.setSelectionRange(here.value.length, here.value.length);
  }, []);
  const keep = async (step: number | null) => {
    if (!edit.differs || (edit.clashes.length === 0 && !edit.saving && (await edit.save()))) close(step);
  };
  const onKey = (event: KeyboardEvent) => {
    if (event.key === 'Escape') {
      edit.discard();
      close(0);
    } else if (event.key === 'Enter' && !event.shiftKey) {
      event.preventDefault();
      void keep(1);
    } else if (event.key === 'Tab') {
      event.preventDefault();
      void keep(event.shiftKey ? -1 : 1);
    }
    event.stopPropagation();
  };
  return (
    <>
      <Textarea
        ref={field}
        aria-label={`Meaning of ${row.name}`}
        autosize
        minRows={1}
        {...edit.form.getInputProps('description')}
        onKeyDown={onKey}
        // What cannot be saved stays open, with what stands in the way.
        onBlur={() => void keep(null)}
      />
      <FormNotice edit={edit} words={{ description: 'Meaning' }} />
    </>
  );
}
