import '@mantine/spotlight/styles.css';
import type { AssetRow } from '@idrel/contract/catalog';
import { useMantineColorScheme } from '@mantine/core';
import { createSpotlight, Spotlight } from '@mantine/spotlight';
import { useEffect, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { useAssetsQuery } from '../catalog/index.ts';
import { KindMark } from '../marks/index.tsx';
import { VIEWS } from './views.ts';

/** Commands and assets by name: Ctrl K, type, Enter. */
export default function CommandPalette({ close }: { close: () => void }) {
  const navigate = useNavigate();
  const { toggleColorScheme } = useMantineColorScheme();
  const [store, spotlight] = useMemo(() => createSpotlight(), []);
  const [text, setText] = useState('');
  useEffect(() => spotlight.open(), [spotlight]);
  const quoted = text
    .trim()
    .split(/\s+/)
    .map((word) => word.replace(/[^\p{L}\p{N}_]/gu, ''))
    .filter(Boolean)
    .join(' ');
  const found = useAssetsQuery({ filter: quoted, limit: 8 }, { skip: quoted.length < 2 });
  const matches = (label: string) => label.toLowerCase().includes(text.toLowerCase());
  const commands = [
    ...VIEWS.map(([path, label]) => ({ id: path, label: `Go to ${label}`, onClick: () => navigate(`/${path}`) })),
    { id: 'register', label: 'Register a source', onClick: () => navigate('/sources/new') },
    { id: 'policy', label: 'Make a policy', onClick: () => navigate('/access?edit=new') },
    { id: 'try', label: 'Try a query as somebody', onClick: () => navigate('/access?show=try') },
    { id: 'api', label: 'Read the API reference', onClick: () => navigate('/settings/api') },
    { id: 'theme', label: 'Light or dark', onClick: () => toggleColorScheme() },
  ].filter((command) => matches(command.label));
  const assets: readonly AssetRow[] = quoted.length < 2 ? [] : (found.data?.items ?? []);
  return (
    <Spotlight.Root store={store} query={text} onQueryChange={setText} onSpotlightClose={close} shortcut={null}>
      <Spotlight.Search placeholder="A command, or the name of an asset" aria-label="Commands" />
      <Spotlight.ActionsList>
        {assets.map((asset) => (
          <Spotlight.Action
            key={asset.id}
            onClick={() => navigate(`/assets/${asset.id}`)}
            label={asset.path}
            leftSection={<KindMark kind={asset.kind} />}
            description={asset.source}
          />
        ))}
        {commands.map((command) => (
          <Spotlight.Action key={command.id} label={command.label} onClick={command.onClick} />
        ))}
        {assets.length + commands.length === 0 ? <Spotlight.Empty>Nothing of that name.</Spotlight.Empty> : null}
      </Spotlight.ActionsList>
    </Spotlight.Root>
  );
}
