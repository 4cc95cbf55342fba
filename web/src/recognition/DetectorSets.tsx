import type { DetectorAnswer, DetectorSetAnswer } from '@idrel/contract/recognition';
import { Button, Checkbox, Textarea, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { problemOf } from '../app/api.ts';
import { useDraft } from '../app/draft.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { plural } from '../marks/index.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useDetectorSetsQuery, useDetectorsQuery, useRemoveDetectorSetMutation, useSaveDetectorSetMutation } from './api.ts';
import { Choice, Frame, useMayAnywhere } from './Frame.tsx';

/** Detectors by theme, in the order of their list. */
export function byTheme<D extends Pick<DetectorAnswer, 'theme'>>(detectors: readonly D[]): [theme: string, detectors: D[]][] {
  const themes = new Map<string, D[]>();
  for (const detector of detectors) themes.set(detector.theme, [...(themes.get(detector.theme) ?? []), detector]);
  return [...themes];
}

/** Choices of detectors that plans share. */
export function DetectorSets({ chosen, choose }: { chosen: string | null; choose: (set: string | null) => void }) {
  const sets = useDetectorSetsQuery();
  const detectors = useDetectorsQuery();
  const mayEdit = useMayAnywhere('steward', 'source administrator');
  if (sets.error || detectors.error) return <Trouble error={sets.error ?? detectors.error} what="The detector sets cannot be shown" />;
  if (!sets.data || !detectors.data) return <Coming />;
  const set = sets.data.find((entry) => entry.id === chosen);
  return (
    <div style={{ display: 'grid', gridTemplateColumns: '300px minmax(0, 1fr)', gap: 32, alignItems: 'start' }}>
      <div>
        <div className="row" style={{ marginBottom: 6 }}>
          <h2 className="grow">Detector sets</h2>
          {mayEdit ? <Button onClick={() => choose('new')}>New set</Button> : null}
        </div>
        <ul className="tree" aria-label="Detector sets" style={{ margin: 0, padding: 0 }}>
          <li className="node" style={{ cursor: 'default' }}>
            <span className="grow">All detectors</span>
            <span className="quiet small">unless a plan says otherwise</span>
          </li>
          {sets.data.map((entry) => (
            <Choice key={entry.id} chosen={entry.id === chosen} choose={() => choose(entry.id)}>
              <span className="grow cut">{entry.name}</span>
              <span className="quiet small">
                {entry.detectors} of {entry.all}
              </span>
            </Choice>
          ))}
        </ul>
      </div>
      {chosen === 'new' || set ? (
        <SetForm key={set ? `${set.id}:${set.version}` : 'new'} set={set} detectors={detectors.data} mayEdit={mayEdit} done={choose} />
      ) : (
        <Empty title="One choice for many plans">
          <p>
            A detector set says which detectors look, whatever the kind of source: choose it in a scan plan under How. What it leaves out is named; detectors that come with later versions look as
            well.
          </p>
        </Empty>
      )}
    </div>
  );
}

/** Detectors that know the forms of one country, switched together. */
function Countries({ detectors, looks, switchTo }: { detectors: readonly DetectorAnswer[]; looks: (id: string) => boolean; switchTo: (ids: readonly string[], on: boolean) => void }) {
  const idsOf = (country: string) => detectors.flatMap((detector) => (detector.country === country ? [detector.id] : []));
  const countries = [...new Set(detectors.flatMap((detector) => detector.country ?? []))].sort();
  const on = countries.filter((country) => idsOf(country).some(looks));
  return (
    <div role="group" aria-label="Countries">
      <div className="row" style={{ marginBottom: 4 }}>
        <span style={{ fontWeight: 600 }}>Countries</span>
        <span className="quiet small">
          {on.length} of {countries.length}; what belongs to none is not touched
        </span>
        <Button variant="subtle" size="compact-xs" onClick={() => switchTo(countries.flatMap(idsOf), on.length < countries.length)}>
          {on.length < countries.length ? 'All' : 'None'}
        </Button>
      </div>
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

function SetForm({ set, detectors, mayEdit, done }: { set: DetectorSetAnswer | undefined; detectors: readonly DetectorAnswer[]; mayEdit: boolean; done: (id: string | null) => void }) {
  const { draft, put, differs, settle } = useDraft(`detector-set:${set?.id ?? 'new'}`, { name: set?.name ?? '', description: set?.description ?? '', leavesOut: [...(set?.leavesOut ?? [])] });
  const [save, saving] = useSaveDetectorSetMutation();
  const [remove] = useRemoveDetectorSetMutation();
  const [problem, setProblem] = useState<ReturnType<typeof problemOf> | null>(null);
  const looks = (id: string) => !draft.leavesOut.includes(id);
  const switchTo = (ids: readonly string[], on: boolean) => put({ leavesOut: on ? draft.leavesOut.filter((id) => !ids.includes(id)) : [...new Set([...draft.leavesOut, ...ids])] });
  const keep = async (version = set?.version ?? 0) => {
    try {
      const saved = await save({ id: set?.id ?? null, version, body: draft }).unwrap();
      settle();
      sayDone(`“${saved.name}” is saved: ${saved.detectors} of ${saved.all} detectors look.`);
      done(saved.id);
    } catch (error) {
      setProblem(problemOf(error));
    }
  };
  const destroy = () =>
    set &&
    remove(set.id)
      .unwrap()
      .then(
        () => {
          settle();
          const { name, description, leavesOut } = set;
          sayDone(`“${name}” is removed.`, () => void save({ id: null, version: 0, body: { name, description, leavesOut } }));
          done(null);
        },
        (error: unknown) => sayProblem(error, 'The set was not removed'),
      );
  return (
    <Frame
      title={set?.name ?? 'New detector set'}
      may={mayEdit}
      problem={problem}
      save={(version) => void keep(version)}
      saving={saving.isLoading}
      ready={differs && draft.name.trim() !== ''}
      words="Save set"
      remove={set ? () => void destroy() : undefined}
    >
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
          {set.plansElsewhere > 0 ? `${set.plans.length > 0 ? ' and ' : ''}${plural(set.plansElsewhere, 'plan')} of sources that you may not see` : ''}
        </p>
      ) : null}
      <TextInput label="Name" required value={draft.name} onChange={(event) => put({ name: event.currentTarget.value })} />
      <Textarea label="What it is for" minRows={2} value={draft.description} onChange={(event) => put({ description: event.currentTarget.value })} />
      <Countries detectors={detectors} looks={looks} switchTo={switchTo} />
      {byTheme(detectors).map(([theme, list]) => {
        const ids = list.map((detector) => detector.id);
        const on = ids.filter(looks).length;
        return (
          <div key={theme} role="group" aria-label={theme}>
            <Checkbox label={theme} fw={600} checked={on === ids.length} indeterminate={on > 0 && on < ids.length} onChange={(event) => switchTo(ids, event.currentTarget.checked)} />
            <div style={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(210px, 1fr))', gap: '4px 14px', padding: '6px 0 4px 28px' }}>
              {list.map((detector) => (
                <Checkbox
                  key={detector.id}
                  size="xs"
                  label={list.some((other) => other !== detector && other.label === detector.label) ? `${detector.label}: ${detector.id.split('.').at(-1)}` : detector.label}
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
