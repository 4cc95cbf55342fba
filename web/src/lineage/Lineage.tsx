import '@xyflow/react/dist/style.css';
import { PICTURE_MOST } from '@idrel/core/lineage/reachable';
import { Button, Group } from '@mantine/core';
import { ReactFlowProvider } from '@xyflow/react';
import { useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import { useAddress } from '../app/address.ts';
import { useKeys } from '../app/keys.tsx';
import { useAssetQuery } from '../catalog/index.ts';
import { plural } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { AsOf, pastOf, Then } from './AsOf.tsx';
import { useLineageQuery } from './api.ts';
import { Canvas } from './Canvas.tsx';
import { Choose } from './Choose.tsx';
import { ImpactList } from './ImpactList.tsx';

/** Lineage: the canvas fills the page; the impact list is a drawer. */
export function Component() {
  const [params] = useSearchParams();
  const focus = params.get('focus');
  return focus ? (
    <ReactFlowProvider>
      <Around focus={focus} />
    </ReactFlowProvider>
  ) : (
    <Choose />
  );
}

function Around({ focus }: { focus: string }) {
  const [params, put] = useAddress();
  const [up, down] = [Number(params.get('up') ?? 3), Number(params.get('down') ?? 3)];
  const past = pastOf(params);
  const { data, error, refetch } = useLineageQuery({ focus, upstream: up, downstream: down, ...past.asked });
  const asset = useAssetQuery(focus);
  useCrumbs({ text: 'Lineage', to: '/lineage' }, { text: asset.data?.path ?? '…' });
  const column = params.get('column') ?? (asset.data?.kind === 'column' ? focus : null);
  useKeys('Lineage', [
    { key: 'i', what: 'impact list', act: () => put({ list: params.get('list') ? null : 'downstream' }) },
    { key: 'Escape', what: 'follow no column', act: () => put({ column: null, list: null }) },
    { key: '[', what: 'one step more upstream', act: () => put({ up: String(Math.min(20, up + 1)) }) },
    { key: ']', what: 'one step more downstream', act: () => put({ down: String(Math.min(20, down + 1)) }) },
  ]);
  const [tools, setTools] = useState<HTMLElement | null>(null);
  const rows = params.get('rows') !== 'no';
  // One answer stays one: what is laid out anew moves under the eyes.
  const shown = useMemo(() => (data && !rows ? { ...data, influences: [] } : data), [data, rows]);
  if (error) return <Trouble error={error} what="The lineage cannot be shown" again={() => void refetch()} />;
  if (!data || !shown) return <Coming />;
  const more = data.nodes.reduce(
    (sum, node) => ({ up: sum.up + node.more.upstream, down: sum.down + node.more.downstream }),
    { up: 0, down: 0 },
  );
  const full = data.nodes.length > PICTURE_MOST;
  const list = params.get('list');
  return (
    <div className="pane upright">
      <h1 className="hidden-visually">Lineage of {asset.data?.path}</h1>
      <Group wrap="wrap" className="toolbar">
        <span>
          {past.shown ? <Then past={past} answer={data} /> : null}
          {plural(data.nodes.length, 'table')}
          {data.flows.length > 0 ? `, ${plural(data.flows.length, 'flow')}` : ''}, {plural(data.links.length, 'edge')}{' '}
          between columns
          {full ? '; these are the nearest, the impact list has all' : ''}
        </span>
        <Button
          variant="default"
          size="compact-xs"
          disabled={more.up === 0 || full}
          onClick={() => put({ up: String(up + 1) })}
        >
          Grow upstream{more.up > 0 ? ` (${more.up})` : ''}
        </Button>
        <Button
          variant="default"
          size="compact-xs"
          disabled={more.down === 0 || full}
          onClick={() => put({ down: String(down + 1) })}
        >
          Grow downstream{more.down > 0 ? ` (${more.down})` : ''}
        </Button>
        {column ? (
          <button type="button" className="chip on" onClick={() => put({ column: null })}>
            following {data.nodes.flatMap((node) => node.columns).find((entry) => entry.id === column)?.name} ×
          </button>
        ) : null}
        <span className="grow" />
        <AsOf focus={focus} past={past} go={put} />
        <div ref={setTools} />
        <Button variant="default" size="compact-xs" onClick={() => put({ list: 'downstream' })}>
          Impact list
        </Button>
      </Group>
      <div className="grow scrolled canvas">
        <Canvas
          answer={shown}
          focus={asset.data?.kind === 'column' ? (asset.data.parentId ?? focus) : focus}
          column={column}
          follow={(id) => put({ column: id === column ? null : id })}
          details={params.get('at')}
          setDetails={(id) => put({ at: id })}
          past={past.shown}
          asked={{ focus, upstream: up, downstream: down, ...past.asked }}
          name={asset.data?.name ?? 'lineage'}
          outline={params.get('outline') !== null}
          setOutline={(on) => put({ outline: on ? 'yes' : null })}
          rows={rows}
          setRows={(on) => put({ rows: on ? null : 'no' })}
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
