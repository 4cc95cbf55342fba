import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange } from '@idrel/contract/curation';
import { MultiSelect, Select } from '@mantine/core';
import { useState } from 'react';
import { usePeopleQuery } from '../catalog/api.ts';
import { useTermsQuery } from '../glossary/api.ts';
import { ClassChips, StandingMark } from '../marks/index.tsx';
import { LevelChooser } from './LevelChooser.tsx';

type Save = (change: AssetChange, undo?: AssetChange) => Promise<boolean>;
const STANDINGS = ['unreviewed', 'reviewed', 'trusted', 'retiring'];

/** What is said of an asset beside its description: people, terms, standing, level, each changed where it stands; classes and type. */
export function Facts({ asset, save }: { asset: AssetAnswer; save: Save }) {
  const people = usePeopleQuery();
  const terms = useTermsQuery();
  const options = (people.data ?? []).map((person) => ({ value: person.id, label: person.name }));
  const ids = (list: readonly { id: string }[]) => list.map((entry) => entry.id);
  const chooser = (label: string, key: 'ownerIds' | 'stewardIds' | 'termIds', now: readonly { id: string; name: string }[], data: { value: string; label: string }[]) => (
    <div className="field">
      <span className="label">{label}</span>
      <Chooser label={label} now={now} data={data} mayEdit={asset.mayEdit} choose={(value) => save({ [key]: value }, { [key]: ids(now) })} />
    </div>
  );
  return (
    <div>
      {chooser('Owners', 'ownerIds', asset.owners, options)}
      {chooser('Stewards', 'stewardIds', asset.stewards, options)}
      {chooser(
        'Terms',
        'termIds',
        asset.terms,
        (terms.data ?? []).map((term) => ({ value: term.id, label: term.name })),
      )}
      <div className="field">
        <span className="label">Standing</span>
        {asset.mayCertify ? (
          <Select aria-label="Standing" data={STANDINGS} value={asset.standing} allowDeselect={false} onChange={(standing) => standing && void save({ standing }, { standing: asset.standing })} />
        ) : (
          <StandingMark standing={asset.standing} />
        )}
      </div>
      <div className="field">
        <span className="label">Level</span>
        <LevelChooser key={`${asset.id}:${asset.version}`} asset={asset} save={save} />
      </div>
      {asset.classes.length > 0 ? (
        <div className="field">
          <span className="label">Classes</span>
          <ClassChips classes={asset.classes} most={8} />
        </div>
      ) : null}
      {asset.type ? (
        <div className="field">
          <span className="label">{asset.native.returns ? 'Gives back' : 'Type'}</span>
          <span className="mono">
            {asset.type}
            {asset.native.nullable === false ? ', not null' : ''}
          </span>
        </div>
      ) : null}
    </div>
  );
}

/** A list of names that becomes a field when it is pressed, and a text again when it is left; what was chosen is saved then. */
function Chooser({
  label,
  now,
  data,
  mayEdit,
  choose,
}: {
  label: string;
  now: readonly { id: string; name: string }[];
  data: { value: string; label: string }[];
  mayEdit: boolean;
  choose: (ids: string[]) => Promise<boolean>;
}) {
  const [chosen, setChosen] = useState<string[] | null>(null);
  const text = now.map((entry) => entry.name).join(', ');
  if (!mayEdit) return <span>{text || <span className="quiet">none</span>}</span>;
  if (chosen === null)
    return (
      <button type="button" className="editable" aria-label={`Edit ${label}`} onClick={() => setChosen(now.map((entry) => entry.id))}>
        {text || <span className="quiet">none yet</span>}
      </button>
    );
  const leave = () => {
    const before = now.map((entry) => entry.id);
    setChosen(null);
    if (before.join() !== chosen.join()) void choose(chosen);
  };
  return (
    <MultiSelect
      aria-label={label}
      data={data}
      value={chosen}
      onChange={setChosen}
      searchable
      hidePickedOptions
      autoFocus
      defaultDropdownOpened
      onBlur={leave}
      onKeyDown={(event) => {
        if (event.key === 'Escape') setChosen(null);
      }}
      nothingFoundMessage="Nothing of that name"
    />
  );
}
