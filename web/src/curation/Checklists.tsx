import type { ChecklistAnswer } from '@idrel/contract/curation';
import { CHECK_ITEMS, type Checklist } from '@idrel/core/catalog';
import { Checkbox } from '@mantine/core';
import { useSearchParams } from 'react-router';
import { useSessionQuery } from '../app/api.ts';
import { sayDone } from '../app/say.ts';
import { Frame } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { ChooseFrom } from '../marks/ChooseFrom.tsx';
import { KindMark, plural } from '../marks/index.tsx';
import { Choice, Pane, Panes } from '../marks/layout.tsx';
import { NumberField } from '../marks/NumberField.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useChangeChecklistMutation, useChecklistsQuery } from './standingApi.ts';

/** What is asked of assets of each kind before they are trusted. */
export function Component() {
  const [params, setParams] = useSearchParams();
  const chosen = params.get('kind');
  const search = params.get('search') ?? '';
  const { data, error, refetch } = useChecklistsQuery();
  const session = useSessionQuery();
  const may = session.data?.grants.some(({ role, domain }) => role === 'administrator' && domain === null) ?? false;
  useCrumbs({ text: 'Settings', to: '/settings' }, { text: 'Checklists', to: '/settings/checklists' });
  if (error) return <Trouble error={error} what="The checklists cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const list = data.find(({ kind }) => kind === chosen);
  return (
    <Panes first="300px">
      <ChooseFrom
        title="Checklists"
        make={null}
        label="kinds"
        search={search}
        setSearch={(text) =>
          setParams({ ...(chosen ? { kind: chosen } : {}), ...(text ? { search: text } : {}) }, { replace: true })
        }
      >
        {data
          .filter(({ kind }) => kind.includes(search.toLowerCase()))
          .map((entry) => (
            <Choice
              key={entry.kind}
              chosen={entry.kind === chosen}
              choose={() => setParams({ kind: entry.kind, ...(search ? { search } : {}) }, { replace: true })}
            >
              <KindMark kind={entry.kind} />
              <span className="grow cut">{entry.kind}</span>
              <span className="quiet small">{askedOf(entry) || 'nothing'}</span>
            </Choice>
          ))}
      </ChooseFrom>
      <Pane as="one">
        {list ? (
          <ChecklistForm key={list.kind} list={list} may={may} />
        ) : (
          <Empty title="Choose a kind of asset">
            <p>
              Before an asset is trusted, all must be so that is asked of its kind. What was certified and is not so any
              more is reviewed again, with the reason, and stands on the worklist.
            </p>
          </Empty>
        )}
      </Pane>
    </Panes>
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
