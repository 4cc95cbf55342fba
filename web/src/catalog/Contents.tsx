import type { AssetAnswer, AssetRow } from '@idrel/contract/catalog';
import { type PastedTexts as Pasted, placePasted } from '@idrel/core/catalog';
import { Checkbox, Group, TextInput } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type ClipboardEvent, type KeyboardEvent, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import { MeaningCell, PastedTexts } from '../curation/index.ts';
import { Gravest, KindMark, Level, Name, plural } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { ClassChips } from '../recognition/index.ts';
import { useChildrenQuery } from './api.ts';
import { readPasted } from './readPasted.ts';

/** From so many rows on they can be searched and sorted, and only those in view are drawn. */
const MANY = 12;
const ROW = 33;
const BEYOND = 20;

const SORTS = {
  place: (_a: AssetRow, _b: AssetRow) => 0,
  name: (a: AssetRow, b: AssetRow) => a.name.localeCompare(b.name),
  type: (a: AssetRow, b: AssetRow) => (a.type ?? '').localeCompare(b.type ?? ''),
  level: (a: AssetRow, b: AssetRow) => (b.level ?? 0) - (a.level ?? 0),
} as const;
type Sort = keyof typeof SORTS;

/** What an asset holds, in its order: each meaning is written where it stands. */
export function Contents({ asset }: { asset: AssetAnswer }) {
  const { data, error } = useChildrenQuery(asset.id);
  if (asset.kind === 'column')
    return <p className="quiet">A column holds values; what they are like stands under Profile.</p>;
  if (error) return <Trouble error={error} what="What it holds cannot be shown" />;
  if (!data) return <Coming lines={4} />;
  if (data.length === 0)
    return <p className="quiet">Nothing inside{asset.native.problem ? `: ${String(asset.native.problem)}` : ''}.</p>;
  return (
    <>
      <Rows key={asset.id} all={data} may={asset.mayEdit} />
      {asset.mayEdit && data.length > 1 ? (
        <Link to={severalOf(asset.id, data)} className="small">
          Change several of these at once
        </Link>
      ) : null}
    </>
  );
}

/** The list of the catalog with what an asset holds: there several are chosen and changed. */
const severalOf = (id: string, held: readonly AssetRow[]): string =>
  `/catalog?${new URLSearchParams({ under: id, ...(held.every(({ kind }) => kind === 'column') ? { filter: 'kind:column' } : {}) })}`;

function Rows({ all, may }: { all: readonly AssetRow[]; may: boolean }) {
  const [search, setSearch] = useState('');
  const [bare, setBare] = useState(false);
  const [sort, setSort] = useState<Sort>('place');
  const [pasted, setPasted] = useState<Pasted>();
  const many = all.length > MANY;
  const rows = useMemo(() => {
    const wanted = search.trim().toLowerCase();
    const found = all.filter(
      ({ name, description, comment, type }) =>
        (!wanted || [name, description, comment, type].some((text) => text?.toLowerCase().includes(wanted))) &&
        (!bare || !description),
    );
    return sort === 'place' ? found : [...found].sort(SORTS[sort]);
  }, [all, search, bare, sort]);
  return (
    <>
      {many ? (
        <Group mb={8}>
          <TextInput
            aria-label="Search what it holds"
            placeholder={`Search ${all.length} names, types, meanings`}
            w={280}
            value={search}
            onChange={(event) => setSearch(event.currentTarget.value)}
          />
          <Checkbox
            label="Without meaning only"
            checked={bare}
            onChange={(event) => setBare(event.currentTarget.checked)}
          />
          {rows.length < all.length ? <span className="quiet small">{plural(rows.length, 'row')}</span> : null}
        </Group>
      ) : null}
      {pasted ? <PastedTexts pasted={pasted} rows={all} done={() => setPasted(undefined)} /> : null}
      {rows.length === 0 ? (
        <p className="quiet">Nothing of what it holds is like that.</p>
      ) : (
        <Table
          rows={rows}
          may={may}
          sort={many ? sort : undefined}
          sortBy={(key) => setSort((before) => (before === key ? 'place' : key))}
          paste={(lines, from) => setPasted(placePasted(lines, rows, from))}
        />
      )}
      {may ? (
        <p className="quiet small">
          <kbd>↑</kbd> <kbd>↓</kbd> go through meanings, <kbd>Enter</kbd> writes, then saves and goes on. Texts that are
          copied from a spreadsheet are pasted from the chosen one on, or by the names before them.
        </p>
      ) : null}
    </>
  );
}

function Table({
  rows,
  may,
  sort,
  sortBy,
  paste,
}: {
  rows: readonly AssetRow[];
  may: boolean;
  /** By what they are sorted; nothing where that cannot be chosen. */
  sort: Sort | undefined;
  sortBy: (key: Sort) => void;
  paste: (lines: string[][], from: number) => void;
}) {
  const table = useRef<HTMLTableElement>(null);
  const [writing, setWriting] = useState<{ readonly id: string; readonly begun: string | undefined } | null>(null);
  /** The row that is to get the keyboard: by its id, since rows come and go as they are described. */
  const [wanted, setWanted] = useState<string | null>(null);
  const [margin, setMargin] = useState(0);
  const scroller = () => table.current?.closest<HTMLElement>('.main') ?? null;
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: scroller,
    estimateSize: () => ROW,
    getItemKey: (at) => rows[at]?.id ?? at,
    overscan: BEYOND,
    scrollMargin: margin,
    enabled: rows.length > 100,
  });
  // What stands above it comes bit by bit, so its place is looked at whenever it is drawn.
  useLayoutEffect(() => {
    const [here, main] = [table.current, scroller()];
    if (!here || !main) return;
    const place = Math.round(here.getBoundingClientRect().top - main.getBoundingClientRect().top + main.scrollTop);
    if (place !== margin) setMargin(place);
  });
  const items = rows.length > 100 ? virtual.getVirtualItems() : undefined;
  const shown = items
    ? items.map(({ index }) => [index, rows[index] as AssetRow] as const)
    : rows.map((row, index) => [index, row] as const);
  const above = items?.[0] ? items[0].start - margin : 0;
  const below = items?.at(-1) ? virtual.getTotalSize() - ((items.at(-1)?.end ?? 0) - margin) : 0;
  const cellAt = (at: number) => table.current?.querySelector<HTMLElement>(`[data-at="${at}"]`);
  // A row that is out of view is drawn first, then it gets the keyboard.
  useEffect(() => {
    if (wanted === null) return;
    const at = rows.findIndex(({ id }) => id === wanted);
    const cell = at < 0 ? null : cellAt(at);
    if (at >= 0 && !cell) {
      if (rows.length > 100) virtual.scrollToIndex(at);
      return;
    }
    setWanted(null);
    cell?.focus();
    // Rows that were drawn on the way are of other heights than was thought.
    requestAnimationFrame(() => requestAnimationFrame(() => cell?.scrollIntoView({ block: 'nearest' })));
  });
  const go = (at: number) => {
    const place = Math.max(0, Math.min(rows.length - 1, at));
    if (rows.length > 100) virtual.scrollToIndex(place);
    setWanted(rows[place]?.id ?? null);
  };
  const onKey = (event: KeyboardEvent, at: number, row: AssetRow) => {
    const { key, ctrlKey, metaKey, altKey } = event;
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15, Home: -at, End: rows.length }[key];
    if (step !== undefined) {
      event.preventDefault();
      event.stopPropagation();
      go(at + step);
    } else if (key === 'F2' || key === 'Enter') {
      event.preventDefault();
      setWriting({ id: row.id, begun: undefined });
    } else if (key.length === 1 && key !== ' ' && !ctrlKey && !metaKey && !altKey && !row.description) {
      // Typed upon an empty meaning: it is its first letter, and no key of the page.
      event.preventDefault();
      event.stopPropagation();
      setWriting({ id: row.id, begun: key });
    }
  };
  const onPaste = async (event: ClipboardEvent, at: number, row: AssetRow) => {
    const text = event.clipboardData.getData('text/plain');
    if (!text.trim()) return;
    event.preventDefault();
    const lines = await readPasted(text);
    if (lines.length === 1 && lines[0]?.length === 1 && !row.description)
      setWriting({ id: row.id, begun: lines[0][0] ?? '' });
    else paste(lines, at);
  };
  const head = (key: Sort, words: string) =>
    sort === undefined ? (
      <th>{words}</th>
    ) : (
      <th aria-sort={sort === key ? 'ascending' : undefined}>
        <button type="button" className="linkish" onClick={() => sortBy(key)}>
          {words}
          {sort === key ? ' ↓' : ''}
        </button>
      </th>
    );
  return (
    <table className="plain contents-list" ref={table} aria-rowcount={rows.length + 1}>
      <thead>
        <tr>
          <th>Kind</th>
          {head('name', 'Name')}
          {head('type', 'Type')}
          <th>Meaning</th>
          <th>Classes</th>
          {head('level', 'Level')}
        </tr>
      </thead>
      <tbody>
        {above > 0 ? <tr aria-hidden style={{ height: above }} /> : null}
        {shown.map(([at, row]) => (
          <tr key={row.id} aria-rowindex={at + 2} data-index={at} ref={items ? virtual.measureElement : undefined}>
            <td>
              <KindMark kind={row.kind} />
            </td>
            <td>
              <Link to={`/assets/${row.id}`} className={row.gone ? 'gone' : undefined}>
                <Name text={row.name} most={30} />
              </Link>{' '}
              <Gravest notices={row.notices} />
            </td>
            <td className="mono quiet">{row.type ?? (row.rows === null ? '' : plural(row.rows, 'row'))}</td>
            <td className="meaning">
              {writing?.id === row.id ? (
                <MeaningCell
                  row={row}
                  begun={writing.begun}
                  close={(step) => {
                    setWriting((now) => (now?.id === row.id ? null : now));
                    if (step !== null) go(at + step);
                  }}
                />
              ) : may ? (
                <button
                  type="button"
                  className="editable"
                  data-at={at}
                  aria-label={`Meaning of ${row.name}: ${row.description ?? (row.comment ? `none yet; the source says: ${row.comment}` : 'none yet')}`}
                  onClick={() => setWriting({ id: row.id, begun: undefined })}
                  onKeyDown={(event) => onKey(event, at, row)}
                  onPaste={(event) => void onPaste(event, at, row)}
                >
                  {row.description ?? <span className="quiet">{row.comment ?? ''}</span>}
                </button>
              ) : (
                (row.description ?? <span className="quiet">{row.comment ?? ''}</span>)
              )}
            </td>
            <td>
              <ClassChips classes={row.classes} most={2} />
            </td>
            <td>
              <Level level={row.level} bare />
            </td>
          </tr>
        ))}
        {below > 0 ? <tr aria-hidden style={{ height: below }} /> : null}
      </tbody>
    </table>
  );
}
