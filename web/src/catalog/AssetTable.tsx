import type { AssetRow } from '@idrel/contract/catalog';
import { createColumnHelper, flexRender, getCoreRowModel, useReactTable } from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef } from 'react';
import { bytes, count, Gravest, KindMark, Level, Name, PriorityMark, StandingMark } from '../marks/index.tsx';
import { ClassChips } from '../recognition/index.ts';
import { COLUMN_KEYS, COLUMNS, type ColumnKey, isShown, type Kept, tracksOf, withWidth } from './keptColumns.ts';
import {
  countOf,
  EVERYTHING,
  isEverything,
  isSelected,
  NOTHING_SELECTED,
  type Selection,
  withSelected,
} from './selection.ts';
import { Widen } from './Widen.tsx';

const help = createColumnHelper<AssetRow>();
const Names = ({ names }: { names: readonly string[] }) => <span className="cut">{names.join(', ')}</span>;
const columns = [
  help.accessor('kind', { header: 'Kind', cell: (cell) => <KindMark kind={cell.getValue()} /> }),
  help.accessor('path', {
    header: 'Name',
    cell: ({ row: { original } }) => (
      <span className={original.gone ? 'cut gone' : 'cut'}>
        <Name text={original.path} most={44} /> <Gravest notices={original.notices} />
        {original.description ? <span className="quiet"> · {original.description}</span> : null}
      </span>
    ),
  }),
  help.accessor('description', {
    header: 'Description',
    cell: (cell) => <span className="cut">{cell.getValue()}</span>,
  }),
  help.accessor('source', {
    header: 'Source',
    cell: (cell) => <span className="cut quiet">{cell.getValue()}</span>,
  }),
  help.accessor('domain', {
    header: 'Domain',
    cell: (cell) => <span className="cut quiet">{cell.getValue()}</span>,
  }),
  help.accessor('classes', {
    header: 'Classes',
    cell: (cell) => <ClassChips classes={cell.getValue()} most={1} />,
  }),
  help.accessor('level', { header: 'Level', cell: (cell) => <Level level={cell.getValue()} bare /> }),
  help.accessor('priority', {
    header: 'Priority',
    cell: (cell) => (cell.getValue() > 0 ? <PriorityMark grade={cell.getValue()} /> : null),
  }),
  help.accessor('standing', {
    header: 'Standing',
    cell: (cell) => <StandingMark standing={cell.getValue()} />,
  }),
  help.accessor('owners', {
    header: 'Owner',
    cell: (cell) => (
      <span className="cut">
        {cell
          .getValue()
          .map((person) => person.name)
          .join(', ') || <span className="quiet">none</span>}
      </span>
    ),
  }),
  help.accessor('terms', {
    header: 'Terms',
    cell: (cell) => <Names names={cell.getValue().map(({ name }) => name)} />,
  }),
  help.accessor('tags', {
    header: 'Tags',
    cell: (cell) => <Names names={cell.getValue().map(({ name, value }) => (value ? `${name}/${value}` : name))} />,
  }),
  help.accessor('type', { header: 'Type', cell: (cell) => <span className="cut mono small">{cell.getValue()}</span> }),
  help.accessor('bytes', {
    header: 'Size',
    cell: (cell) => <span className="right">{cell.getValue() === null ? '' : bytes(cell.getValue())}</span>,
  }),
  help.accessor('uses', {
    header: 'Asked for',
    cell: (cell) => <span className="right">{cell.getValue() > 0 ? count(cell.getValue()) : ''}</span>,
  }),
  help.accessor('rows', {
    header: 'Rows',
    cell: (cell) => <span className="right">{count(cell.getValue())}</span>,
  }),
];
const SORT: Record<string, string> = {
  kind: 'kind',
  path: 'path',
  source: 'source',
  level: 'level',
  priority: 'priority',
  standing: 'standing',
  bytes: 'size',
  uses: 'use',
};
const ROW = 32;

/** The dense table of assets: only the rows in view are drawn, further pages come as the end nears. */
export function AssetTable({
  rows,
  total,
  chosen,
  selection,
  select,
  choose,
  open,
  sort,
  descending,
  sortBy,
  more,
  kept,
  keep,
}: {
  rows: AssetRow[];
  total: number;
  chosen: string | null;
  selection: Selection;
  select: (selection: Selection) => void;
  choose: (row: AssetRow) => void;
  open: (row: AssetRow) => void;
  sort: string;
  descending: boolean;
  sortBy: (key: string) => void;
  more: () => void;
  kept: Kept;
  keep: (change: (before: Kept) => Kept) => void;
}) {
  const columnVisibility = useMemo(
    () => Object.fromEntries(COLUMN_KEYS.map((key) => [key, isShown(kept, key)])),
    [kept],
  );
  const table = useReactTable({
    data: rows,
    columns,
    getCoreRowModel: getCoreRowModel(),
    getRowId: (row) => row.id,
    state: { columnVisibility },
  });
  const template = `30px ${tracksOf(kept)}`;
  const scroller = useRef<HTMLDivElement>(null);
  /** The row whose box was pressed last: with the shift key all from there are. */
  const last = useRef<string | null>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const lines = virtual.getVirtualItems();
  const lastLine = lines.at(-1)?.index ?? 0;
  useEffect(() => {
    if (lastLine > rows.length - 40 && rows.length < total) more();
  }, [lastLine, rows.length, total, more]);
  const at = rows.findIndex((row) => row.id === chosen);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new choice scrolls, not every new row
  useEffect(() => {
    if (at >= 0) virtual.scrollToIndex(at);
  }, [at]);
  const body = table.getRowModel().rows;
  return (
    <div ref={scroller} className="grow scrolled">
      <div className="grid" role="grid" aria-label="Assets" aria-rowcount={total}>
        <div className="cells header" role="row" style={{ gridTemplateColumns: template }}>
          <div role="columnheader" className="box">
            <input
              type="checkbox"
              aria-label="Choose all that match"
              title="All that match"
              checked={isEverything(selection)}
              ref={(box) => {
                if (box) box.indeterminate = !isEverything(selection) && countOf(selection, total) > 0;
              }}
              onChange={() => select(isEverything(selection) ? NOTHING_SELECTED : EVERYTHING)}
            />
          </div>
          {table.getHeaderGroups()[0]?.headers.map((header) => {
            const key = SORT[header.id];
            const here = key !== undefined && key === sort;
            return (
              <div
                key={header.id}
                role="columnheader"
                className={header.id === 'rows' ? 'head-cell right' : 'head-cell cut'}
                {...(here ? { 'aria-sort': descending ? 'descending' : 'ascending' } : {})}
              >
                {key ? (
                  <button type="button" onClick={() => sortBy(key)}>
                    {flexRender(header.column.columnDef.header, header.getContext())}
                    {here ? (descending ? ' ↓' : ' ↑') : ''}
                  </button>
                ) : (
                  flexRender(header.column.columnDef.header, header.getContext())
                )}
                <Widen
                  label={COLUMNS[header.id as ColumnKey].label}
                  width={kept.widths[header.id as ColumnKey]}
                  widen={(width) => keep((before) => withWidth(before, header.id as ColumnKey, width))}
                />
              </div>
            );
          })}
        </div>
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {lines.map((line) => {
            const row = body[line.index];
            return row ? (
              <div
                key={row.id}
                role="row"
                tabIndex={row.id === chosen || (!chosen && line.index === 0) ? 0 : -1}
                className="cells line"
                aria-rowindex={line.index + 1}
                aria-selected={isSelected(selection, row.id)}
                aria-current={row.id === chosen}
                style={{ gridTemplateColumns: template, transform: `translateY(${line.start}px)` }}
                onClick={() => choose(row.original)}
                onDoubleClick={() => open(row.original)}
                onKeyDown={(event) => {
                  if (event.key === ' ') choose(row.original);
                }}
              >
                <div role="gridcell" className="box">
                  <input
                    type="checkbox"
                    tabIndex={-1}
                    aria-label={`Choose ${row.original.path}`}
                    checked={isSelected(selection, row.id)}
                    onClick={(event) => {
                      event.stopPropagation();
                      const since = event.shiftKey ? rows.findIndex(({ id }) => id === last.current) : -1;
                      const [from, to] = [Math.min(since, line.index), Math.max(since, line.index)];
                      const these = since < 0 ? [row.id] : rows.slice(from, to + 1).map(({ id }) => id);
                      select(withSelected(selection, these, !isSelected(selection, row.id)));
                      last.current = row.id;
                    }}
                    onChange={() => undefined}
                    onDoubleClick={(event) => event.stopPropagation()}
                  />
                </div>
                {row.getVisibleCells().map((cell) => (
                  <div
                    key={cell.id}
                    role="gridcell"
                    tabIndex={-1}
                    className={cell.column.id === 'rows' ? 'right' : 'cut'}
                  >
                    {flexRender(cell.column.columnDef.cell, cell.getContext())}
                  </div>
                ))}
              </div>
            ) : null;
          })}
        </div>
      </div>
    </div>
  );
}
