import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { useUnreadQuery } from './newsApi.ts';

/** So often it is looked for news, in milliseconds. */
const LOOKS = 60_000;
/** From so many on they are not counted. */
const COUNTED = 100;

/** The way to the news, with how many are unread: it says so, and nothing more. */
export function NewsButton() {
  const { data: unread = 0 } = useUnreadQuery(undefined, { pollingInterval: LOOKS, skipPollingIfUnfocused: true });
  const words = unread >= COUNTED ? `${COUNTED - 1}+` : String(unread);
  return (
    <Button variant="default" component={Link} to="/news">
      News
      {unread === 0 ? null : (
        <>
          {' '}
          <span className="unread">{words}</span>
          <span className="hidden-visually"> unread</span>
        </>
      )}
    </Button>
  );
}
