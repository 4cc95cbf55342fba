import type { AssetRow } from '@idrel/contract/catalog';
import { both, type FilterKey, hasWords, SORTS, toggled } from '@idrel/core/catalog';
import { Box, Button, Group, SegmentedControl } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useEffect, useMemo, useState } from 'react';
import { Panel, PanelGroup, PanelResizeHandle } from 'react-resizable-panels';
import { Link, useNavigate } from 'react-router';
import { ASKED_MOST } from '../access/index.ts';
import { useAddress, useLatest } from '../app/address.ts';
import { useSessionQuery } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { draftIn, ManyPanel, SheetMenu, whatInWords } from '../curation/index.ts';
import { Subscribe } from '../exchange/index.ts';
import { count } from '../marks/index.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { AssetTable } from './AssetTable.tsx';
import { useAssetPagesInfiniteQuery, useFacetsQuery } from './api.ts';
import { Builder } from './Builder.tsx';
import { ColumnsMenu } from './ColumnsMenu.tsx';
import { Facets } from './Facets.tsx';
import { KeepSearch } from './KeepSearch.tsx';
import { sortedBy, useKeptColumns } from './keptColumns.ts';
import { searched } from './lately.ts';
import { ReadAs } from './ReadAs.tsx';
import { ReadingPane } from './ReadingPane.tsx';
import { SearchesMenu } from './SearchesMenu.tsx';
import {
  choiceOf,
  countOf,
  EVERYTHING,
  isEverything,
  isSelected,
  NOTHING_SELECTED,
  type Selection,
  withSelected,
} from './selection.ts';
import { Tree, type TreeChoice } from './Tree.tsx';

/** The catalog: tree, table, reading pane. Everything chosen stands in the address. */
export function Component() {
  const [params, put] = useAddress();
  const navigate = useNavigate();
  const filter = params.get('filter') ?? '';
  const inTree = params.get('in') ?? '';
  const under = params.get('under') ?? '';
  const sort = SORTS.find((one) => one === params.get('sort')) ?? 'relevance';
  const descending = params.get('down') === '1';
  const by = params.get('by') === 'source' ? 'source' : 'domain';
  const chosen = params.get('asset');
  // One came here from a term or a tag, to find what should carry it.
  const given = draftIn(params.get('give'));
  // Keys that are held down pass a dozen rows a second: the first and the last are read.
  const here = useLatest(chosen);
  const [resting] = useDebouncedValue(chosen, 150, { leading: true });
  const [editing, setEditing] = useState<string | null>(null);
  const [kept, keep] = useKeptColumns();
  const [changing, setChanging] = useState(false);
  const [keeping, setKeeping] = useState(false);
  const [building, setBuilding] = useState(false);
  const search = JSON.stringify([filter, inTree, under]);
  // What is selected belongs to what was searched for: another search begins with nothing.
  const [selected, setSelected] = useState({ search, selection: NOTHING_SELECTED });
  const selection = selected.search === search ? selected.selection : NOTHING_SELECTED;
  const select = (next: Selection) => setSelected({ search, selection: next });
  const toggle = (id: string) =>
    setSelected((before) => {
      const now = before.search === search ? before.selection : NOTHING_SELECTED;
      return { search, selection: withSelected(now, [id], !isSelected(now, id)) };
    });
  useCrumbs({ text: 'Catalog', to: '/catalog' }, ...(filter ? [{ text: filter }] : []));

  const whole = inTree ? both(inTree, filter) : filter;
  const query = { filter: whole, sort, descending, ...(under ? { under } : {}) };
  const pages = useAssetPagesInfiniteQuery(query);
  const facets = useFacetsQuery({ filter: whole, ...(under ? { under } : {}) });
  const rows = useMemo(() => pages.data?.pages.flatMap((page) => page.items) ?? [], [pages.data]);
  const total = pages.data?.pages[0]?.total ?? 0;
  const readAs = pages.data?.pages[0]?.readAs;
  const picked = countOf(selection, total);

  const person = useSessionQuery().data?.person?.id ?? '';
  // What is still being written is no search yet.
  const [rested] = useDebouncedValue(filter, 1500);
  useEffect(() => {
    if (person && rested && rested === filter) searched(person, rested);
  }, [person, rested, filter]);

  const move = (step: number) => {
    const at = rows.findIndex((row) => row.id === here.now());
    const next = rows[Math.max(0, Math.min(rows.length - 1, at + step))];
    if (next) put({ asset: here.go(next.id) });
  };
  useKeys('Catalog', [
    { key: 'j', what: 'next row', act: () => move(1) },
    { key: 'k', what: 'row before', act: () => move(-1) },
    { key: 'ArrowDown', what: 'next row', act: () => move(1) },
    { key: 'ArrowUp', what: 'row before', act: () => move(-1) },
    { key: 'Enter', what: 'open the page of the row', act: () => here.now() && navigate(`/assets/${here.now()}`) },
    { key: 'e', what: 'edit the description', act: () => setEditing(here.now()) },
    {
      key: 'x',
      what: 'choose the row for a change of many',
      act: () => {
        const id = here.now();
        if (id) toggle(id);
      },
    },
    {
      key: 'shift+X',
      what: 'choose all that match, or none',
      act: () => select(isEverything(selection) ? NOTHING_SELECTED : EVERYTHING),
    },
    { key: 'c', what: 'change what is chosen', act: () => picked > 0 && setChanging(true) },
    {
      key: 'Escape',
      what: 'close the pane',
      act: () => (changing && picked > 0 ? setChanging(false) : put({ asset: null })),
    },
  ]);
  const chooseInTree = (choice: TreeChoice) =>
    put({ in: choice.filter || null, under: choice.under ?? null, node: choice.id, asset: null });
  const narrow = (key: FilterKey, value: string) => {
    put({ filter: toggled(filter, key, value), asset: null });
  };
  return (
    <PanelGroup direction="horizontal" autoSaveId="idrel-catalog" className="panes">
      <h1 className="hidden-visually">Catalog</h1>
      <Panel defaultSize={19} minSize={12}>
        <div className="pane">
          <Box pt={10} px={10} pb={4}>
            <SegmentedControl
              fullWidth
              value={by}
              onChange={(value) => put({ by: value === 'source' ? 'source' : null, in: null, under: null, node: null })}
              data={[
                { value: 'domain', label: 'Domains' },
                { value: 'source', label: 'Sources' },
              ]}
            />
          </Box>
          <Tree by={by} chosen={params.get('node')} choose={chooseInTree} />
        </div>
      </Panel>
      <PanelResizeHandle className="handle" />
      <Panel minSize={30}>
        <div className="pane upright">
          <Group wrap="wrap" className="toolbar">
            <span role="status">
              {pages.isLoading ? 'Looking …' : `${count(total)} ${total === 1 ? 'asset' : 'assets'}`}
            </span>
            {filter ? (
              <button
                type="button"
                className="chip on"
                onClick={() => put({ filter: null })}
                aria-label={`Remove the filter ${filter}`}
              >
                {filter} <span aria-hidden="true">×</span>
              </button>
            ) : null}
            <span className="grow" />
            {picked > 0 ? (
              <Group gap={6}>
                <strong>{count(picked)} chosen</strong>
                <Button size="compact-xs" onClick={() => setChanging(true)}>
                  Change …
                </Button>
                {selection.all || picked > ASKED_MOST ? null : (
                  <Button
                    size="compact-xs"
                    variant="default"
                    component={Link}
                    to={`/access?show=requests&ask=${[...selection.ids].join(',')}`}
                  >
                    Ask for access
                  </Button>
                )}
                <Button size="compact-xs" variant="subtle" onClick={() => select(NOTHING_SELECTED)}>
                  None
                </Button>
              </Group>
            ) : (
              <>
                <Button
                  variant="subtle"
                  px={6}
                  size="compact-xs"
                  aria-expanded={building}
                  onClick={() => setBuilding(!building)}
                >
                  Conditions
                </Button>
                <SearchesMenu filter={under ? '' : (readAs?.filter ?? whole)} keep={() => setKeeping(true)} />
                {whole && !under ? (
                  <Subscribe what="search" of={readAs?.filter ?? whole} called="what it finds" small />
                ) : null}
                <ColumnsMenu kept={kept} keep={keep} />
                <SheetMenu filter={readAs?.filter ?? whole} under={under} />
              </>
            )}
            {whole && !under && picked === 0 ? (
              <Button
                variant="subtle"
                px={6}
                size="compact-xs"
                onClick={() => navigate(`/routines?routine=new&filter=${encodeURIComponent(readAs?.filter ?? whole)}`)}
              >
                As a routine
              </Button>
            ) : null}
            <Facets facets={facets.data ?? []} filter={filter} narrow={narrow} />
          </Group>
          {keeping && whole && !under ? (
            <KeepSearch key={whole} filter={readAs?.filter ?? whole} close={() => setKeeping(false)} />
          ) : null}
          {building ? (
            <Builder
              filter={filter}
              facets={facets.data ?? []}
              search={(built) => put({ filter: built || null, asset: null })}
              close={() => setBuilding(false)}
            />
          ) : null}
          {given && picked === 0 ? (
            <div className="notice calm row" role="note">
              <span className="grow">
                Choose what it is for ({whatInWords(given.what)}): x for a row, Shift X for all that match. Then press
                Change.
              </span>
              <Button size="compact-xs" variant="subtle" onClick={() => put({ give: null })}>
                Never mind
              </Button>
            </div>
          ) : null}
          {readAs ? (
            <ReadAs
              readAs={readAs}
              filter={whole}
              search={(read) => put({ filter: read, in: null, node: under ? params.get('node') : null, asset: null })}
            />
          ) : null}
          {pages.error && rows.length === 0 ? (
            <Trouble error={pages.error} what="The filter could not be answered" again={() => void pages.refetch()} />
          ) : pages.isLoading ? (
            <Coming />
          ) : rows.length === 0 ? (
            <Empty title={whole || under ? 'Nothing here matches' : 'The catalog is empty'}>
              {whole || under ? (
                <p>
                  Take a condition away, or search for the beginning of a word.{' '}
                  <button
                    type="button"
                    className="linkish"
                    onClick={() => put({ filter: null, in: null, under: null, node: null })}
                  >
                    Show everything
                  </button>
                </p>
              ) : (
                <p>
                  What scans find stands here. <a href="/sources/new">Register a source</a>, then scan it.
                </p>
              )}
            </Empty>
          ) : (
            <AssetTable
              rows={rows}
              total={total}
              chosen={chosen}
              selection={selection}
              select={select}
              choose={(row: AssetRow) => put({ asset: here.go(row.id) })}
              open={(row) => navigate(`/assets/${row.id}`)}
              sort={sort}
              descending={descending}
              sortBy={(key) =>
                // Of what is most, the most stands first.
                put({ sort: key, down: (sort === key ? !descending : key === 'size' || key === 'use') ? '1' : null })
              }
              kept={sortedBy(kept, sort)}
              keep={keep}
              more={() => {
                if (pages.hasNextPage && !pages.isFetching) void pages.fetchNextPage();
              }}
            />
          )}
        </div>
      </Panel>
      {changing && picked > 0 ? (
        <>
          <PanelResizeHandle className="handle" />
          <Panel defaultSize={31} minSize={22}>
            <ManyPanel
              choice={choiceOf(selection, readAs?.filter ?? whole, under)}
              chosen={picked}
              given={given}
              close={() => setChanging(false)}
              begun={() => {
                setChanging(false);
                select(NOTHING_SELECTED);
              }}
            />
          </Panel>
        </>
      ) : chosen ? (
        <>
          <PanelResizeHandle className="handle" />
          <Panel defaultSize={31} minSize={22}>
            <ReadingPane
              id={chosen}
              passing={resting !== chosen}
              editing={editing === chosen}
              setEditing={(open) => setEditing(open ? chosen : null)}
              foundBy={hasWords(whole) ? { filter: whole, ...(under ? { under } : {}) } : undefined}
            />
          </Panel>
        </>
      ) : null}
    </PanelGroup>
  );
}
