import type { News } from '@idrel/contract/exchange';
import { factsOf } from '@idrel/contract/things';
import { changesOf, gathered, spoken } from '@idrel/core/exchange';
import { Box, Button, Group, SegmentedControl } from '@mantine/core';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { useAddress } from '../app/address.ts';
import { useKeys } from '../app/keys.tsx';
import { Value } from '../journal/index.ts';
import { count, plural, When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useNewsQuery, useReadNewsMutation, useSubscriptionsQuery } from './newsApi.ts';
import { Subscriptions } from './Subscriptions.tsx';

/** So often it is looked for what came meanwhile, in milliseconds. */
const LOOKS = 60_000;
const PARTS = [
  { value: 'news', label: 'News' },
  { value: 'subscriptions', label: 'Subscriptions' },
];

/** What others changed of what one has oneself told of, and of what that is. */
export function Component() {
  useCrumbs({ text: 'News' });
  const [params, put] = useAddress();
  const part = params.get('show') === 'subscriptions' ? 'subscriptions' : 'news';
  return (
    <div className="page">
      <div className="head">
        <h1 className="grow">News</h1>
        <SegmentedControl
          aria-label="What is shown"
          value={part}
          onChange={(value) => put({ show: value === 'news' ? null : value })}
          data={PARTS}
        />
      </div>
      {part === 'news' ? <Came /> : <Subscriptions />}
    </div>
  );
}

/** What came, page by page; what is shown is read. */
function Came() {
  const [before, setBefore] = useState<readonly number[]>([]);
  const at = before.at(-1) ?? null;
  const { data, error, refetch } = useNewsQuery(at, { pollingInterval: LOOKS, skipPollingIfUnfocused: true });
  const { data: subscriptions } = useSubscriptionsQuery();
  /** By which subscription something came, where another one than that of the thing itself. */
  const because = ({ because: by, subjectId }: News): string | null => {
    const own = subscriptions?.items.find(({ id }) => id === by);
    return own?.name && own.subjectId !== subjectId ? `by ${own.what} ${own.name}` : null;
  };
  const [read] = useReadNewsMutation();
  const newest = at === null ? data?.items[0] : undefined;
  // What was unread when one came stays marked until one goes: it is what one came for.
  const fresh = useRef(new Set<string>());
  for (const { id, unread } of data?.items ?? []) if (unread) fresh.current.add(id);
  useEffect(() => {
    if (newest?.unread) void read(Number(newest.id));
  }, [newest?.id, newest?.unread, read]);
  useKeys('News', [{ key: 'r', what: 'look for news', act: () => void refetch() }]);
  if (error && !data) return <Trouble error={error} what="The news cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  if (data.items.length === 0 && at === null)
    return (
      <Empty title="No news">
        <p>
          Under <em>Subscribe</em> on the page of an asset, a term or a domain, and beside a search in the catalog, you
          have yourself told what others change of it. It comes here, and by mail if you like.
        </p>
      </Empty>
    );
  return (
    <>
      <Listing heads={['When', 'What', 'Who', 'Change']} label="News">
        {gathered(data.items).map(({ first, more }) => (
          <tr key={first.id}>
            <td className="oneline">
              <When at={first.at} />
              {fresh.current.has(first.id) ? <div className="unread small">new</div> : null}
            </td>
            <td className="anywhere">
              {/* Names are broken only where they are long. */}
              <Box miw={210}>
                {factsOf(first.kind)?.label ?? first.kind} <About news={first} />
                {more > 0 ? <div>and {plural(more, 'other')}</div> : null}
                <div className="quiet small">
                  {[first.domain, because(first)].filter((words) => words !== null).join(' · ')}
                </div>
              </Box>
            </td>
            <td>
              {first.person ?? 'Idrel'}
              {first.byKey ? <div className="quiet small">by the key “{first.byKey}”</div> : null}
            </td>
            <td className="anywhere">
              {first.action}
              {changesOf(first).map(({ field, before: old }) => (
                <div key={field} className="small">
                  <span className="quiet">{spoken(field)}: </span>
                  {old === null ? null : <>{old} → </>}
                  {first.after ? <Value field={field} value={first.after[field]} /> : 'removed'}
                </div>
              ))}
            </td>
          </tr>
        ))}
      </Listing>
      <Group mt={12}>
        {before.length > 0 ? (
          <Button variant="default" onClick={() => setBefore(before.slice(0, -1))}>
            Newer
          </Button>
        ) : null}
        {data.next ? (
          <Button variant="default" onClick={() => setBefore([...before, Number(data.next)])}>
            Older
          </Button>
        ) : (
          <span className="quiet small">That is all. News is kept for {count(90)} days.</span>
        )}
      </Group>
    </>
  );
}

/** What news is about, with the way to it. What was removed is nowhere any more. */
function About({ news }: { news: News }) {
  const address = news.after === null ? undefined : factsOf(news.kind)?.address?.(news.subjectId);
  const name = <span className="mono">{news.subject}</span>;
  return address ? <Link to={address}>{name}</Link> : name;
}
