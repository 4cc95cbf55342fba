import type { LineageAnswer } from '@idrel/contract/lineage';
import { drawnBetween } from '@idrel/core/lineage/shown';
import { Button, Group } from '@mantine/core';
import { KindMark, Name, plural } from '../marks/index.tsx';
import type { Group as FoldedGroup } from './folding.ts';

/** The picture as a text that can be read and walked without eyes or a mouse: its tables and flows from left to right, each with what leads to it and where it leads. */
export function Outline({
  answer,
  groups,
  unfold,
  order,
  go,
  open,
  close,
}: {
  answer: LineageAnswer;
  /** Tables that stand as one, by the id under which they do. */
  groups: ReadonlyMap<string, FoldedGroup>;
  unfold: (group: string) => void;
  /** The ids of tables and flows, as they stand from left to right. */
  order: readonly string[];
  /** Brings a node of the picture into view. */
  go: (id: string) => void;
  /** Opens what is known of one. */
  open: (id: string) => void;
  close: () => void;
}) {
  const nodes = new Map([...answer.nodes, ...answer.flows].map((node) => [node.id, node]));
  const drawn = drawnBetween(answer);
  const named = (id: string) => {
    const node = nodes.get(id);
    return node && 'columns' in node ? node.path : (node?.name ?? '');
  };
  const ways = (entries: readonly { id: string; words: ReadonlySet<string> }[]) =>
    entries.map(({ id, words }, at) => (
      <span key={id}>
        {at > 0 ? ', ' : ''}
        <a href={`#outline-${id}`} onClick={() => go(id)}>
          {named(id)}
        </a>
        {words.size > 0 ? ` (${[...words].sort().join('; ')})` : ''}
      </span>
    ));
  return (
    <aside className="pane reading side" aria-label="Outline of the picture">
      <Group>
        <h2 className="grow">Outline</h2>
        <Button variant="default" size="compact-xs" onClick={close}>
          Close
        </Button>
      </Group>
      <p className="quiet small">From left to right, as it stands in the picture.</p>
      <ol className="flat walked">
        {order.flatMap((id) => {
          const node = nodes.get(id);
          if (!node) return [];
          const into = drawn.filter(({ to }) => to === id).map(({ from, words }) => ({ id: from, words }));
          const out = drawn.filter(({ from }) => from === id).map(({ to, words }) => ({ id: to, words }));
          return [
            <li key={id} id={`outline-${id}`}>
              <Group gap={6}>
                <KindMark kind={node.kind} />
                <button
                  type="button"
                  className="linkish"
                  onClick={() => {
                    go(id);
                    if (groups.has(id)) unfold(id);
                    else open(id);
                  }}
                >
                  <Name text={named(id)} most={40} />
                </button>
                <span className="quiet small">
                  {node.source}
                  {groups.has(id)
                    ? `, ${plural(groups.get(id)?.members.length ?? 0, 'table')} folded`
                    : 'columns' in node
                      ? `, ${plural(node.columnCount, 'column')}`
                      : ''}
                </span>
              </Group>
              <div className="small">
                {into.length > 0 ? <>from {ways(into)}</> : <span className="quiet">nothing shown leads here</span>}
              </div>
              {out.length > 0 ? <div className="small">to {ways(out)}</div> : null}
            </li>,
          ];
        })}
      </ol>
    </aside>
  );
}
