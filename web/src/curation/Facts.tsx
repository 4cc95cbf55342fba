import type { AssetAnswer } from '@idrel/contract/catalog';
import { Button, MultiSelect, Stack } from '@mantine/core';
import { Fragment, useState } from 'react';
import { Link } from 'react-router';
import { useSessionQuery } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { useKnowAssetMutation } from '../catalog/index.ts';
import { type FieldWords, FormNotice } from '../forms/FormNotice.tsx';
import { TermsChooser } from '../glossary/index.ts';
import { Editable } from '../marks/Editable.tsx';
import { useOwnerChoices, usePeopleQuery } from '../people/index.ts';
import { Arrivals, ClassChips } from '../recognition/index.ts';
import { ArrivedTags } from './ArrivedTags.tsx';
import { DomainOf } from './DomainOf.tsx';
import { LevelChooser } from './LevelChooser.tsx';
import { PriorityChooser } from './PriorityChooser.tsx';
import { StandingChooser } from './StandingChooser.tsx';
import { TagChooser } from './TagChooser.tsx';
import { Unsaved } from './Unsaved.tsx';
import { useAssetForm } from './useAssetForm.ts';

const idsOf = (list: readonly { id: string }[]) => list.map((entry) => entry.id);
const LISTS = {
  ownerIds: ['Owner', (asset: AssetAnswer) => asset.owners],
  stewardIds: ['Stewards', (asset: AssetAnswer) => asset.stewards],
  custodianIds: ['Custodians', (asset: AssetAnswer) => asset.custodians],
  termIds: ['Terms', (asset: AssetAnswer) => asset.terms],
} as const;

/** What is said of an asset beside its description: people, terms, standing, level, each changed where it stands; classes and type. Give it the asset's id as its key. */
export function Facts({ asset }: { asset: AssetAnswer }) {
  const people = usePeopleQuery();
  const owners = useOwnerChoices();
  const options = (list: readonly { id: string; name: string }[] | undefined) =>
    (list ?? []).map((entry) => ({ value: entry.id, label: entry.name }));
  return (
    <div>
      {(Object.keys(LISTS) as (keyof typeof LISTS)[]).map((list) => (
        <Fragment key={list}>
          {list === 'termIds' ? <Experts asset={asset} /> : null}
          <div className="field">
            <span className="label">{LISTS[list][0]}</span>
            <div>
              <Chooser
                list={list}
                asset={asset}
                data={list === 'ownerIds' ? owners : options(list === 'termIds' ? asset.terms : people.data)}
              />
              {list === 'ownerIds' && asset.inherited ? <Inherited of={asset.inherited} /> : null}
            </div>
          </div>
        </Fragment>
      ))}
      <div className="field">
        <span className="label">Domain</span>
        <DomainOf key={`domain:${asset.id}`} asset={asset} />
      </div>
      <div className="field">
        <span className="label">Tags</span>
        <div>
          <TagChooser asset={asset} />
          <ArrivedTags asset={asset} />
        </div>
      </div>
      <div className="field">
        <span className="label">Standing</span>
        <StandingChooser key={`standing:${asset.id}`} asset={asset} />
      </div>
      <div className="field">
        <span className="label">Level</span>
        <LevelChooser asset={asset} />
      </div>
      <div className="field">
        <span className="label">Priority</span>
        <PriorityChooser asset={asset} />
      </div>
      {asset.classes.length > 0 ? (
        <div className="field">
          <span className="label">Classes</span>
          <div>
            <ClassChips classes={asset.classes} most={8} />
            <Arrivals id={asset.id} />
          </div>
        </div>
      ) : (
        <Arrivals id={asset.id} label="Classes" />
      )}
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

/** Who says of themselves that they know an asset; whoever reads it may say so, too. */
function Experts({ asset }: { asset: AssetAnswer }) {
  const me = useSessionQuery().data?.person;
  const [know, saying] = useKnowAssetMutation();
  const knows = asset.experts.some(({ id }) => id === me?.id);
  const say = (now: boolean): Promise<void> =>
    know({ id: asset.id, knows: now })
      .unwrap()
      .then(
        () => sayDone(now ? 'You stand here as somebody who knows it.' : 'You stand here no longer.', () => say(!now)),
        (error: unknown) => sayProblem(error, 'It was not said'),
      );
  return (
    <div className="field">
      <span className="label">Experts</span>
      <div>
        {asset.experts.length > 0 ? (
          asset.experts.map(({ name }) => name).join(', ')
        ) : (
          <span className="quiet">none yet</span>
        )}
        <div>
          <Button variant="subtle" size="compact-xs" disabled={saying.isLoading} onClick={() => void say(!knows)}>
            {knows ? 'I know it no longer' : 'I know it'}
          </Button>
        </div>
      </div>
    </div>
  );
}

/** Who answers for an asset until it has an owner of its own, and why. */
function Inherited({ of: { owners, from } }: { of: NonNullable<AssetAnswer['inherited']> }) {
  return (
    <p className="quiet small">
      until then {owners.map(({ name }) => name).join(', ')}, by the {from.kind}{' '}
      <Link to={from.kind === 'domain' ? `/settings/domains?domain=${from.id}` : `/assets/${from.id}`}>
        {from.name}
      </Link>
    </p>
  );
}

/** A list of names that becomes a field when it is pressed, and a text again when it is left; what was chosen is saved then. */
function Chooser({
  list,
  asset,
  data,
}: {
  list: keyof typeof LISTS;
  asset: AssetAnswer;
  data: { value: string; label: string }[];
}) {
  const [label, of] = LISTS[list];
  const [open, setOpen] = useState(false);
  const edit = useAssetForm(
    asset,
    list,
    (now) => ({ [list]: idsOf(of(now)) }) as Record<typeof list, string[]>,
    () => setOpen(false),
  );
  const chosen = edit.values[list];
  const text = of(asset)
    .map((entry) => entry.name)
    .join(', ');
  if (!asset.mayEdit) return <span>{text || <span className="quiet">none</span>}</span>;
  if (!open && !edit.differs)
    return (
      <Editable label={label} onOpen={() => setOpen(true)}>
        {text || <span className="quiet">none yet</span>}
      </Editable>
    );
  // One answers for it: whoever is chosen takes the place of who did.
  const put = (ids: string[]) =>
    edit.put({ [list]: list === 'ownerIds' ? ids.slice(-1) : ids } as Record<typeof list, string[]>);
  const field = {
    'aria-label': label,
    error: edit.form.errors[list],
    autoFocus: open,
    defaultDropdownOpened: open,
    onBlur: () => {
      // What cannot be saved at once keeps its field, with buttons of its own.
      setOpen(false);
      if (edit.differs && edit.clashes.length === 0 && !edit.saving) void edit.save();
    },
    onKeyDown: (event: React.KeyboardEvent) => {
      if (event.key !== 'Escape') return;
      edit.discard();
      setOpen(false);
    },
  };
  const names = (ids: unknown) =>
    (ids as string[]).map((id) => data.find((entry) => entry.value === id)?.label ?? id).join(', ') || undefined;
  return (
    <Stack>
      {list === 'termIds' ? (
        <TermsChooser {...field} known={asset.terms} value={chosen} put={put} />
      ) : (
        <MultiSelect
          {...field}
          data={data}
          value={chosen}
          onChange={put}
          searchable
          hidePickedOptions
          nothingFoundMessage="Nothing of that name"
        />
      )}
      <FormNotice edit={edit} words={{ [list]: [label, names] } as FieldWords<Record<typeof list, string[]>>} />
      {open ? null : <Unsaved edit={edit} />}
    </Stack>
  );
}
