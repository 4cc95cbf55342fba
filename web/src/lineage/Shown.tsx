import type { LineageAnswer } from '@idrel/contract/lineage';
import { EDGE_KINDS, ROWS } from '@idrel/core/lineage/leftOut';
import { Button, Checkbox, Group, Popover, SegmentedControl, Stack, TextInput } from '@mantine/core';
import { useState } from 'react';
import { problemOf } from '../app/api.ts';
import { plural } from '../marks/index.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { FOLD_BY, type FoldBy } from './folding.ts';
import type { Places } from './usePlaces.ts';

/** What of a picture is shown, as the address holds it. */
export interface WhatIsShown {
  readonly fold: FoldBy | null;
  /** Kinds of edges and of assets that are left out. */
  readonly hidden: ReadonlySet<string>;
  /** What marks tables, in the filter language; nothing where it is empty. */
  readonly mark: string;
  /** What is not marked is left out. */
  readonly only: boolean;
}

/** Chooses what of a picture is shown: folded by what, without which kinds, marking what a filter finds. */
export function Shown({
  answer,
  shown: { fold, hidden, mark, only },
  put,
  places,
  openGroups,
  marking,
}: {
  /** The whole picture. */
  answer: LineageAnswer;
  shown: WhatIsShown;
  put: (changes: Record<string, string | null>) => void;
  places: Places;
  /** Groups that stand unfolded, by what they are called. */
  openGroups: readonly { id: string; name: string }[];
  /** How many tables are marked, or why none can be. */
  marking: { readonly found: number | null; readonly error: unknown };
}) {
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState(mark);
  const kinds = [...new Set([...answer.nodes, ...answer.flows].map(({ kind }) => kind as string))].sort();
  const hide = (kind: string, out: boolean): void => {
    const next = new Set(hidden);
    if (out) next.add(kind);
    else next.delete(kind);
    put({
      hide: [...next].filter((one) => one !== ROWS).join(',') || null,
      rows: next.has(ROWS) ? 'no' : null,
    });
  };
  const other = [fold !== null, hidden.size > 0, mark !== ''].filter(Boolean).length;
  const boxes = (label: string, all: readonly string[]) => (
    <Group gap="6px 14px" role="group" aria-label={label}>
      <span className="label">{label}</span>
      {all.map((kind) => (
        <Checkbox
          key={kind}
          size="xs"
          label={kind}
          styles={{ label: { whiteSpace: 'nowrap' } }}
          checked={!hidden.has(kind)}
          onChange={(event) => hide(kind, !event.currentTarget.checked)}
        />
      ))}
    </Group>
  );
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" withinPortal trapFocus>
      <Popover.Target>
        <Button
          variant="default"
          size="compact-xs"
          aria-expanded={open}
          onClick={() => {
            setDraft(mark);
            setOpen(!open);
          }}
        >
          Shown{other > 0 ? ` (${other})` : ''}
        </Button>
      </Popover.Target>
      <Popover.Dropdown aria-label="What the picture shows" w={560}>
        <Stack gap={12}>
          <Group gap={10}>
            <span className="label" id="folded-by">
              Folded by
            </span>
            <SegmentedControl
              size="xs"
              aria-labelledby="folded-by"
              data={['nothing', ...FOLD_BY]}
              value={fold ?? 'nothing'}
              onChange={(by) => put({ fold: by === 'nothing' ? null : by })}
            />
          </Group>
          {openGroups.length > 0 ? (
            <Group gap={6}>
              <span className="quiet small">Unfolded:</span>
              {openGroups.map(({ id, name }) => (
                <button key={id} type="button" className="chip on" onClick={() => places.toggle(id)}>
                  {name} ×
                </button>
              ))}
            </Group>
          ) : null}
          {boxes('Edges', EDGE_KINDS)}
          {boxes('Assets', kinds)}
          <form
            onSubmit={(event) => {
              event.preventDefault();
              put({ mark: draft.trim() || null });
            }}
          >
            <Group gap={6} align="flex-end" wrap="nowrap">
              <TextInput
                className="grow"
                size="xs"
                label="Mark what a search finds"
                placeholder="class:email, owner:none, notice:stop …"
                value={draft}
                onChange={(event) => setDraft(event.currentTarget.value)}
              />
              <Button type="submit" variant="default" size="xs">
                Mark
              </Button>
            </Group>
          </form>
          {mark === '' ? null : (
            <Group gap={12}>
              {marking.error ? (
                <ProblemNotice problem={problemOf(marking.error)} />
              ) : (
                <span role="status">{marking.found === null ? '…' : `${plural(marking.found, 'table')} marked`}</span>
              )}
              <Checkbox
                size="xs"
                label="Only these"
                checked={only}
                onChange={(event) => put({ only: event.currentTarget.checked ? 'yes' : null })}
              />
              <Button variant="subtle" size="compact-xs" onClick={() => put({ mark: null, only: null })}>
                Mark nothing
              </Button>
            </Group>
          )}
          {places.putBack || places.undo ? (
            <Group gap={6}>
              <Button variant="default" size="compact-xs" disabled={!places.undo} onClick={places.undo}>
                Undo the last move
              </Button>
              <Button variant="default" size="compact-xs" disabled={!places.putBack} onClick={places.putBack}>
                All in their places
              </Button>
            </Group>
          ) : null}
        </Stack>
      </Popover.Dropdown>
    </Popover>
  );
}
