import { Button, Menu } from '@mantine/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { useSessionQuery } from '../app/api.ts';
import { latelyOf } from './lately.ts';
import { opens } from './opens.ts';
import { useSearchesQuery } from './searchesApi.ts';

/** So many of what was searched for lately are offered. */
const LATELY = 6;

/** Searches that one keeps, that others share, and that were made lately. @param keep opens the way to keep the one that stands */
export function SearchesMenu({ filter, keep }: { filter: string; keep: () => void }) {
  const navigate = useNavigate();
  const { data = [] } = useSearchesQuery();
  const person = useSessionQuery().data?.person?.id ?? '';
  const [lately, setLately] = useState<readonly string[]>([]);
  const [mine, shared] = [data.filter(({ madeBy }) => madeBy === null), data.filter(({ madeBy }) => madeBy !== null)];
  const entries = (list: typeof data) =>
    list.map((search) => (
      <Menu.Item
        key={search.id}
        onClick={() => navigate(opens(search.filter))}
        rightSection={search.madeBy ? <span className="quiet small">{search.madeBy}</span> : null}
      >
        {search.name}
      </Menu.Item>
    ));
  return (
    <Menu position="bottom-end" withinPortal onOpen={() => setLately(latelyOf(person).searches.slice(0, LATELY))}>
      <Menu.Target>
        <Button variant="subtle" px={6} size="compact-xs">
          Searches
        </Button>
      </Menu.Target>
      <Menu.Dropdown maw={420} mah={420} className="scrolled">
        {filter ? <Menu.Item onClick={keep}>Keep this search …</Menu.Item> : null}
        {mine.length > 0 ? <Menu.Label>Yours</Menu.Label> : null}
        {entries(mine)}
        {shared.length > 0 ? <Menu.Label>Shared</Menu.Label> : null}
        {entries(shared)}
        {lately.length > 0 ? <Menu.Label>Lately</Menu.Label> : null}
        {lately.map((text) => (
          <Menu.Item key={text} onClick={() => navigate(opens(text))}>
            <span className="mono small">{text}</span>
          </Menu.Item>
        ))}
        <Menu.Divider />
        <Menu.Item onClick={() => navigate('/catalog/searches')}>All searches</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
