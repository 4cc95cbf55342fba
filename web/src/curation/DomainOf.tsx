import type { AssetAnswer } from '@idrel/contract/catalog';
import { Button, Group, Select, Stack } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { Editable } from '../marks/Editable.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { actionIn, HELD, useActionOptions } from './ActionFields.tsx';
import { DomainMoves } from './DomainMoves.tsx';
import { usePrepared } from './usePrepared.ts';

/** The domain that an asset lies in, and the way into another one, after what that would change was shown. */
export function DomainOf({ asset }: { asset: AssetAnswer }) {
  const [open, setOpen] = useState(false);
  const may = useMayAnywhere('source administrator') && asset.kind !== 'column';
  if (open) return <Mover asset={asset} close={() => setOpen(false)} />;
  return (
    <span>
      {may ? (
        <Editable label="Domain" onOpen={() => setOpen(true)}>
          {asset.domain}
        </Editable>
      ) : (
        <Link to={`/settings/domains?domain=${asset.domainId}`}>{asset.domain}</Link>
      )}
      {asset.ownDomain ? <div className="small quiet">chosen for it, not that of what holds it</div> : null}
    </span>
  );
}

function Mover({ asset, close }: { asset: AssetAnswer; close: () => void }) {
  const [to, setTo] = useState('');
  const options = useActionOptions('domain').filter(
    ({ value, label }) => value !== asset.domainId && (asset.ownDomain || label !== HELD),
  );
  const { seen, problem, looking, go, starting } = usePrepared(
    { ids: [asset.id] },
    actionIn({ what: 'domain', to, value: '' }),
    close,
  );
  return (
    <Stack onKeyDown={(event) => event.key === 'Escape' && close()}>
      <Select
        aria-label="Domain"
        placeholder="Which domain"
        description="What lies in it moves along, now and when it is scanned again."
        searchable
        autoFocus
        data={options}
        value={to || null}
        onChange={(value) => setTo(value ?? '')}
      />
      <ProblemNotice problem={problem} />
      {looking ? <p className="quiet">Looking …</p> : null}
      {seen?.refused ? (
        <p className="attention small">It takes a source administrator of both domains to move it.</p>
      ) : null}
      {seen ? <DomainMoves moves={seen.moves} /> : null}
      <Group>
        <Button size="compact-sm" disabled={!seen?.changes} loading={starting} onClick={() => void go()}>
          Move
        </Button>
        <Button variant="subtle" size="compact-sm" onClick={close}>
          Leave
        </Button>
      </Group>
    </Stack>
  );
}
