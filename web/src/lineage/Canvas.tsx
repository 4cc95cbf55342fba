import type { LineageAnswer } from '@idrel/contract/lineage';
import { fold as folding } from '@idrel/core/text';
import {
  Background,
  type Connection,
  Controls,
  type Node,
  Panel,
  ReactFlow,
  useReactFlow,
  useStore,
} from '@xyflow/react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { createPortal } from 'react-dom';
import { useKeys } from '../app/keys.tsx';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { When } from '../marks/index.tsx';
import { Statement } from './AboutNode.tsx';
import { toSvg } from './drawing.ts';
import { toEdges } from './edges.ts';
import { FarEdges } from './FarEdges.tsx';
import { FlowNode } from './FlowNode.tsx';
import { type FoldBy, folded as foldedBy, type Group } from './folding.ts';
import { wayOf } from './follow.ts';
import { GroupNode } from './GroupNode.tsx';
import { toNodes } from './nodes.ts';
import { Outline } from './Outline.tsx';
import { Overview } from './Overview.tsx';
import { PictureTools } from './PictureTools.tsx';
import { nodeHeight, type Placed, place } from './placing.ts';
import type { Drawn } from './SayEdge.tsx';
import { TableNode } from './TableNode.tsx';
import type { Places } from './usePlaces.ts';

/** Smaller than so, names cannot be read without effort. */
const LEGIBLE = 0.85;
/** A way that is followed is seen from end to end as long as its names can be made out. */
const WAY_LEGIBLE = 0.5;
/** So high the name of a lane is. */
const LANE_NAME = 24;
/** Smaller than so, only names are shown, in larger letters. */
const FAR = 0.45;
/** So far the arrows move a table. */
const NUDGE = 28;
/** Of so many tables those on a way that is followed unfold by themselves; of more they could not be seen together. */
const UNFOLDED_MOST = 60;
/** Of more tables a picture is drawn with less: on no ground of dots, and from afar with its edges together. */
const BACKED_MOST = 250;
const NONE: never[] = [];
/** Of so few tables no overview is needed. */
const OVERVIEW_FROM = 3;

const nodeTypes = { table: TableNode, flow: FlowNode, 'group-of-tables': GroupNode, lane: LaneNode };

export function Canvas({
  answer: told,
  whole,
  focus,
  fold,
  places,
  marked,
  column,
  follow,
  unfoldings,
  unfold,
  details,
  setDetails,
  past,
  asked,
  name,
  outline,
  setOutline,
  tools,
}: {
  answer: LineageAnswer;
  /** The same, as it was before columns came to it: while it stays, the view stays. */
  whole: LineageAnswer;
  focus: string;
  /** What tables stand together by. */
  fold: FoldBy | null;
  /** What somebody unfolded and moved. */
  places: Places;
  /** Ids of what a search marks; null: nothing is marked. */
  marked: ReadonlySet<string> | null;
  column: string | null;
  follow: (id: string) => void;
  /** Which tables are unfolded, and which not, where somebody said so. */
  unfoldings: ReadonlyMap<string, boolean>;
  unfold: (id: string, on: boolean) => void;
  details: string | null;
  setDetails: (id: string | null) => void;
  /** The picture is of an earlier day: no edge is drawn in it. */
  past: boolean;
  /** What the picture was asked for by, and what it is about. */
  asked: Parameters<typeof PictureTools>[0]['asked'];
  name: string;
  outline: boolean;
  setOutline: (on: boolean) => void;
  /** Where what is done with the whole picture has its place. */
  tools: HTMLElement | null;
}) {
  const way = useMemo(() => (column ? wayOf(told, column) : null), [told, column]);
  const { answer, groups } = useMemo(() => {
    // What is looked at, and what lies on the way that is followed, stands by itself.
    const kept = told.nodes.filter(
      ({ id, columns }) => id === focus || (way !== null && columns.some((entry) => way.has(entry.id))),
    );
    return foldedBy(told, fold, places.open, new Set(kept.map(({ id }) => id)));
  }, [told, fold, places.open, focus, way]);
  const unfolded = useMemo(
    () =>
      new Set(
        answer.nodes
          .filter(
            (node) =>
              unfoldings.get(node.id) ??
              (node.id === focus ||
                (way
                  ? answer.nodes.length <= UNFOLDED_MOST && node.columns.some((entry) => way.has(entry.id))
                  : answer.nodes.length <= 8)),
          )
          .map((node) => node.id),
      ),
    [answer, unfoldings, focus, way],
  );
  const heights = useMemo(
    () =>
      new Map(answer.nodes.map((node) => [node.id, nodeHeight(node, unfolded.has(node.id) ? node.columns.length : 0)])),
    [answer, unfolded],
  );
  const [laid, setLaid] = useState<{ of: LineageAnswer; placed: Placed }>();
  const placed = useMemo((): Placed | undefined => {
    if (!laid) return undefined;
    const { at, lanes } = laid.placed;
    return { lanes, at: new Map([...at, ...[...places.moved].filter(([id]) => at.has(id))]) };
  }, [laid, places.moved]);
  const [drawn, setDrawn] = useState<(Drawn & { target: string }) | null>(null);
  const far = useStore(({ transform: [, , zoom] }) => zoom < FAR);
  const together = far && answer.nodes.length > BACKED_MOST;
  const [held, setHeld] = useState(false);
  const flow = useReactFlow();
  const may = useMayAnywhere('editor', 'steward');
  const frame = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let current = true;
    void place(answer, heights).then((next) => {
      if (current) setLaid({ of: answer, placed: next });
    });
    return () => {
      current = false;
    };
  }, [answer, heights]);
  // The picture is fitted when another one or another column is looked at, and stays where it is when a table or a group is unfolded by hand.
  const fitted = useRef<readonly unknown[]>([]);
  useEffect(() => {
    const looked = [column, whole, fold];
    // Before it is laid out, what stands there is the picture before.
    if (laid?.of !== answer || looked.every((one, n) => fitted.current[n] === one)) return;
    fitted.current = looked;
    setTimeout(() => {
      const all = { padding: 0.08, maxZoom: 1 };
      const room = frame.current?.getBoundingClientRect();
      const bounds = flow.getNodesBounds(flow.getNodes());
      // The whole where it can be read; else what was asked for, with the overview beside it.
      const least = column === null ? LEGIBLE : WAY_LEGIBLE;
      const fits = room && Math.min(room.width / bounds.width, room.height / bounds.height) >= least;
      void flow.fitView(fits ? all : { ...all, minZoom: 1, nodes: [{ id: focus }] });
    }, 60);
  }, [laid, answer, whole, fold, column, focus, flow]);
  const [sought, setSought] = useState('');
  const [soughtAt, setSoughtAt] = useState(0);
  const matches = useMemo(() => matchesOf(answer, groups, placed, sought), [answer, groups, placed, sought]);
  const go = (id: string) => void flow.fitView({ padding: 0.08, minZoom: 1, maxZoom: 1, nodes: [{ id }] });
  const visit = (at: number): void => {
    const to = matches[(at + matches.length) % matches.length];
    setSoughtAt(matches.length === 0 ? 0 : (at + matches.length) % matches.length);
    if (to !== undefined) go(to);
  };
  const found = useMemo(() => new Set(matches), [matches]);
  const nudge = (x: number, y: number): void => {
    const at = details === null ? undefined : placed?.at.get(details);
    if (details === null || !at) return;
    places.begin();
    places.move(details, { x: at.x + x * NUDGE, y: at.y + y * NUDGE });
  };
  useKeys('Lineage picture', [
    { key: 'shift+ArrowLeft', what: 'move what is open to the left', act: () => nudge(-1, 0) },
    { key: 'shift+ArrowRight', what: 'move what is open to the right', act: () => nudge(1, 0) },
    { key: 'shift+ArrowUp', what: 'move what is open up', act: () => nudge(0, -1) },
    { key: 'shift+ArrowDown', what: 'move what is open down', act: () => nudge(0, 1) },
  ]);
  const nodes = useMemo(
    (): Node[] =>
      placed
        ? toNodes({
            answer,
            placed,
            groups,
            heights,
            unfolded,
            focus,
            way,
            column,
            found,
            marked,
            follow,
            open: setDetails,
            unfold,
            toggle: places.toggle,
          })
        : [],
    [
      placed,
      answer,
      groups,
      heights,
      unfolded,
      focus,
      way,
      column,
      follow,
      setDetails,
      found,
      marked,
      places.toggle,
      unfold,
    ],
  );
  const edges = useMemo(() => toEdges(answer, unfolded, way), [answer, unfolded, way]);
  // Drawn with the mouse, an edge is what the form says when it opens: from where it was begun, to where it was let go.
  const connect = ({ source, target, sourceHandle, targetHandle }: Connection): void => {
    const [from, into] = [answer.nodes.find(({ id }) => id === source), answer.nodes.find(({ id }) => id === target)];
    if (!from || !into) return;
    setDrawn({
      from: { id: from.id, path: from.path },
      column: sourceHandle?.startsWith('out-') ? sourceHandle.slice(4) : null,
      into: targetHandle?.startsWith('in-') ? targetHandle.slice(3) : null,
      target: into.id,
    });
    setDetails(into.id);
  };
  const shown = answer.nodes.find((node) => node.id === details) ?? answer.flows.find((node) => node.id === details);
  return (
    <>
      <ReactFlow
        ref={frame}
        className={[far ? 'far' : '', held ? 'held' : ''].join(' ')}
        nodes={nodes}
        edges={together ? NONE : edges}
        nodeTypes={nodeTypes}
        minZoom={0.1}
        maxZoom={1.6}
        nodesConnectable={may && !past}
        onConnect={connect}
        onNodeDragStart={places.begin}
        // While it is dragged, what was painted is moved as it is.
        onMoveStart={(event) => event instanceof MouseEvent && !(event instanceof WheelEvent) && setHeld(true)}
        onMoveEnd={() => setHeld(false)}
        onNodesChange={(changes) => {
          for (const change of changes)
            if (change.type === 'position' && change.position) places.move(change.id, change.position);
        }}
        edgesFocusable={false}
        proOptions={{ hideAttribution: true }}
        aria-label="Lineage picture"
        onlyRenderVisibleElements
      >
        {/* Each frame would paint it anew. */}
        {answer.nodes.length <= BACKED_MOST ? <Background gap={28} size={1} color="var(--hairline)" /> : null}
        {placed && together ? <FarEdges edges={edges} placed={placed} /> : null}
        {placed ? <LaneNames lanes={placed.lanes} sources={told.sources} /> : null}
        <Panel position="bottom-left" className="quiet small legend">
          dashes transformed · dots aggregated, masked · violet by hand
        </Panel>
        <Controls showInteractive={false} orientation="horizontal" position="bottom-center" />
        {/* A way that is seen from end to end needs none. */}
        {placed && answer.nodes.length > (column === null ? OVERVIEW_FROM : UNFOLDED_MOST) ? (
          <Overview answer={answer} placed={placed} heights={heights} focus={focus} />
        ) : null}
      </ReactFlow>
      {placed && tools
        ? createPortal(
            <PictureTools
              asked={asked}
              name={name}
              draw={() => toSvg({ answer, placed, heights, unfolded, edges }, colorNow)}
              sought={sought}
              found={matches.length}
              at={soughtAt}
              seek={(text) => {
                setSought(text);
                setSoughtAt(0);
                const [first] = matchesOf(answer, groups, placed, text);
                if (first !== undefined) go(first);
              }}
              next={(by) => visit(soughtAt + by)}
              outline={outline}
              setOutline={setOutline}
            />,
            tools,
          )
        : null}
      {outline && placed ? (
        <Outline
          answer={answer}
          groups={groups}
          unfold={places.toggle}
          order={inOrder(answer, placed)}
          go={go}
          open={setDetails}
          close={() => setOutline(false)}
        />
      ) : null}
      {shown ? (
        <Statement
          key={`${shown.id} ${drawn?.target === shown.id ? JSON.stringify(drawn) : ''}`}
          node={shown}
          drawn={drawn?.target === shown.id ? drawn : null}
          close={() => {
            setDrawn(null);
            setDetails(null);
          }}
        />
      ) : null}
    </>
  );
}

/** The colour behind a variable of the theme, as it is now. */
const colorNow = (name: string): string => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** Tables and flows as they stand: from left to right, then from the top. */
function inOrder(answer: LineageAnswer, placed: Placed): string[] {
  const at = (id: string) => placed.at.get(id) ?? { x: 0, y: 0 };
  return [...answer.nodes, ...answer.flows].map(({ id }) => id).sort((a, b) => at(a).x - at(b).x || at(a).y - at(b).y);
}

/** Tables and flows whose names, or whose columns' names, hold a text, as they stand. */
function matchesOf(
  answer: LineageAnswer,
  groups: ReadonlyMap<string, Group>,
  placed: Placed | undefined,
  text: string,
): string[] {
  const wanted = folding(text.trim());
  if (wanted === '' || !placed) return [];
  const fitting = (node: LineageAnswer['nodes' | 'flows'][number]) =>
    [node.path, ...('columns' in node ? node.columns.map(({ name }) => name) : [])].some((name) =>
      folding(name).includes(wanted),
    );
  const fits = new Set(
    [...answer.nodes, ...answer.flows]
      .filter((node) => fitting(node) || groups.get(node.id)?.members.some(fitting))
      .map(({ id }) => id),
  );
  return inOrder(answer, placed).filter((id) => fits.has(id));
}

function LaneNode({ data }: { data: { width: number; height: number } }) {
  return (
    <div
      style={{
        width: data.width,
        height: data.height,
        borderTop: '1px solid var(--line-strong)',
        borderBottom: '1px solid var(--hairline)',
        pointerEvents: 'none',
      }}
    />
  );
}

/** The source of each lane that is in view, with how fresh what is known of it is, at the left: it stays while its lane does, wherever the picture is moved. */
function LaneNames({ lanes, sources }: { lanes: Placed['lanes']; sources: LineageAnswer['sources'] }) {
  const [, y, zoom] = useStore((state) => state.transform);
  const height = useStore((state) => state.height);
  return (
    <div className="lane-names">
      {lanes.map((lane) => {
        const top = lane.y * zoom + y;
        const bottom = top + lane.height * zoom;
        if (bottom < LANE_NAME || top > height) return null;
        const readAt = sources.find(({ name }) => name === lane.source)?.readAt;
        return (
          <span
            key={lane.source}
            className="small quiet"
            style={{ top: Math.min(Math.max(top + 1, 0), bottom - LANE_NAME) }}
          >
            {lane.source}
            {readAt ? (
              <>
                {' '}
                · read <When at={readAt} />
              </>
            ) : null}
          </span>
        );
      })}
    </div>
  );
}
