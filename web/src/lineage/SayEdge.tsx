import type { LineageNode } from '@idrel/contract/lineage';
import { Button, Select, Textarea } from '@mantine/core';
import { useState } from 'react';
import { sayDone } from '../app/say.ts';
import { useChildrenQuery } from '../catalog/index.ts';
import { Framed } from '../forms/Framed.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { useSayEdgesMutation, useUnsayEdgeMutation } from './api.ts';
import { DrawAsset } from './DrawAsset.tsx';
import { PickAsset, type Picked } from './PickAsset.tsx';

const KINDS = [
  { value: 'copied', label: 'copied: it arrives as it is' },
  { value: 'transformed', label: 'transformed: it arrives changed' },
  { value: 'aggregated', label: 'aggregated: many become one' },
  { value: 'masked', label: 'masked: it cannot be read from what arrives' },
] as const;
type Kind = (typeof KINDS)[number]['value'];

interface Fields {
  into: string | null;
  from: Picked | null;
  column: string | null;
  kind: Kind;
  flow: Picked | null;
  note: string;
}
/** An edge as it was drawn with the mouse. */
export type Drawn = Pick<Fields, 'into' | 'column'> & { readonly from: Picked };

const FRESH: Fields = { into: null, from: null, column: null, kind: 'copied', flow: null, note: '' };

/** What an edge can begin at. */
const ENDS = 'kind:table,view,"materialised view","foreign table",file,"file set",report,dashboard,application';

/** Says where something comes from that no source tells: into the asset or one of its columns, from another asset or one of its columns. */
export function SayEdge({
  node,
  drawn,
  close,
}: {
  node: Pick<LineageNode, 'id' | 'path' | 'columns'>;
  drawn: Drawn | null;
  close: () => void;
}) {
  const [say] = useSayEdgesMutation();
  const [unsay] = useUnsayEdgeMutation();
  const edit = useEditForm<Fields, Fields & { version: number }>({
    key: `edge into:${node.id}${drawn ? `:${drawn.column ?? drawn.from.id}:${drawn.into}` : ''}`,
    now: null,
    fresh: drawn ? { ...FRESH, from: drawn.from, column: drawn.column, into: drawn.into } : FRESH,
    valuesOf: (values) => values,
    send: async (values) => {
      const { into, from, column, kind, flow, note } = values;
      const [answer] = await say([
        {
          from: { id: column ?? from?.id ?? '' },
          to: { id: into ?? node.id },
          kind,
          flow: flow?.id ?? null,
          note,
        },
      ]).unwrap();
      // What is refused keeps what was typed, with the reason beside it.
      if (answer?.state === 'refused')
        throw { status: 422, data: { code: 'invalid', detail: answer.why ?? '', mend: answer.mend, status: 422 } };
      const { id } = answer ?? {};
      if (answer?.state === 'found already') sayDone('That edge was found already.');
      else if (id) sayDone('The edge is said.', () => unsay(id).unwrap());
      return { ...values, version: 1 };
    },
    done: close,
  });
  const [adding, setAdding] = useState(false);
  const { values, put } = edit;
  const columns = useChildrenQuery(values.from?.id ?? '', { skip: values.from === null });
  const [into, from] = [
    node.columns.map(({ id, name }) => ({ value: id, label: name })),
    (columns.data ?? []).filter(({ kind }) => kind === 'column').map(({ id, name }) => ({ value: id, label: name })),
  ];
  return (
    <Framed
      label="Say where it comes from"
      edit={edit}
      fields={{
        into: 'Into',
        from: 'Comes from',
        column: 'Its column',
        kind: 'What happens',
        flow: 'Through',
        note: 'How you know',
      }}
      words="Say it"
      ready={values.from !== null}
      close={close}
    >
      {into.length > 0 ? (
        <Select
          label="Into"
          description={`A column of ${node.path}; none: the whole of it`}
          searchable
          clearable
          clearButtonProps={{ 'aria-label': 'The whole of it' }}
          data={into}
          value={values.into}
          onChange={(next) => put({ into: next })}
        />
      ) : null}
      <PickAsset
        label="Comes from"
        within={ENDS}
        value={values.from}
        onChange={(next) => put({ from: next, column: null })}
      />
      {adding ? (
        <DrawAsset near={node.id} take={(from) => put({ from, column: null })} close={() => setAdding(false)} />
      ) : values.from === null ? (
        <div>
          <Button variant="subtle" size="compact-xs" onClick={() => setAdding(true)}>
            It is not in the catalog: add it
          </Button>
        </div>
      ) : null}
      {from.length > 0 ? (
        <Select
          label="Its column"
          searchable
          clearable
          clearButtonProps={{ 'aria-label': 'No column of it' }}
          data={from}
          value={values.column}
          onChange={(column) => put({ column })}
        />
      ) : null}
      <Select
        label="What happens"
        allowDeselect={false}
        data={KINDS.map(({ value, label }) => ({ value, label }))}
        value={values.kind}
        onChange={(kind) => kind && put({ kind: kind as Kind })}
      />
      <PickAsset
        label="Through"
        description="The flow that brings it, where that is in the catalog"
        within="kind:flow"
        value={values.flow}
        onChange={(flow) => put({ flow })}
      />
      <Textarea label="How you know" autosize {...edit.form.getInputProps('note')} />
    </Framed>
  );
}
