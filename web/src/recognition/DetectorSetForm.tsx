import type { DetectorAnswer, DetectorSetAnswer, DetectorSetBody } from '@idrel/contract/recognition';
import { Button, Checkbox, Group, Select, Switch, Textarea, TextInput } from '@mantine/core';
import { Link } from 'react-router';
import { sayDone } from '../app/say.ts';
import { Frame, removing } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { plural } from '../marks/index.tsx';
import { NumberField } from '../marks/NumberField.tsx';
import { FileKinds } from '../scanning/index.ts';
import { useRemoveDetectorSetMutation, useSaveDetectorSetMutation } from './api.ts';
import { byTheme } from './byTheme.ts';

/** What looks when no set is chosen, as the start of a copy. */
export const ALL: DetectorSetBody = {
  name: 'All detectors',
  description: '',
  leavesOut: [],
  fileKinds: null,
  sampling: null,
};

/** Detectors that know the forms of one country, switched together. */
function Countries({
  detectors,
  looks,
  switchTo,
}: {
  detectors: readonly DetectorAnswer[];
  looks: (id: string) => boolean;
  switchTo: (ids: readonly string[], on: boolean) => void;
}) {
  const idsOf = (country: string) =>
    detectors.flatMap((detector) => (detector.country === country ? [detector.id] : []));
  const countries = [...new Set(detectors.flatMap((detector) => detector.country ?? []))].sort();
  const on = countries.filter((country) => idsOf(country).some(looks));
  return (
    <div role="group" aria-label="Countries">
      <Group mb={4}>
        <span className="strong">Countries</span>
        <span className="quiet small">
          {on.length} of {countries.length}; what belongs to none is not touched
        </span>
        <Button
          variant="subtle"
          size="compact-xs"
          onClick={() => switchTo(countries.flatMap(idsOf), on.length < countries.length)}
        >
          {on.length < countries.length ? 'All' : 'None'}
        </Button>
      </Group>
      <div className="chips">
        {countries.map((country) => (
          <button
            key={country}
            type="button"
            className={`chip${on.includes(country) ? ' on' : ''}`}
            aria-pressed={on.includes(country)}
            onClick={() => switchTo(idsOf(country), !on.includes(country))}
          >
            {country}
          </button>
        ))}
      </div>
    </div>
  );
}

interface SetFields {
  name: string;
  description: string;
  leavesOut: string[];
  fileKinds: DetectorSetBody['fileKinds'];
  sampling: DetectorSetBody['sampling'];
}
const fieldsOf = ({ name, description, leavesOut, fileKinds, sampling }: DetectorSetBody): SetFields => ({
  name,
  description,
  leavesOut: [...leavesOut],
  fileKinds,
  sampling,
});

/** What a set says; a new one, or a copy of another. */
export function SetForm({
  set,
  from,
  detectors,
  mayEdit,
  done,
}: {
  set: DetectorSetAnswer | undefined;
  from: DetectorSetBody | undefined;
  detectors: readonly DetectorAnswer[];
  mayEdit: boolean;
  done: (id: string | null) => void;
}) {
  const [save] = useSaveDetectorSetMutation();
  const [remove] = useRemoveDetectorSetMutation();
  const edit = useEditForm<SetFields, DetectorSetAnswer>({
    key: `detector-set:${set?.id ?? (from ? `copy of ${from.name}` : 'new')}`,
    now: set ? { version: set.version, values: fieldsOf(set) } : null,
    fresh: from ? { ...fieldsOf(from), name: `Copy of ${from.name}` } : { ...fieldsOf(ALL), name: '' },
    valuesOf: fieldsOf,
    send: (body, version) => save({ id: set?.id ?? null, version, body }).unwrap(),
    done: (saved) => {
      sayDone(`“${saved.name}” is saved: ${saved.detectors} of ${saved.all} detectors look.`);
      done(saved.id);
    },
  });
  const { form, values: draft, put } = edit;
  const looks = (id: string) => !draft.leavesOut.includes(id);
  const switchTo = (ids: readonly string[], on: boolean) =>
    put({
      leavesOut: on ? draft.leavesOut.filter((id) => !ids.includes(id)) : [...new Set([...draft.leavesOut, ...ids])],
    });
  const destroy = (gone: DetectorSetAnswer) =>
    removing(remove(gone.id).unwrap(), 'The set was not removed', () => {
      edit.discard();
      sayDone(`“${gone.name}” is removed.`, () => save({ id: null, version: 0, body: fieldsOf(gone) }));
      done(null);
    });
  return (
    <Frame
      title={set?.name ?? 'New detector set'}
      may={mayEdit}
      edit={edit}
      fields={{
        name: 'Name',
        description: 'What it is for',
        leavesOut: 'Leaves out',
        fileKinds: 'Kinds of files',
        sampling: 'Says how much is sampled',
      }}
      unchanged={from !== undefined}
      ready={draft.name.trim() !== ''}
      words="Save set"
      remove={set ? () => destroy(set) : undefined}
    >
      {set && mayEdit ? (
        <div>
          <Button variant="default" size="compact-sm" onClick={() => done(`copy:${set.id}`)}>
            Copy this set
          </Button>
        </div>
      ) : null}
      {set ? (
        <p className="quiet">
          {set.plans.length + set.plansElsewhere === 0 ? 'No plan uses it yet.' : 'Used by '}
          {set.plans.map((plan, index) => (
            <span key={plan.id}>
              {index > 0 ? ', ' : ''}
              <Link to={`/plans/${plan.id}?step=how`}>
                {plan.name} of {plan.source}
              </Link>
            </span>
          ))}
          {set.plansElsewhere > 0
            ? `${set.plans.length > 0 ? ' and ' : ''}${plural(set.plansElsewhere, 'plan')} of sources that you may not see`
            : ''}
        </p>
      ) : null}
      <TextInput label="Name" required {...form.getInputProps('name')} />
      <Textarea label="What it is for" minRows={2} {...form.getInputProps('description')} />
      <FileKinds
        label="Kinds of files"
        help={
          draft.fileKinds
            ? 'Plans that use the set read these alone'
            : 'As each plan says; leave one out, and plans that use the set read the others alone'
        }
        chosen={draft.fileKinds}
        choose={(fileKinds) => put({ fileKinds })}
      />
      <Switch
        label="Says how much is sampled"
        description={draft.sampling ? 'For every plan that uses it' : 'Each plan says so itself'}
        checked={draft.sampling !== null}
        onChange={(event) => put({ sampling: event.currentTarget.checked ? { rows: 500, method: 'random' } : null })}
      />
      {draft.sampling ? (
        <div className="fields">
          <NumberField
            label="Values read per column"
            description="10 to 10,000; more find rarer classes"
            min={10}
            max={10_000}
            step={100}
            value={draft.sampling.rows}
            put={(rows) => draft.sampling && put({ sampling: { ...draft.sampling, rows } })}
          />
          <Select
            label="Which rows"
            description="The first ones are read faster, and tell less"
            allowDeselect={false}
            value={draft.sampling.method}
            data={[
              { value: 'random', label: 'Random ones' },
              { value: 'first', label: 'The first' },
            ]}
            onChange={(method) =>
              draft.sampling &&
              put({ sampling: { ...draft.sampling, method: method === 'first' ? 'first' : 'random' } })
            }
          />
        </div>
      ) : null}
      <Countries detectors={detectors} looks={looks} switchTo={switchTo} />
      {byTheme(detectors).map(([theme, list]) => {
        const ids = list.map((detector) => detector.id);
        const on = ids.filter(looks).length;
        return (
          <div key={theme} role="group" aria-label={theme}>
            <Checkbox
              label={theme}
              fw={600}
              checked={on === ids.length}
              indeterminate={on > 0 && on < ids.length}
              onChange={(event) => switchTo(ids, event.currentTarget.checked)}
            />
            <div
              style={{
                display: 'grid',
                gridTemplateColumns: 'repeat(auto-fill, minmax(210px, 1fr))',
                gap: '4px 14px',
                padding: '6px 0 4px 28px',
              }}
            >
              {list.map((detector) => (
                <Checkbox
                  key={detector.id}
                  size="xs"
                  label={
                    list.some((other) => other !== detector && other.label === detector.label)
                      ? `${detector.label}: ${detector.id.split('.').at(-1)}`
                      : detector.label
                  }
                  checked={looks(detector.id)}
                  onChange={(event) => switchTo([detector.id], event.currentTarget.checked)}
                />
              ))}
            </div>
          </div>
        );
      })}
    </Frame>
  );
}
