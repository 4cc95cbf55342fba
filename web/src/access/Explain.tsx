import type { Explained } from '@idrel/contract/access';
import { decidedLimitInWords } from '@idrel/core/access/words';
import { Group, Select, Stack } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { useAddress } from '../app/address.ts';
import { useAssetQuery, useAssetsQuery } from '../catalog/index.ts';
import { When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { usePeopleQuery } from '../people/index.ts';
import { useExplainQuery } from './api.ts';
import { HowRead } from './HowRead.tsx';
import { asSentence } from './maskWords.ts';
import { Purpose } from './Purpose.tsx';

/** By what right a login reads, as part of a sentence. */
function byRight({ how, holder, through, chain }: Explained['atSource'][number]): string {
  if (how === 'grant' && holder === '') return 'everybody may';
  const member = chain.length > 1 ? `${holder}, of which it is a member` : null;
  if (how === 'grant') return `by a right of ${member ?? 'its own'}`;
  if (how === 'owner') return member ? `the owner is ${member}` : 'it is the owner';
  if (how === 'superuser') return member ? `it can become the superuser ${member}` : 'it is a superuser';
  return `by ${through}, of which ${chain.length > 1 ? `${holder} is a member, and it of ${holder}` : 'it is a member'}`;
}

/** By what rights at the source itself they read it, whatever the policies say. */
function AtSource({ ways }: { ways: Explained['atSource'] }) {
  if (ways.length === 0) return null;
  return (
    <div className="notice">
      {ways.map((way) => (
        <p key={`${way.login} ${way.how} ${way.holder} ${way.through}`}>
          At the source they read {way.columns === null ? 'all of it' : way.columns.join(', ')} as{' '}
          <span className="mono">{way.login}</span>: {byRight(way)}
          {way.since ? (
            <>
              , found <When at={way.since} />
            </>
          ) : null}
          {way.limited ? '; row policies of the table itself limit what comes' : ''}.
        </p>
      ))}
    </div>
  );
}

/** Any person, any asset: yes, partly or no, with the policies behind it. */
export function Explain() {
  const [params, put] = useAddress();
  const [person, asset, purpose] = [params.get('person'), params.get('asset'), params.get('for')];
  const people = usePeopleQuery();
  const [text, setText] = useState('');
  const [asked] = useDebouncedValue(text.replace(/[^\p{L}\p{N}_]+/gu, ' ').trim(), 150);
  const found = useAssetsQuery({
    filter: `${asked.includes(' ') ? '' : asked} kind:table,view,"materialised view","foreign table",schema`,
    limit: 50,
  });
  const { data, error } = useExplainQuery(
    { person: person ?? '', asset: asset ?? '', purpose },
    { skip: !person || !asset },
  );
  const purposes = [...new Set((data ?? []).flatMap((table) => table.purposes))];
  // The one that the address names is among the options also when the search would not find it.
  const named = useAssetQuery(asset ?? '', { skip: !asset });
  const options = [
    ...(found.data?.items ?? []),
    ...(named.data && !found.data?.items.some((entry) => entry.id === asset) ? [named.data] : []),
  ].map((entry) => ({
    value: entry.id,
    label: `${entry.path} (${entry.source})`,
  }));
  return (
    <Stack>
      <Group align="flex-end" maw={720}>
        <Select
          className="grow"
          label="May"
          searchable
          placeholder="Choose a person"
          data={(people.data ?? []).map((entry) => ({ value: entry.id, label: entry.name }))}
          value={person}
          onChange={(value) => put({ person: value })}
        />
        <Select
          className="grow"
          label="read"
          searchable
          placeholder="Search a table, view or schema"
          data={options}
          value={asset}
          onChange={(value) => put({ asset: value })}
          searchValue={text}
          onSearchChange={setText}
          filter={({ options }) => options}
          nothingFoundMessage="Nothing of that name"
        />
      </Group>
      {person && asset ? null : (
        <p className="quiet">
          Choose a person and a table, view or schema. For each column it says whether the person reads it as it is,
          masked, or not at all, and which policies decide it.
        </p>
      )}
      {error ? <Trouble error={error} what="This cannot be explained" /> : null}
      {data?.length === 0 ? (
        <p className="quiet">Policies hold for tables and views of databases; there is none here.</p>
      ) : null}
      {purposes.length > 0 || purpose ? (
        <Purpose purposes={purposes} stated={purpose} state={(stated) => put({ for: stated })} />
      ) : null}
      {data?.map((table) => (
        <section key={table.tableId}>
          <h2>
            <span className="mono">{table.path}</span>: {table.access}
          </h2>
          {table.rowLimits.map((limit) => (
            <p key={limit.policy}>
              {asSentence(decidedLimitInWords(limit))}: {limit.policy}
            </p>
          ))}
          <AtSource ways={table.atSource} />
          <Listing widths={[220, 200]} heads={['Column', 'How it is read', 'By which policies']}>
            {table.columns.map((column) => (
              <tr key={column.name}>
                <td className="mono">{column.name}</td>
                <td>
                  <HowRead column={column} />
                </td>
                <td>
                  {column.reasons.length > 0 ? (
                    column.reasons.map((reason) => `${reason.effect}: ${reason.policy}`).join(' · ')
                  ) : (
                    <span className="quiet">no policy allows it</span>
                  )}
                </td>
              </tr>
            ))}
          </Listing>
        </section>
      ))}
    </Stack>
  );
}
