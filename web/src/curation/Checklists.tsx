import type { ChecklistAnswer } from '@idrel/contract/curation';
import { CHECK_ITEMS, type Checklist } from '@idrel/core/catalog';
import { Checkbox } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { ByKind } from '../forms/ByKind.tsx';
import { Frame, useIsAdministrator } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { plural } from '../marks/index.tsx';
import { NumberField } from '../marks/NumberField.tsx';
import { Empty } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useChangeChecklistMutation, useChecklistsQuery } from './standingApi.ts';

/** What is asked of assets of each kind before they are trusted. */
export function Component() {
  const found = useChecklistsQuery();
  const may = useIsAdministrator();
  useCrumbs({ text: 'Settings', to: '/settings' }, { text: 'Checklists', to: '/settings/checklists' });
  return (
    <ByKind
      title="Checklists"
      found={found}
      told={(entry) => askedOf(entry) || 'nothing'}
      one={(list) => <ChecklistForm key={list.kind} list={list} may={may} />}
      none={
        <Empty title="Choose a kind of asset">
          <p>
            Before an asset is trusted, all must be so that is asked of its kind. What was certified and is not so any
            more is reviewed again, with the reason, and stands on the worklist.
          </p>
        </Empty>
      }
    />
  );
}

/** How many things are asked. */
const askedOf = (list: Checklist): number =>
  [
    list.described,
    list.owned,
    list.columnsDescribed !== null,
    list.findingsSettled,
    list.lineageUp,
    list.lineageDown,
    list.freshDays !== null,
  ].filter(Boolean).length;

type Draft = { -readonly [K in keyof Checklist]: Checklist[K] };
const fieldsOf = ({ kind: _kind, trusted: _trusted, version: _version, ...list }: ChecklistAnswer): Draft => list;

function ChecklistForm({ list, may }: { list: ChecklistAnswer; may: boolean }) {
  const [change] = useChangeChecklistMutation();
  const history = useJournalQuery(list.kind);
  const edit = useEditForm<Draft, ChecklistAnswer>({
    key: `checklist:${list.kind}`,
    now: { version: list.version, values: fieldsOf(list) },
    fresh: fieldsOf(list),
    valuesOf: fieldsOf,
    send: (body, version) => change({ kind: list.kind, version, body }).unwrap(),
    done: ({ kind }) => sayDone(`What is asked of a ${kind} is saved.`),
  });
  const { values, put } = edit;
  const box = (field: 'described' | 'owned' | 'findingsSettled' | 'lineageUp' | 'lineageDown', label: string) => (
    <Checkbox
      label={label}
      checked={values[field]}
      onChange={(event) => put({ [field]: event.currentTarget.checked })}
    />
  );
  return (
    <Frame
      title={`Before a ${list.kind} is trusted`}
      may={may}
      edit={edit}
      fields={{
        described: 'Described',
        owned: 'Owned',
        columnsDescribed: 'Share of columns described',
        findingsSettled: 'Findings settled',
        lineageUp: 'Lineage upstream',
        lineageDown: 'Lineage downstream',
        freshDays: 'Scanned within days',
      }}
      words="Save checklist"
      below={
        <>
          <h3 className="under">History</h3>
          <History entries={history.data ?? []} />
        </>
      }
    >
      {box('described', CHECK_ITEMS.described)}
      {box('owned', CHECK_ITEMS.owned)}
      {box('findingsSettled', CHECK_ITEMS['findings settled'])}
      {box('lineageUp', CHECK_ITEMS['lineage upstream'])}
      {box('lineageDown', CHECK_ITEMS['lineage downstream'])}
      <Checkbox
        label={CHECK_ITEMS['columns described']}
        checked={values.columnsDescribed !== null}
        onChange={(event) => put({ columnsDescribed: event.currentTarget.checked ? 0.8 : null })}
      />
      {values.columnsDescribed === null ? null : (
        <NumberField
          label="At least, in percent"
          min={1}
          max={100}
          suffix=" %"
          value={Math.round(values.columnsDescribed * 100)}
          put={(percent) => put({ columnsDescribed: percent / 100 })}
        />
      )}
      <Checkbox
        label={CHECK_ITEMS.fresh}
        checked={values.freshDays !== null}
        onChange={(event) => put({ freshDays: event.currentTarget.checked ? 7 : null })}
      />
      {values.freshDays === null ? null : (
        <NumberField
          label="At most so many days ago"
          min={1}
          max={3650}
          value={values.freshDays}
          put={(freshDays) => put({ freshDays })}
        />
      )}
      {list.trusted > 0 && edit.differs ? (
        <p className="notice calm" role="note">
          {plural(list.trusted, 'asset')} of this kind {list.trusted === 1 ? 'is' : 'are'} trusted: those that do not
          meet what is asked then are reviewed again within a minute, each with its reason.
        </p>
      ) : null}
      {may ? null : <p className="quiet small">Administrators of everything change it.</p>}
    </Frame>
  );
}
