import type { AssetAnswer } from '@idrel/contract/catalog';
import { PRIORITIES } from '@idrel/core/catalog';
import { Button, Group, Select, Stack, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { FormNotice } from '../forms/FormNotice.tsx';
import { Editable } from '../marks/Editable.tsx';
import { Name, PriorityMark, plural } from '../marks/index.tsx';
import { useAssetForm } from './useAssetForm.ts';

const AS_FOUND = 'found';
const factsOf = ({ priorityFacts: { stated, reason } }: AssetAnswer) => ({ priority: stated, priorityReason: reason });

/** How much an asset matters: stated, or found by rules; and what it inherits of what is made from it, kept apart. */
export function PriorityChooser({ asset }: { asset: AssetAnswer }) {
  const [open, setOpen] = useState(false);
  const edit = useAssetForm(asset, 'priority', factsOf, () => setOpen(false));
  const { values, put } = edit;
  const { own, stated, reason, rule, inherited, from, distance } = asset.priorityFacts;
  const close = () => {
    edit.discard();
    setOpen(false);
  };
  const why = stated !== null ? `stated${reason ? `: ${reason}` : ''}` : rule ? `by the rule “${rule.name}”` : null;
  if (!open)
    return (
      <div>
        {asset.mayEdit ? (
          <Editable label="Priority" onOpen={() => setOpen(true)}>
            <PriorityMark grade={own} />
            {edit.differs ? <span className="attention small"> · not saved</span> : null}
          </Editable>
        ) : (
          <PriorityMark grade={own} />
        )}
        {why ? <div className="small quiet">{why}</div> : null}
        {inherited > 0 ? (
          <div className="small">
            <PriorityMark grade={inherited} /> by what is made from it:{' '}
            {from ? (
              <Link to={`/assets/${from.id}`}>
                <Name text={from.path} most={30} />
              </Link>
            ) : (
              'something that you may not see'
            )}
            {distance === null ? '' : `, ${plural(distance, 'step')} away`}
          </div>
        ) : null}
      </div>
    );
  return (
    <Stack
      component="form"
      onSubmit={(event) => {
        event.preventDefault();
        if (!edit.differs) close();
        else if (edit.clashes.length === 0) void edit.save();
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape') close();
      }}
    >
      <Select
        aria-label="Priority"
        allowDeselect={false}
        data={[
          { value: AS_FOUND, label: 'as rules find' },
          ...PRIORITIES.map((name, grade) => ({ value: String(grade), label: name })),
        ]}
        value={values.priority === null ? AS_FOUND : String(values.priority)}
        error={edit.form.errors.priority}
        onChange={(value) => value && put({ priority: value === AS_FOUND ? null : Number(value) })}
      />
      {values.priority === null ? null : (
        <TextInput
          aria-label="Reason"
          placeholder="Why, if it is not plain"
          value={values.priorityReason ?? ''}
          error={edit.form.errors.priorityReason}
          onChange={(event) => put({ priorityReason: event.currentTarget.value || null })}
        />
      )}
      <FormNotice
        edit={edit}
        words={{
          priority: ['Priority', (grade) => (grade === null ? 'as rules find' : PRIORITIES[grade as number])],
          priorityReason: 'Reason',
        }}
      />
      <Group>
        <Button type="submit" size="compact-sm" disabled={edit.clashes.length > 0} loading={edit.saving}>
          Save
        </Button>
        <Button variant="subtle" size="compact-sm" onClick={close}>
          Leave
        </Button>
      </Group>
    </Stack>
  );
}
