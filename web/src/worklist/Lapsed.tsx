import type { Lapsed as Item } from '@idrel/contract/curation';
import { Button, Group, Stack } from '@mantine/core';
import { Link } from 'react-router';
import { Level, When } from '../marks/index.tsx';

/** An asset that is trusted no more, since something is not so any more that was asked. */
export function Lapsed({ asset, note }: { asset: Item; note: () => void }) {
  return (
    <Stack gap={16}>
      <div>
        <h2>
          <Link to={`/assets/${asset.id}`} className="mono">
            {asset.name}
          </Link>{' '}
          is no longer trusted
        </h2>
        <p className="quiet">
          {asset.kind} in {asset.source} · {asset.domain}
        </p>
      </div>
      {asset.level === null ? null : <Level level={asset.level} />}
      <p>
        {asset.by ? `${asset.by} had certified it. ` : ''}Since <When at={asset.at} /> this is open:{' '}
        <b>{asset.reason}</b>. It is reviewed until somebody certifies it again.
      </p>
      <Group>
        <Button component={Link} to={`/assets/${asset.id}`}>
          See to it
        </Button>
        <Button variant="default" onClick={note}>
          Noted <kbd>n</kbd>
        </Button>
      </Group>
    </Stack>
  );
}
