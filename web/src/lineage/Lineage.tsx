import '@xyflow/react/dist/style.css';
import type { LineageAnswer, LineageNode } from '@idrel/contract/lineage';
import { PICTURE_MOST } from '@idrel/core/lineage/reachable';
import { Button, SegmentedControl } from '@mantine/core';
import {
  Background,
  Controls,
  type Edge,
  MarkerType,
  type Node,
  ReactFlow,
  ReactFlowProvider,
  useReactFlow,
} from '@xyflow/react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { useAddress } from '../app/address.ts';
import { useKeys } from '../app/keys.tsx';
import { useAssetQuery, useAssetsQuery } from '../catalog/api.ts';
import { KindMark, Level, Name, plural } from '../marks/index.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useImpactQuery, useLineageQuery } from './api.ts';
import { wayOf } from './follow.ts';
import { nodeHeight, type Placed, place } from './place.ts';
import { type TableData, TableNode } from './TableNode.tsx';

const nodeTypes = { table: TableNode, lane: LaneNode };
const DASH: Record<string, string> = { copied: '', transformed: '7 3', aggregated: '2 3', masked: '1 5' };

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

function Choose() {
  useCrumbs({ text: 'Lineage' });
  const { data, error } = useAssetsQuery({ filter: 'kind:view,"materialised view","foreign table"', limit: 100 });
  if (error) return <Trouble error={error} what="The views cannot be shown" />;
  if (!data) return <Coming />;
  return (
    <div className="page">
      <h1>Lineage</h1>
      <p className="quiet" style={{ marginBottom: 12 }}>
        Where values come from and where they go. Choose where to begin; any asset’s page leads here as well.
      </p>
      {data.items.length === 0 ? (
        <Empty title="No flow is known yet">
          <p>
            Lineage is read from the definitions of views when a database is scanned.{' '}
            <Link to="/sources">Scan a source</Link>.
          </p>
        </Empty>
      ) : (
        <table className="plain">
          <tbody>
            {data.items.map((asset) => (
              <tr key={asset.id}>
                <td style={{ width: 30 }}>
                  <KindMark kind={asset.kind} />
                </td>
                <td>
                  <Link to={`/lineage?focus=${asset.id}`}>
                    <Name text={asset.path} />
                  </Link>
                </td>
                <td className="quiet">{asset.source}</td>
                <td>
                  <Level level={asset.level} bare />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function Around({ focus }: { focus: string }) {
  const [params, put] = useAddress();
  const [up, down] = [Number(params.get('up') ?? 3), Number(params.get('down') ?? 3)];
  const { data, error, refetch } = useLineageQuery({ focus, upstream: up, downstream: down });
  const asset = useAssetQuery(focus);
  useCrumbs({ text: 'Lineage', to: '/lineage' }, { text: asset.data?.path ?? '…' });
  const column = params.get('column') ?? (asset.data?.kind === 'column' ? focus : null);
  useKeys('Lineage', [
    { key: 'i', what: 'impact list', act: () => put({ list: params.get('list') ? null : 'downstream' }) },
    { key: 'Escape', what: 'follow no column', act: () => put({ column: null, list: null }) },
    { key: '[', what: 'one step more upstream', act: () => put({ up: String(Math.min(20, up + 1)) }) },
    { key: ']', what: 'one step more downstream', act: () => put({ down: String(Math.min(20, down + 1)) }) },
  ]);
  if (error) return <Trouble error={error} what="The lineage cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const more = data.nodes.reduce(
    (sum, node) => ({ up: sum.up + node.more.upstream, down: sum.down + node.more.downstream }),
    { up: 0, down: 0 },
  );
  const full = data.nodes.length > PICTURE_MOST;
  const list = params.get('list');
  return (
    <div style={{ height: '100%', display: 'flex', flexDirection: 'column' }}>
      <h1 className="hidden-visually">Lineage of {asset.data?.path}</h1>
      <div className="row wrap" style={{ padding: '8px 14px', borderBottom: '1px solid var(--hairline)' }}>
        <span>
          {plural(data.nodes.length, 'table')}, {plural(data.links.length, 'edge')} between columns
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
        <span className="quiet small">line copied · dashes transformed · dots aggregated, masked</span>
        <Button variant="default" size="compact-xs" onClick={() => put({ list: 'downstream' })}>
          Impact list
        </Button>
      </div>
      <div className="grow" style={{ minHeight: 0, position: 'relative' }}>
        <Canvas
          answer={data}
          focus={asset.data?.kind === 'column' ? (asset.data.parentId ?? focus) : focus}
          column={column}
          follow={(id) => put({ column: id === column ? null : id })}
          details={params.get('at')}
          setDetails={(id) => put({ at: id })}
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
            <div className="row" style={{ marginBottom: 10 }}>
              <h2 className="grow">Impact list</h2>
              <Button variant="default" size="compact-xs" onClick={() => put({ list: null })}>
                Close
              </Button>
            </div>
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

function Canvas({
  answer,
  focus,
  column,
  follow,
  details,
  setDetails,
}: {
  answer: LineageAnswer;
  focus: string;
  column: string | null;
  follow: (id: string) => void;
  details: string | null;
  setDetails: (id: string | null) => void;
}) {
  const way = useMemo(() => (column ? wayOf(answer, column) : null), [answer, column]);
  const [folded, setFolded] = useState<ReadonlyMap<string, boolean>>(new Map());
  const unfolded = useMemo(
    () =>
      new Set(
        answer.nodes
          .filter(
            (node) =>
              folded.get(node.id) ??
              (node.id === focus || (way ? node.columns.some((entry) => way.has(entry.id)) : answer.nodes.length <= 8)),
          )
          .map((node) => node.id),
      ),
    [answer, folded, focus, way],
  );
  const heights = useMemo(
    () =>
      new Map(answer.nodes.map((node) => [node.id, nodeHeight(node, unfolded.has(node.id) ? node.columns.length : 0)])),
    [answer, unfolded],
  );
  const [placed, setPlaced] = useState<Placed>();
  const flow = useReactFlow();
  useEffect(() => {
    let current = true;
    void place(answer, heights).then((next) => {
      if (current) setPlaced(next);
    });
    return () => {
      current = false;
    };
  }, [answer, heights]);
  // The picture is fitted when another asset or column is looked at, and stays where it is when a table is folded by hand.
  const fitted = useRef<unknown>(null);
  useEffect(() => {
    const looked = column ?? answer;
    if (!placed || fitted.current === looked) return;
    fitted.current = looked;
    setTimeout(() => void flow.fitView({ padding: 0.08, maxZoom: 1 }), 60);
  }, [placed, answer, column, flow]);
  const nodes = useMemo(
    (): Node[] =>
      placed
        ? [
            ...placed.lanes.map(
              (lane): Node => ({
                id: `lane-${lane.source}`,
                type: 'lane',
                position: { x: lane.x, y: lane.y },
                data: { source: lane.source, width: lane.width, height: lane.height },
                draggable: false,
                selectable: false,
                focusable: false,
                zIndex: -1,
              }),
            ),
            ...answer.nodes.map(
              (node): Node => ({
                id: node.id,
                type: 'table',
                position: placed.at.get(node.id) ?? { x: 0, y: 0 },
                draggable: true,
                focusable: false,
                data: {
                  node,
                  unfolded: unfolded.has(node.id),
                  focus: node.id === focus,
                  way,
                  column,
                  follow,
                  open: setDetails,
                  unfold: (id) => setFolded((before) => new Map(before).set(id, !unfolded.has(id))),
                } satisfies TableData,
              }),
            ),
          ]
        : [],
    [placed, answer, unfolded, focus, way, column, follow, setDetails],
  );
  const edges = useMemo(() => toEdges(answer, unfolded, way), [answer, unfolded, way]);
  const shown = answer.nodes.find((node) => node.id === details);
  return (
    <>
      <ReactFlow
        nodes={nodes}
        edges={edges}
        nodeTypes={nodeTypes}
        minZoom={0.1}
        maxZoom={1.6}
        nodesConnectable={false}
        edgesFocusable={false}
        proOptions={{ hideAttribution: true }}
        aria-label="Lineage picture"
        onlyRenderVisibleElements
      >
        <Background gap={28} size={1} color="var(--hairline)" />
        <Controls showInteractive={false} />
      </ReactFlow>
      {shown ? <Statement node={shown} close={() => setDetails(null)} /> : null}
    </>
  );
}

function LaneNode({ data }: { data: { source: string; width: number; height: number } }) {
  return (
    <div
      style={{
        width: data.width,
        height: data.height,
        borderTop: '1px solid var(--line-strong)',
        borderBottom: '1px solid var(--hairline)',
        pointerEvents: 'none',
      }}
    >
      <span className="small quiet" style={{ padding: '2px 8px', display: 'inline-block' }}>
        {data.source}
      </span>
    </div>
  );
}

/** Edges between columns where both tables are unfolded; else one between the tables. */
function toEdges(answer: LineageAnswer, unfolded: ReadonlySet<string>, way: ReadonlySet<string> | null): Edge[] {
  const edges = new Map<string, Edge>();
  const drawn = new Set<string>();
  for (const link of answer.links) {
    drawn.add(`${link.fromTable}>${link.toTable}`);
    const [source, target] = [
      unfolded.has(link.fromTable) ? `out-${link.from}` : 'out',
      unfolded.has(link.toTable) ? `in-${link.to}` : 'in',
    ];
    const on = way ? way.has(link.from) && way.has(link.to) : true;
    const id = `${link.fromTable}:${source}>${link.toTable}:${target}`;
    const known = edges.get(id);
    if (known && (known.style?.opacity === 1 || !on)) continue;
    edges.set(id, {
      id,
      source: link.fromTable,
      target: link.toTable,
      sourceHandle: source,
      targetHandle: target,
      style: {
        stroke: on && way ? 'var(--kelp)' : 'var(--slate)',
        strokeWidth: on && way ? 2 : 1.1,
        strokeDasharray: DASH[link.kind] ?? '',
        opacity: on ? 1 : 0.15,
      },
      ariaLabel: link.kind,
      markerEnd: {
        type: MarkerType.ArrowClosed,
        color: on && way ? 'var(--kelp)' : 'var(--slate)',
        width: 14,
        height: 14,
      },
    });
  }
  for (const influence of answer.influences) {
    const pair = `${influence.fromTable}>${influence.toTable}`;
    if (influence.kind === 'unused' || drawn.has(pair) || influence.fromTable === influence.toTable) continue;
    drawn.add(pair);
    edges.set(`rows:${pair}`, {
      id: `rows:${pair}`,
      source: influence.fromTable,
      target: influence.toTable,
      sourceHandle: 'out',
      targetHandle: 'in',
      style: { stroke: 'var(--sand)', strokeWidth: 0.8, opacity: way ? 0.2 : 0.9 },
    });
  }
  return [...edges.values()];
}

function Statement({ node, close }: { node: LineageNode; close: () => void }) {
  const navigate = useNavigate();
  return (
    <aside
      className="pane reading stack"
      aria-label={`About ${node.path}`}
      style={{
        position: 'absolute',
        right: 0,
        top: 0,
        bottom: 0,
        height: 'auto',
        width: 380,
        borderLeft: '1px solid var(--hairline)',
      }}
    >
      <div className="row">
        <KindMark kind={node.kind} />
        <h2 className="grow cut">
          <Name text={node.path} most={32} />
        </h2>
        <Button variant="default" size="compact-xs" onClick={close}>
          Close
        </Button>
      </div>
      <div className="row">
        <Link to={`/assets/${node.id}`}>Open page</Link>
        <button type="button" className="linkish" onClick={() => navigate(`/lineage?focus=${node.id}`)}>
          Begin here
        </button>
      </div>
      <Level level={node.level} />
      {node.problems.map((problem) => (
        <div key={problem} className="notice">
          {problem}
        </div>
      ))}
      {node.statement ? (
        <>
          <h3>The statement behind its edges</h3>
          <pre className="code">{node.statement.trim()}</pre>
        </>
      ) : (
        <p className="quiet">No flow into it is known: it is a beginning.</p>
      )}
    </aside>
  );
}

function ImpactList({
  asset,
  direction,
  setDirection,
}: {
  asset: string;
  direction: 'upstream' | 'downstream';
  setDirection: (direction: string) => void;
}) {
  const { data, error } = useImpactQuery({ asset, direction });
  return (
    <div className="stack">
      <SegmentedControl
        aria-label="Direction"
        value={direction}
        onChange={setDirection}
        data={[
          { value: 'downstream', label: 'Downstream' },
          { value: 'upstream', label: 'Upstream' },
        ]}
      />
      {error ? <Trouble error={error} what="The list cannot be shown" /> : null}
      {data?.length === 0 ? <p className="quiet">Nothing lies {direction}.</p> : null}
      {data && data.length > 0 ? (
        <table className="plain">
          <thead>
            <tr>
              <th className="num">Steps</th>
              <th>Asset</th>
              <th>How</th>
              <th>Owner</th>
            </tr>
          </thead>
          <tbody>
            {data.map((row) => (
              <tr key={row.id}>
                <td className="num">{row.distance}</td>
                <td>
                  <span className="row">
                    <KindMark kind={row.kind} />
                    <Link to={`/assets/${row.id}`} title={row.way.join(' → ')}>
                      <Name text={row.path} most={28} />
                    </Link>
                  </span>
                </td>
                <td>{row.how}</td>
                <td>{row.owners.join(', ') || <span className="attention">none</span>}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
    </div>
  );
}
