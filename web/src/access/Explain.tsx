import { decidedLimitInWords } from '@idrel/core/access/words';
import { Group, Select, Stack } from '@mantine/core';
import { useAddress } from '../app/address.ts';
import { Listing } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { usePeopleQuery } from '../people/index.ts';
import { AssetChooser } from './AssetChooser.tsx';
import { AtSource } from './AtSource.tsx';
import { useExplainQuery, useKnownFromQuery } from './api.ts';
import { HowRead } from './HowRead.tsx';
import { MomentField, momentWords } from './MomentField.tsx';
import { asSentence } from './maskWords.ts';
import { Purpose } from './Purpose.tsx';
import { Readable, Readers } from './Readers.tsx';

/** Any person, any asset: yes, partly or no, with the policies behind it. */
export function Explain() {
  const [params, put] = useAddress();
  const [person, asset, purpose, at] = [params.get('person'), params.get('asset'), params.get('for'), params.get('at')];
  const known = useKnownFromQuery();
  const people = usePeopleQuery();
  const { data, error } = useExplainQuery(
    { person: person ?? '', asset: asset ?? '', purpose, at },
    { skip: !person || !asset },
  );
  const purposes = [...new Set((data ?? []).flatMap((table) => table.purposes))];
  return (
    <Stack>
      <Group align="flex-end" maw={940}>
        <Select
          className="grow"
          label="May"
          searchable
          placeholder="Anybody"
          clearable
          data={(people.data ?? []).map((entry) => ({ value: entry.id, label: entry.name }))}
          value={person}
          onChange={(value) => put({ person: value })}
        />
        <AssetChooser label="read" asset={asset} choose={(value) => put({ asset: value })} />
        <MomentField label="as of" at={at} choose={(moment) => put({ at: moment })} earliest={known.data?.at} />
      </Group>
      {person || asset ? null : (
        <p className="quiet">
          Choose a person, and all that they can read is listed; a table, view or schema, and all who can read it; or
          both: then it says for each column whether the person reads it as it is, masked, or not at all, and which
          policies decide it.
        </p>
      )}
      {at ? (
        <p className="notice calm" role="status">
          As it was at {momentWords(at)}. How often values repeat is as it is now.{' '}
          <button type="button" className="linkish" onClick={() => put({ at: null })}>
            Back to now
          </button>
        </p>
      ) : null}
      {person && !asset ? <Readable person={person} at={at} open={(table) => put({ asset: table })} /> : null}
      {asset && !person ? <Readers asset={asset} at={at} open={(reader) => put({ person: reader })} /> : null}
      {error ? <Trouble error={error} what="This cannot be explained" /> : null}
      {data?.length === 0 ? (
        <p className="quiet">Policies hold for tables and views of databases; there is none here.</p>
      ) : null}
      {purposes.length > 0 || purpose ? (
        <Purpose purposes={purposes} stated={purpose} state={(stated) => put({ for: stated })} />
      ) : null}
      {data?.map((table) => (
        <section key={table.path}>
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
