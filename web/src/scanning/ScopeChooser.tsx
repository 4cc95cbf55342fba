import type { Scope } from '@idrel/contract/scanning';
import { scopeCover } from '@idrel/core/scanning/scope';
import { Box, Checkbox, Radio, Stack, TagsInput, TextInput } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef, useState } from 'react';
import { count, KindMark } from '../marks/index.tsx';
import { Trouble } from '../marks/states.tsx';
import { useOutlineQuery } from './api.ts';
import { choiceOf, toggled, toTree, visibleNodes } from './outlineTree.ts';

const ROW = 28;

/** Everything, or just what is chosen from the live tree of the source and what fits a pattern. */
export function ScopeChooser({
  source,
  separator,
  scope,
  change,
}: {
  source: string;
  separator: string;
  scope: Scope;
  change: (scope: Scope) => void;
}) {
  return (
    <Stack>
      <Radio.Group
        aria-label="What is covered"
        value={scope.cover}
        onChange={(cover) => change({ ...scope, cover: cover as Scope['cover'] })}
      >
        <Stack gap={8}>
          <Radio
            value="everything"
            label="Everything, now and later"
            description="What is added to the source is read by the next run"
          />
          <Radio
            value="chosen"
            label="Just what is chosen"
            description="What is added later is not covered, unless it lies in something chosen or fits a pattern"
          />
        </Stack>
      </Radio.Group>
      {scope.cover === 'chosen' ? (
        <>
          <OutlineTree source={source} separator={separator} scope={scope} change={change} />
          <TagsInput
            label="Include patterns"
            description={`Also later: * stands for anything within a name, ** for anything. Such as mart${separator}* or **2026**`}
            value={[...scope.include]}
            onChange={(include) => change({ ...scope, include })}
            acceptValueOnBlur
          />
        </>
      ) : null}
      <TagsInput
        label="Exclude patterns"
        description="What fits is left out with all that is in it, also later. Such as tmp_*"
        value={[...scope.exclude]}
        onChange={(exclude) => change({ ...scope, exclude })}
        acceptValueOnBlur
      />
    </Stack>
  );
}

function OutlineTree({
  source,
  separator,
  scope,
  change,
}: {
  source: string;
  separator: string;
  scope: Scope;
  change: (scope: Scope) => void;
}) {
  const { data, error, isLoading, refetch } = useOutlineQuery(source);
  const [search, setSearch] = useState('');
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const scroller = useRef<HTMLDivElement>(null);
  const tree = useMemo(() => toTree(data ?? [], separator), [data, separator]);
  const rows = useMemo(() => visibleNodes(tree, open, search), [tree, open, search]);
  const chosen = useMemo(() => new Set(scope.chosen), [scope.chosen]);
  const covers = useMemo(() => {
    try {
      return scopeCover(scope, separator);
    } catch {
      return () => false; // the pattern is being typed; the preview says what is wrong with it
    }
  }, [scope, separator]);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  if (error)
    return <Trouble error={error} what="The source cannot be asked what it holds" again={() => void refetch()} />;
  return (
    <div>
      <TextInput
        aria-label="Search in the source"
        placeholder={isLoading ? 'Asking the source …' : `Search in ${count(data?.length ?? 0)} objects`}
        value={search}
        onChange={(event) => setSearch(event.currentTarget.value)}
      />
      <div ref={scroller} className="outline" role="tree" aria-label="What the source holds" tabIndex={-1}>
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const node = rows[item.index];
            if (!node) return null;
            const state = choiceOf(chosen, node, separator);
            const covered = covers(node.path);
            const left = !covered && (state === 'chosen' || state === 'within');
            return (
              <div
                key={node.path}
                role="treeitem"
                tabIndex={-1}
                aria-selected={covered}
                aria-level={node.depth + 1}
                className="node"
                style={{ position: 'absolute', top: item.start, height: ROW, paddingLeft: 8 + node.depth * 18 }}
              >
                <button
                  type="button"
                  className="turn"
                  aria-label={open.has(node.path) ? `Close ${node.path}` : `Open ${node.path}`}
                  data-empty={node.children.length === 0}
                  onClick={() =>
                    setOpen(
                      new Set(
                        open.has(node.path) ? [...open].filter((path) => path !== node.path) : [...open, node.path],
                      ),
                    )
                  }
                >
                  {open.has(node.path) || search ? '▾' : '▸'}
                </button>
                <Checkbox
                  size="xs"
                  aria-label={node.path}
                  checked={covered}
                  indeterminate={!covered && state === 'partly'}
                  disabled={state === 'within' || (state !== 'chosen' && (covered || left))}
                  onChange={() => change({ ...scope, chosen: toggled(scope.chosen, node, separator) })}
                />
                <KindMark kind={node.kind} />
                <span className="mono cut">{node.name}</span>
                {node.children.length > 0 ? <span className="quiet small">{count(node.children.length)}</span> : null}
                {left ? <span className="quiet small">left out by a pattern</span> : null}
              </div>
            );
          })}
        </div>
        {rows.length === 0 && !isLoading ? (
          <Box component="p" className="quiet" p={10}>
            {search ? 'Nothing of that name.' : 'The source holds nothing yet.'}
          </Box>
        ) : null}
      </div>
    </div>
  );
}
