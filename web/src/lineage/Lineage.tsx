import '@xyflow/react/dist/style.css';
import type { KeptView } from '@idrel/contract/lineage';
import { ROWS, without } from '@idrel/core/lineage/leftOut';
import { Button, Group } from '@mantine/core';
import { ReactFlowProvider } from '@xyflow/react';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import { useAddress } from '../app/address.ts';
import { useKeys } from '../app/keys.tsx';
import { useAssetQuery } from '../catalog/index.ts';
import { plural } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { AsOf, pastOf, Then } from './AsOf.tsx';
import { useFittingQuery, useKeptViewQuery } from './api.ts';
import { Canvas } from './Canvas.tsx';
import { Choose } from './Choose.tsx';
import { type FoldBy, foldByOf, groupAt } from './folding.ts';
import { ImpactList } from './ImpactList.tsx';
import { KeepView, KeptViews } from './KeptViews.tsx';
import { Shown, type WhatIsShown } from './Shown.tsx';
import { useColumns, usePicture, withColumns } from './usePicture.ts';
import { usePlaces } from './usePlaces.ts';

/** Lineage: the canvas fills the page; the impact list is a drawer. */
export function Component() {
  const [params] = useSearchParams();
  const focus = params.get('focus');
  const view = params.get('view');
  return view ? (
    <Kept key={view} id={view} />
  ) : focus ? (
    <ReactFlowProvider>
      <Around focus={focus} view={undefined} />
    </ReactFlowProvider>
  ) : (
    <Choose />
  );
}

/** A picture that was kept: its address says which, and what was changed since it was opened. */
function Kept({ id }: { id: string }) {
  const [params, put] = useAddress();
  const { data, error, refetch } = useKeptViewQuery(id);
  const focus = params.get('focus');
  useEffect(() => {
    if (data && focus === null) put({ focus: data.focus.id, ...addressOf(data.shows) });
  }, [data, focus, put]);
  if (error) return <Trouble error={error} what="The picture cannot be shown" again={() => void refetch()} />;
  if (!data || focus === null) return <Coming />;
  return (
    <ReactFlowProvider>
      <Around focus={focus} view={data} />
    </ReactFlowProvider>
  );
}

/** What of a kept picture the address says. */
const addressOf = (shows: KeptView['shows']): Record<string, string | null> => ({
  up: String(shows.upstream),
  down: String(shows.downstream),
  column: shows.column,
  day: shows.at,
  than: shows.before,
  rows: shows.rows ? null : 'no',
  fold: shows.fold,
  hide: shows.hidden.join(',') || null,
  mark: shows.mark || null,
  only: shows.only ? 'yes' : null,
});

/** What of a picture is shown, as the address says. */
function shownOf(params: URLSearchParams): WhatIsShown {
  const hidden = new Set((params.get('hide') ?? '').split(',').filter(Boolean));
  if (params.get('rows') === 'no') hidden.add(ROWS);
  return {
    fold: foldByOf(params.get('fold')),
    hidden,
    mark: params.get('mark') ?? '',
    only: params.get('only') === 'yes',
  };
}

/** Of a picture that is told between tables: of which the columns are looked at. */
function* columnsWanted(
  unfoldings: ReadonlyMap<string, boolean>,
  focus: string,
  open: string | null,
): Iterable<string> {
  if (unfoldings.get(focus) !== false) yield focus;
  for (const [id, on] of unfoldings) if (on && id !== focus) yield id;
  if (open !== null && open !== focus && unfoldings.get(open) !== true) yield open;
}

function Around({ focus, view }: { focus: string; view: KeptView | undefined }) {
  const [params, put] = useAddress();
  const [up, down] = [Number(params.get('up') ?? 3), Number(params.get('down') ?? 3)];
  const past = pastOf(params);
  const asset = useAssetQuery(focus);
  const column = params.get('column') ?? (asset.data?.kind === 'column' ? focus : null);
  const picture = usePicture({ focus, upstream: up, downstream: down, ...past.asked }, column);
  const data = picture.answer;
  const places = usePlaces(view?.shows);
  useCrumbs(
    { text: 'Lineage', to: '/lineage' },
    { text: asset.data?.path ?? '…', ...(view ? { to: `/lineage?focus=${focus}` } : {}) },
    ...(view ? [{ text: view.name }] : []),
  );
  useKeys('Lineage', [
    { key: 'i', what: 'impact list', act: () => put({ list: params.get('list') ? null : 'downstream' }) },
    { key: 'Escape', what: 'follow no column', act: () => put({ column: null, list: null }) },
    { key: '[', what: 'one step more upstream', act: () => put({ up: String(Math.min(20, up + 1)) }) },
    { key: ']', what: 'one step more downstream', act: () => put({ down: String(Math.min(20, down + 1)) }) },
    { key: 'u', what: 'undo the last move in the picture', act: () => places.undo?.() },
  ]);
  const follow = useCallback((id: string) => put({ column: id === column ? null : id }), [put, column]);
  const setDetails = useCallback((id: string | null) => put({ at: id }), [put]);
  const [tools, setTools] = useState<HTMLElement | null>(null);
  const [keeping, setKeeping] = useState<{ about: KeptView | undefined } | null>(null);
  const what = shownOf(params);
  const ids = useMemo(() => (data ? [...data.nodes, ...data.flows].map(({ id }) => id) : []), [data]);
  const fits = useFittingQuery({ ids, filter: what.mark }, { skip: what.mark === '' || ids.length === 0 });
  const marked = useMemo(
    () => (what.mark !== '' && fits.currentData ? new Set(fits.currentData) : null),
    [what.mark, fits.currentData],
  );
  const looked = asset.data?.kind === 'column' ? (asset.data.parentId ?? focus) : focus;
  const hidden = [...what.hidden].sort().join();
  /** Which tables are unfolded, and which not, where somebody said so. */
  const [unfoldings, setUnfoldings] = useState<ReadonlyMap<string, boolean>>(new Map());
  const unfold = useCallback((id: string, on: boolean) => setUnfoldings((before) => new Map(before).set(id, on)), []);
  const at = params.get('at');
  const columns = useColumns(data, [...columnsWanted(unfoldings, looked, at)], past.asked);
  // One answer stays one: what is laid out anew moves under the eyes.
  const whole = useMemo(
    () => data && without(data, looked, new Set(hidden.split(',').filter(Boolean)), what.only ? marked : null),
    [data, looked, hidden, what.only, marked],
  );
  const shown = useMemo(
    () => whole && withColumns(whole, columns, new Set(hidden.split(','))),
    [whole, columns, hidden],
  );
  const openGroups = useMemo(
    () =>
      what.fold && data
        ? [
            ...new Map(
              data.nodes.map((node) => groupAt(what.fold as FoldBy, node)).map((one) => [one.id, one]),
            ).values(),
          ].filter(({ id }) => places.open.has(id))
        : [],
    [what.fold, data, places.open],
  );
  if (picture.error)
    return <Trouble error={picture.error} what="The lineage cannot be shown" again={picture.refetch} />;
  if (!data || !whole || !shown) return <Coming />;
  const more = data.nodes.reduce(
    (sum, node) => ({ up: sum.up + node.more.upstream, down: sum.down + node.more.downstream }),
    { up: 0, down: 0 },
  );
  const list = params.get('list');
  const shows = (): KeptView['shows'] => ({
    upstream: up,
    downstream: down,
    column,
    at: past.asked.at ?? null,
    before: past.asked.before ?? null,
    rows: !what.hidden.has(ROWS),
    fold: what.fold,
    open: [...places.open],
    hidden: [...what.hidden].filter((kind) => kind !== ROWS),
    mark: what.mark,
    only: what.only,
    places: [...places.moved].map(([id, { x, y }]) => ({ id, x, y })),
  });
  return (
    <div className="pane upright">
      <h1 className="hidden-visually">Lineage of {asset.data?.path}</h1>
      <Group wrap="wrap" className="toolbar">
        <span>
          {past.shown ? <Then past={past} answer={data} /> : null}
          {plural(shown.nodes.length, 'table')}
          {picture.narrow && !data.coarse ? ' on its way' : ''}
          {shown.nodes.length < data.nodes.length ? ` of ${data.nodes.length}` : ''}
          {shown.flows.length > 0 ? `, ${plural(shown.flows.length, 'flow')}` : ''},{' '}
          {plural(whole.links.length, 'edge')}
          {column ? '' : data.coarse ? ' between them' : ' between columns'}
          {data.nearest ? '; the nearest: the impact list has all' : ''}
        </span>
        {picture.narrow ? null : (
          <>
            <Button
              variant="default"
              size="compact-xs"
              disabled={more.up === 0 || data.nearest}
              onClick={() => put({ up: String(up + 1) })}
            >
              Grow upstream{more.up > 0 ? ` (${more.up})` : ''}
            </Button>
            <Button
              variant="default"
              size="compact-xs"
              disabled={more.down === 0 || data.nearest}
              onClick={() => put({ down: String(down + 1) })}
            >
              Grow downstream{more.down > 0 ? ` (${more.down})` : ''}
            </Button>
          </>
        )}
        {column ? (
          <button type="button" className="chip on" onClick={() => put({ column: null })}>
            following {data.nodes.flatMap((node) => node.columns).find((entry) => entry.id === column)?.name} ×
          </button>
        ) : null}
        <span className="grow" />
        <AsOf focus={focus} past={past} go={put} />
        <Shown
          answer={data}
          shown={what}
          put={put}
          places={places}
          openGroups={openGroups}
          marking={{ found: marked?.size ?? null, error: fits.error }}
        />
        <KeptViews view={view} focus={focus} shows={shows} keep={(about) => setKeeping({ about })} />
        <div ref={setTools} />
        <Button variant="default" size="compact-xs" onClick={() => put({ list: 'downstream' })}>
          Impact list
        </Button>
      </Group>
      {keeping ? (
        <KeepView
          key={keeping.about?.id ?? 'new'}
          about={keeping.about}
          focus={focus}
          shows={keeping.about?.shows ?? shows()}
          close={(saved) => {
            setKeeping(null);
            if (saved) put({ view: saved.id });
          }}
        />
      ) : null}
      <div className="grow scrolled canvas">
        <Canvas
          answer={shown}
          whole={whole}
          focus={looked}
          fold={what.fold}
          places={places}
          marked={marked}
          column={column}
          follow={follow}
          unfoldings={unfoldings}
          unfold={unfold}
          details={at}
          setDetails={setDetails}
          past={past.shown}
          asked={{
            ...picture.asked,
            ...(hidden === '' ? {} : { hide: hidden }),
            ...(what.only && what.mark !== '' ? { only: what.mark } : {}),
          }}
          name={asset.data?.name ?? 'lineage'}
          outline={params.get('outline') !== null}
          setOutline={(on) => put({ outline: on ? 'yes' : null })}
          tools={tools}
        />
        {list ? (
          <aside
            className="pane reading"
            aria-label="Impact list"
            style={{
              position: 'absolute',
              right: 0,
              top: 0,
              bottom: 0,
              height: 'auto',
              width: 500,
              borderLeft: '1px solid var(--hairline)',
              zIndex: 6,
            }}
          >
            <Group mb={10}>
              <h2 className="grow">Impact list</h2>
              <Button variant="default" size="compact-xs" onClick={() => put({ list: null })}>
                Close
              </Button>
            </Group>
            <ImpactList
              asset={column ?? focus}
              direction={list === 'upstream' ? 'upstream' : 'downstream'}
              setDirection={(direction) => put({ list: direction })}
            />
          </aside>
        ) : null}
      </div>
    </div>
  );
}
