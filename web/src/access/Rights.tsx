import { Button, Group, Select, Stack } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { useAddress } from '../app/address.ts';
import { count, KindMark, Name, plural, When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useRightsQuery } from './api.ts';
import { lastDay } from './Conditions.tsx';

const AT_ONCE = 100;

/** Which rights are looked for: those that nobody uses, those that end. They stand in the address. */
export function UnusedOrEnding() {
  const [params, put] = useAddress();
  return (
    <Group align="flex-end">
      <Select
        label="Not used"
        w={190}
        clearable
        placeholder="whether used or not"
        data={[
          { value: '30', label: 'for 30 days' },
          { value: '90', label: 'for 90 days' },
          { value: '365', label: 'for a year' },
        ]}
        value={params.get('unused')}
        onChange={(days) => put({ unused: days })}
      />
      <Select
        label="Ending"
        w={190}
        clearable
        placeholder="whenever"
        data={[
          { value: '7', label: 'within a week' },
          { value: '30', label: 'within 30 days' },
          { value: '90', label: 'within 90 days' },
        ]}
        value={params.get('ending')}
        onChange={(days) => put({ ending: days })}
      />
    </Group>
  );
}

/** Rights that policies give: who reads what, until when, and whether they do. */
export function Rights({ edit }: { edit: (policy: string) => void }) {
  const [params] = useAddress();
  const [unused, ending] = [params.get('unused'), params.get('ending')];
  const [limit, setLimit] = useState(AT_ONCE);
  const { data, error, refetch, isFetching } = useRightsQuery({
    limit: Math.min(limit, 200),
    ...(unused ? { unusedFor: Number(unused) } : {}),
    ...(ending ? { endingWithin: Number(ending) } : {}),
  });
  if (error) return <Trouble error={error} what="The rights cannot be shown" again={() => void refetch()} />;
  return (
    <Stack>
      <UnusedOrEnding />
      {!data ? (
        <Coming lines={4} />
      ) : data.items.length === 0 ? (
        <Empty title="None">
          <p>
            {unused || ending
              ? 'No right of the policies that you administer is so.'
              : 'No policy in the domains whose policies you administer allows anything yet.'}
          </p>
        </Empty>
      ) : (
        <>
          <p className="quiet small" role="status">
            {count(data.total)} rights. What was read through the gateway counts as use, as far as it is kept; what was
            read at a source by a right of its own does not.
          </p>
          <Listing heads={['Whom', 'Policy', 'Reads', 'Until', 'Last used']} className={isFetching ? 'fading' : ''}>
            {data.items.map(
              ({
                policyId,
                policy,
                requestId,
                shareId,
                subject,
                assets,
                assetCount,
                opens,
                givenBy,
                until,
                lastUsed,
              }) => (
                <tr key={`${policyId} ${subject.kind} ${subject.id ?? ''}`}>
                  <td>
                    {subject.name}
                    {subject.kind === 'group' ? <span className="quiet small"> (group)</span> : null}
                  </td>
                  <td>
                    {requestId ? (
                      <Link to={`/access?show=requests&request=${requestId}`}>{policy}</Link>
                    ) : shareId ? (
                      <Link to={`/access?show=shares&share=${shareId}`}>{policy}</Link>
                    ) : (
                      <button type="button" className="linkish" onClick={() => edit(policyId)}>
                        {policy}
                      </button>
                    )}
                    {givenBy ? <div className="quiet small">given on by {givenBy}</div> : null}
                  </td>
                  <td>
                    {opens === 'preview' ? <div className="quiet small">a few rows of</div> : null}
                    {opens === 'see' ? <div className="quiet small">nothing: sees the pages of</div> : null}
                    {assetCount === 0 ? <span className="quiet">whatever its filter or class finds</span> : null}
                    {assets.map((asset) => (
                      <div key={asset.id}>
                        <KindMark kind={asset.kind} />{' '}
                        <Link to={`/assets/${asset.id}`}>
                          <Name text={asset.path} most={40} />
                        </Link>
                      </div>
                    ))}
                    {assetCount > assets.length ? (
                      <div className="quiet small">and {plural(assetCount - assets.length, 'other')}</div>
                    ) : null}
                  </td>
                  <td>{until ? lastDay(until) : <span className="quiet">no end</span>}</td>
                  <td>
                    {opens === 'see' ? (
                      <span className="quiet">not counted</span>
                    ) : lastUsed ? (
                      <When at={lastUsed} />
                    ) : (
                      <span className="quiet">not yet</span>
                    )}
                  </td>
                </tr>
              ),
            )}
          </Listing>
          {data.total > data.items.length ? (
            limit < 200 ? (
              <Group>
                <Button variant="subtle" onClick={() => setLimit(limit + AT_ONCE)}>
                  {plural(data.total - data.items.length, 'more right')}
                </Button>
              </Group>
            ) : (
              <p className="quiet small">and {plural(data.total - data.items.length, 'more right')}</p>
            )
          ) : null}
        </>
      )}
    </Stack>
  );
}
