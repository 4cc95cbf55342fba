import type { AssetAnswer } from '@idrel/contract/catalog';
import { Group, Select, Stack } from '@mantine/core';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { AtSource, HowRead, useExplainQuery } from '../access/index.ts';
import { useSessionQuery } from '../app/api.ts';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { usePeopleQuery } from '../people/index.ts';
import { SECTIONS } from './assetSections.ts';

/** The section that the reader is at. */
export function useReader(): string {
  const [here, setHere] = useState<string>('meaning');
  useEffect(() => {
    const root = document.getElementById('main');
    const seen = () => {
      const passed = SECTIONS.filter(
        ([key]) => (document.getElementById(key)?.getBoundingClientRect().top ?? 9999) < 160,
      );
      setHere(passed.at(-1)?.[0] ?? 'meaning');
    };
    root?.addEventListener('scroll', seen, { passive: true });
    return () => root?.removeEventListener('scroll', seen);
  }, []);
  return here;
}

export function WhoCanRead({ asset }: { asset: AssetAnswer }) {
  const session = useSessionQuery();
  const me = session.data?.person?.id ?? '';
  const [person, setPerson] = useState(me);
  const people = usePeopleQuery();
  const mayList = useMayAnywhere('policy administrator');
  const { data, error } = useExplainQuery({ person: person || me, asset: asset.id }, { skip: !me });
  return (
    <Stack>
      <Group align="flex-end">
        <Select
          label="Who"
          w={240}
          data={(people.data ?? []).map((entry) => ({ value: entry.id, label: entry.name }))}
          value={person || me}
          onChange={(value) => setPerson(value ?? me)}
          searchable
        />
        {mayList ? (
          <Link className="under" to={`/access?show=explain&asset=${asset.id}`}>
            All who can read it
          </Link>
        ) : null}
      </Group>
      {error ? <Trouble error={error} what="This cannot be explained" /> : null}
      {data?.length === 0 ? (
        <p className="quiet">
          Policies decide about tables, views and files, which it is not: see those that it holds.
        </p>
      ) : null}
      {data?.map((table) => (
        <div key={table.tableId}>
          <h3>
            {table.path}: {{ yes: 'yes', partly: 'partly', no: 'no' }[table.access]}
          </h3>
          <AtSource ways={table.atSource} />
          <Listing>
            {table.columns.map((column) => (
              <tr key={column.name}>
                <td className="mono">{column.name}</td>
                <td>
                  <HowRead column={column} />
                </td>
                <td className="quiet">
                  {column.reasons.map((reason) => `${reason.effect}: ${reason.policy}`).join('; ') ||
                    'no policy allows it'}
                </td>
              </tr>
            ))}
          </Listing>
        </div>
      ))}
    </Stack>
  );
}
