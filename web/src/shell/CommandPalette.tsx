import '@mantine/spotlight/styles.css';
import { useMantineColorScheme } from '@mantine/core';
import { createSpotlight, Spotlight } from '@mantine/spotlight';
import { useEffect, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { useSessionQuery } from '../app/api.ts';
import { latelyOf, useAssetsQuery } from '../catalog/index.ts';
import { Gravest, KindMark } from '../marks/index.tsx';
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
    { id: 'tags', label: 'Tags', onClick: () => navigate('/glossary/tags') },
    { id: 'many', label: 'Your changes of many', onClick: () => navigate('/catalog/many') },
    { id: 'policy', label: 'Make a policy', onClick: () => navigate('/access?edit=new') },
    { id: 'try', label: 'Try a query as somebody', onClick: () => navigate('/access?show=try') },
    { id: 'news', label: 'Go to News', onClick: () => navigate('/news') },
    {
      id: 'subscriptions',
      label: 'See what you have yourself told of',
      onClick: () => navigate('/news?show=subscriptions'),
    },
    { id: 'api', label: 'Read the API reference', onClick: () => navigate('/settings/api') },
    { id: 'theme', label: 'Light or dark', onClick: () => toggleColorScheme() },
  ].filter((command) => matches(command.label));
  const person = useSessionQuery().data?.person?.id ?? '';
  // Before anything is typed: what was looked at last.
  const [lately] = useState(() => latelyOf(person).assets.slice(0, 5));
  const assets = quoted === '' ? lately : quoted.length < 2 ? [] : (found.data?.items ?? []);
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
            rightSection={'notices' in asset ? <Gravest notices={asset.notices} /> : null}
            description={'source' in asset ? asset.source : 'looked at lately'}
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
