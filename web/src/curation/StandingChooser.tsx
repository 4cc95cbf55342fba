import type { AssetAnswer } from '@idrel/contract/catalog';
import { CHECK_ITEMS, STANDINGS, type Standing } from '@idrel/core/catalog';
import { Select, Stack, TextInput } from '@mantine/core';
import dayjs from 'dayjs';
import { useState } from 'react';
import { Link } from 'react-router';
import { useAssetsQuery } from '../catalog/index.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { Framed } from '../forms/Framed.tsx';
import { StandingMark, When } from '../marks/index.tsx';
import { useStandingQuery } from './standingApi.ts';
import { Unsaved } from './Unsaved.tsx';
import { useAssetForm } from './useAssetForm.ts';

const day = (date: string) => dayjs(date).format('D MMM YYYY');

/** How far an asset can be relied on: what is asked before it is trusted, who certified it until when, what takes the place of one that is retiring. */
export function StandingChooser({ asset }: { asset: AssetAnswer }) {
  const { data } = useStandingQuery(asset.id);
  const [asking, setAsking] = useState<'trusted' | 'retiring' | null>(null);
  const edit = useAssetForm(
    asset,
    'standing',
    (now) => ({ standing: now.standing }),
    () => setAsking(null),
  );
  const choose = (standing: Standing) => {
    if (standing === 'trusted' || standing === 'retiring') setAsking(standing);
    else {
      setAsking(null);
      void edit.save({ standing });
    }
  };
  return (
    <Stack gap={6}>
      {asset.mayCertify ? (
        <>
          <Select
            aria-label="Standing"
            data={[...STANDINGS]}
            value={asking ?? edit.values.standing}
            allowDeselect={false}
            onChange={(chosen) => chosen && choose(chosen as Standing)}
          />
          <FormNotice edit={edit} words={{ standing: 'Standing' }} />
          {asking ? null : <Unsaved edit={edit} />}
        </>
      ) : (
        <StandingMark standing={asset.standing} />
      )}
      {asking === 'trusted' ? <Certify asset={asset} close={() => setAsking(null)} /> : null}
      {asking === 'retiring' ? <Retire asset={asset} close={() => setAsking(null)} /> : null}
      {data?.certified && !asking ? (
        <span className="small quiet">
          certified{data.certified.by ? ` by ${data.certified.by}` : ''} <When at={data.certified.at} />
          {data.certified.until ? `, until ${day(data.certified.until)}` : ''}
          {asset.mayCertify ? (
            <>
              {' · '}
              <button type="button" className="linkish" onClick={() => setAsking('trusted')}>
                Certify anew
              </button>
            </>
          ) : null}
        </span>
      ) : null}
      {data?.lapsed && !asking ? (
        <span className="small">
          No longer trusted since <When at={data.lapsed.at} />: open is {data.lapsed.reason}.
        </span>
      ) : null}
      {data?.retirement && !asking ? (
        <span className="small">
          {data.retirement.on ? `Goes on ${day(data.retirement.on)}. ` : ''}
          {data.retirement.replacement ? (
            <>
              Use <Link to={`/assets/${data.retirement.replacement.id}`}>{data.retirement.replacement.path}</Link>{' '}
              instead.
            </>
          ) : null}
        </span>
      ) : null}
    </Stack>
  );
}

/** What is asked before an asset is trusted, with how far it is and who could do it; certified until a day, if need be. */
function Certify({ asset, close }: { asset: AssetAnswer; close: () => void }) {
  const { data } = useStandingQuery(asset.id);
  const edit = useAssetForm(
    asset,
    'certify',
    (now): { standing: Standing; certifiedUntil: string | null } => ({
      standing: now.standing,
      certifiedUntil: data?.certified?.until ?? null,
    }),
    close,
  );
  const items = data?.items ?? [];
  const open = items.filter(({ met }) => !met);
  return (
    <Framed
      label="Certify"
      edit={edit}
      fields={{ certifiedUntil: 'Until' }}
      words="Certify"
      also={{ standing: 'trusted' }}
      ready={open.length === 0}
      close={close}
    >
      {items.length === 0 ? <p className="quiet small">Nothing is asked of a {asset.kind}.</p> : null}
      <ul className="flat" aria-label="What is asked">
        {items.map(({ item, met, told }) => (
          <li key={item} className="line">
            <span aria-hidden="true">{met ? '✓' : '–'}</span> {CHECK_ITEMS[item]}
            <span className="hidden-visually">{met ? ': yes' : ': not yet'}</span>
            {told ? <span className="quiet small"> {told}</span> : null}
          </li>
        ))}
      </ul>
      {open.length > 0 && data && data.who.length > 0 ? (
        <p className="quiet small">
          Could be done by {data.who.map(({ person, as }) => `${person.name} (${as})`).join(', ')}.
        </p>
      ) : null}
      <TextInput
        label="Until"
        description="Without a day: until something is not so any more"
        type="date"
        value={edit.values.certifiedUntil ?? ''}
        onChange={(event) => edit.put({ certifiedUntil: event.currentTarget.value || null })}
      />
    </Framed>
  );
}

/** What takes the place of an asset, and when it goes. */
function Retire({ asset, close }: { asset: AssetAnswer; close: () => void }) {
  const { data } = useStandingQuery(asset.id);
  const [search, setSearch] = useState(data?.retirement?.replacement?.path ?? '');
  const edit = useAssetForm(
    asset,
    'retire',
    (now): { standing: Standing; replacementId: string | null; retiresOn: string | null } => ({
      standing: now.standing,
      replacementId: data?.retirement?.replacement?.id ?? null,
      retiresOn: data?.retirement?.on ?? null,
    }),
    close,
  );
  const found = useAssetsQuery(
    { filter: `kind:"${asset.kind}" ${JSON.stringify(search).slice(1, -1)}`, limit: 20 },
    { skip: search.trim().length < 2 },
  );
  const known = data?.retirement?.replacement;
  const options = new Map(
    [...(known ? [known] : []), ...(found.data?.items ?? [])]
      .filter(({ id }) => id !== asset.id)
      .map(({ id, path }) => [id, path]),
  );
  return (
    <Framed
      label="Retire"
      edit={edit}
      fields={{ replacementId: 'Instead', retiresOn: 'Goes on' }}
      words="Retire it"
      also={{ standing: 'retiring' }}
      close={close}
    >
      <Select
        label="Instead"
        description="What takes its place"
        searchable
        clearable
        clearButtonProps={{ 'aria-label': 'Nothing instead' }}
        data={[...options].map(([value, label]) => ({ value, label }))}
        value={edit.values.replacementId}
        searchValue={search}
        onSearchChange={setSearch}
        onChange={(replacementId) => edit.put({ replacementId })}
        filter={({ options: all }) => all}
        nothingFoundMessage={search.trim().length < 2 ? 'Write the beginning of its name' : 'Nothing of that name'}
        error={edit.form.errors.replacementId}
      />
      <TextInput
        label="Goes on"
        type="date"
        value={edit.values.retiresOn ?? ''}
        onChange={(event) => edit.put({ retiresOn: event.currentTarget.value || null })}
        error={edit.form.errors.retiresOn}
      />
    </Framed>
  );
}

/** Where each thing that is asked can be done, on the asset's own page. */
const STEPS: Record<keyof typeof CHECK_ITEMS, string> = {
  described: '#meaning',
  owned: '#facts',
  'columns described': '#columns',
  'findings settled': '#findings',
  'lineage upstream': '#lineage',
  'lineage downstream': '#lineage',
  fresh: '#history',
};

/** What is missing before an asset can be trusted, in a line: each leads to where it is done. */
export function Missing({ asset }: { asset: AssetAnswer }) {
  const { data } = useStandingQuery(asset.id);
  const open = (data?.items ?? []).filter(({ met }) => !met);
  if (open.length === 0 || asset.gone || asset.standing === 'retiring') return null;
  return (
    <p className="small missing">
      <span className="quiet">Open before it is trusted: </span>
      {open.map(({ item, told }, at) => (
        <span key={item}>
          {at > 0 ? ' · ' : ''}
          <a href={STEPS[item]}>{item === 'columns described' ? `columns described, ${told}` : item}</a>
        </span>
      ))}
    </p>
  );
}
