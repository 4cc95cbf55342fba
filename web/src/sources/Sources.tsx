import type { SourceAnswer } from '@idrel/contract/sources';
import { Button, Group, SegmentedControl } from '@mantine/core';
import { Link, useNavigate } from 'react-router';
import { useAddress } from '../app/address.ts';
import { useSessionQuery } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { count, KindMark, When } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useDomainsQuery } from '../people/index.ts';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useSourcesQuery } from './api.ts';
import { ordered } from './inDomains.ts';

/** All sources with their state at a glance. */
export function Component() {
  useCrumbs({ text: 'Sources' });
  const navigate = useNavigate();
  const { data, error, refetch } = useSourcesQuery();
  const session = useSessionQuery();
  const mayRegister =
    session.data?.grants.some((grant) => ['source administrator', 'administrator'].includes(grant.role)) ?? false;
  useKeys('Sources', [{ key: 'n', what: 'register a source', act: () => mayRegister && navigate('/sources/new') }]);
  const [params, put] = useAddress();
  const byDomain = params.get('by') === 'domain';
  const domains = useDomainsQuery(undefined, { skip: !byDomain });
  if (error) return <Trouble error={error} what="The sources cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  return (
    <div className="page">
      <div className="head">
        <div>
          <h1>Sources</h1>
          <p className="quiet">
            Systems that hold data or show it. Register one, then scan it to bring what it holds into the catalog.
          </p>
        </div>
        {mayRegister ? (
          <Group>
            <Button variant="default" onClick={() => navigate('/sources/agents')}>
              Agents
            </Button>
            <Button variant="default" onClick={() => navigate('/sources/credentials')}>
              Credentials
            </Button>
            <Button onClick={() => navigate('/sources/new')}>Register a source</Button>
          </Group>
        ) : null}
      </div>
      {data.length > 0 ? (
        <SegmentedControl
          mb={8}
          aria-label="Order of the sources"
          value={byDomain ? 'domain' : 'name'}
          onChange={(value) => put({ by: value === 'domain' ? 'domain' : null })}
          data={[
            { value: 'name', label: 'By name' },
            { value: 'domain', label: 'In their domains' },
          ]}
        />
      ) : null}
      {data.length === 0 ? (
        <Empty title="No source yet">
          <p>Registered sources stand here, with their last scan and what needs attention.</p>
        </Empty>
      ) : (
        <Listing heads={['Kind', 'Name', 'Address', 'Domain', 'Credential', num('Assets'), 'Last scan', 'Next scan']}>
          {ordered(data, byDomain ? (domains.data ?? []) : undefined).map((line) =>
            'heading' in line ? (
              <tr key={line.heading}>
                <td colSpan={8} style={{ paddingLeft: line.depth * 18 }}>
                  <strong>{line.heading}</strong>
                </td>
              </tr>
            ) : (
              <Line key={line.source.id} source={line.source} depth={line.depth} />
            ),
          )}
        </Listing>
      )}
    </div>
  );
}

function Line({ source, depth }: { source: SourceAnswer; depth: number }) {
  return (
    <tr>
      <td style={{ paddingLeft: depth * 18 }}>
        <KindMark kind={source.kind} />
      </td>
      <td>
        <Link to={`/sources/${source.id}`}>{source.name}</Link>
      </td>
      <td className="mono quiet">{source.addressLine}</td>
      <td>{source.domain}</td>
      <td>
        {source.credential ?? (
          <span className="quiet">{source.credentialKind === 'none' ? 'not needed' : 'none yet'}</span>
        )}
      </td>
      <td className="num">{count(source.assets)}</td>
      <td>
        {source.lastRun ? (
          <Link to={`/runs/${source.lastRun.id}`}>
            {source.lastRun.state === 'failed' ? <span className="attention">failed</span> : source.lastRun.state}{' '}
            <span className="quiet">
              <When at={source.lastRun.at} />
            </span>
          </Link>
        ) : (
          <span className="attention">never scanned</span>
        )}
      </td>
      <td>{source.nextScan ? <When at={source.nextScan} /> : <span className="quiet">when asked</span>}</td>
    </tr>
  );
}
