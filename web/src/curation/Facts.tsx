import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange } from '@idrel/contract/curation';
import { MultiSelect, Select } from '@mantine/core';
import { usePeopleQuery } from '../catalog/api.ts';
import { useTermsQuery } from '../glossary/api.ts';
import { Level, StandingMark } from '../marks/index.tsx';

type Save = (change: AssetChange, undo?: AssetChange) => Promise<boolean>;
const STANDINGS = ['unreviewed', 'reviewed', 'trusted', 'retiring'];

/** People, terms, standing and level of an asset, each changed where it stands. */
export function Facts({ asset, save }: { asset: AssetAnswer; save: Save }) {
  const people = usePeopleQuery();
  const terms = useTermsQuery();
  const options = (people.data ?? []).map((person) => ({ value: person.id, label: person.name }));
  const ids = (list: readonly { id: string }[]) => list.map((entry) => entry.id);
  const chooser = (label: string, key: 'ownerIds' | 'stewardIds' | 'termIds', now: readonly { id: string; name: string }[], data: { value: string; label: string }[]) => (
    <div className="field">
      <span className="label">{label}</span>
      {asset.mayEdit ? (
        <MultiSelect aria-label={label} data={data} value={ids(now)} searchable hidePickedOptions placeholder={now.length === 0 ? 'nobody yet'.replace('nobody', key === 'termIds' ? 'none' : 'nobody') : ''} nothingFoundMessage="Nothing of that name" onChange={(value) => void save({ [key]: value }, { [key]: ids(now) })} />
      ) : <span>{now.map((entry) => entry.name).join(', ') || <span className="quiet">none</span>}</span>}
    </div>
  );
  return (
    <div>
      {chooser(asset.owners.length === 1 ? 'Owner' : 'Owners', 'ownerIds', asset.owners, options)}
      {chooser('Stewards', 'stewardIds', asset.stewards, options)}
      {chooser('Terms', 'termIds', asset.terms, (terms.data ?? []).map((term) => ({ value: term.id, label: term.name })))}
      <div className="field">
        <span className="label">Standing</span>
        {asset.mayCertify ? <Select aria-label="Standing" data={STANDINGS} value={asset.standing} allowDeselect={false} onChange={(standing) => standing && void save({ standing }, { standing: asset.standing })} /> : <StandingMark standing={asset.standing} />}
      </div>
      <div className="field"><span className="label">Level</span><span><Level level={asset.level} />{asset.levelReason ? <div className="small quiet">set by hand: {asset.levelReason}</div> : asset.levelFound ? <div className="small quiet">follows from its data classes</div> : null}</span></div>
    </div>
  );
}
