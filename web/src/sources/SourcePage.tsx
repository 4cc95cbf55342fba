import { where } from '@idrel/core/catalog';
import { Box, Button, Group, Stack } from '@mantine/core';
import { Link, useNavigate, useParams } from 'react-router';
import { sayProblem } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import { Understood } from '../lineage/index.ts';
import { count, plural, When } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Part } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { HowToSend, PlanList, useRunsQuery, useStartRunMutation } from '../scanning/index.ts';
import { useCrumbs } from '../shell/crumbs.tsx';
import {
  type SourceChange,
  useChangeSourceMutation,
  useSourceKindsQuery,
  useSourceQuery,
  useTestSourceMutation,
} from './api.ts';
import { CredentialField } from './CredentialField.tsx';
import { InDomain } from './InDomain.tsx';
import { ReadBy } from './ReadBy.tsx';

/** One source: its address, the test of its connection, its runs. */
export function Component() {
  const { id = '' } = useParams();
  const navigate = useNavigate();
  const { data: source, error, refetch } = useSourceQuery(id);
  const kinds = useSourceKindsQuery();
  const runs = useRunsQuery(id);
  const [test, testing] = useTestSourceMutation();
  const [change] = useChangeSourceMutation();
  const [start, starting] = useStartRunMutation();
  useCrumbs({ text: 'Sources', to: '/sources' }, { text: source?.name ?? '…' });
  if (error) return <Trouble error={error} what="The source cannot be shown" again={() => void refetch()} />;
  if (!source) return <Coming />;
  const scan = async (sample: boolean) => {
    try {
      navigate(`/runs/${(await start({ id, sample }).unwrap()).id}`);
    } catch (failed) {
      sayProblem(failed, 'The scan was not started');
    }
  };
  const put = (changed: SourceChange, failure: string) =>
    void change({ id, version: source.version, change: changed })
      .unwrap()
      .catch((failed: unknown) => sayProblem(failed, failure));
  return (
    <div className="page">
      <div className="head">
        <div>
          <h1>{source.name}</h1>
          <p className="quiet">
            {source.kindLabel} · <span className="mono">{source.addressLine}</span> · {source.domain} ·{' '}
            {plural(source.assets, 'asset')}
          </p>
          {source.description ? (
            <Box component="p" mt={6}>
              {source.description}
            </Box>
          ) : null}
        </div>
        {source.mayScan && source.isRead ? (
          <Group>
            <Button variant="default" onClick={() => void test(id)} loading={testing.isLoading}>
              Test connection
            </Button>
            <Button variant="default" onClick={() => void scan(false)} disabled={starting.isLoading}>
              Scan structure only
            </Button>
            <Button onClick={() => void scan(true)} loading={starting.isLoading}>
              Scan
            </Button>
          </Group>
        ) : null}
      </div>
      {testing.error ? <Trouble error={testing.error} what="The test could not be made" /> : null}
      {testing.data ? (
        <Part title="Test of the connection">
          <Listing widths={[190, 90]}>
            {testing.data.map((step) => (
              <tr key={step.step}>
                <td>{step.step}</td>
                <td>
                  {step.state === 'failed' ? (
                    <strong className="attention">failed</strong>
                  ) : step.state === 'passed' ? (
                    'passed'
                  ) : (
                    <span className="quiet">not reached</span>
                  )}
                </td>
                <td>
                  <span className="written">{step.detail}</span>
                  {step.mend ? <pre className="code after">{step.mend}</pre> : null}
                </td>
                <td className="num quiet">{step.state === 'not reached' ? '' : `${step.milliseconds} ms`}</td>
              </tr>
            ))}
          </Listing>
        </Part>
      ) : null}
      {source.kind === 'pushed' ? <HowToPush id={id} /> : null}
      {source.kind === 'events' && source.mayScan ? <HowToSend id={id} /> : null}
      {source.mayScan && source.isRead ? (
        <Stack component="section" aria-label="How it is read" maw={560} mb={22}>
          {source.credentialKind !== 'none' ? (
            <CredentialField
              kind={source.credentialKind}
              openToAll={kinds.data?.find(({ kind }) => kind === source.kind)?.openToAll}
              value={source.credentialId}
              onChange={(credentialId) => put({ credentialId }, 'The credential was not changed')}
            />
          ) : null}
          <ReadBy
            value={source.agentGroup}
            onChange={(agentGroup) => put({ agentGroup }, 'Who reads it was not changed')}
          />
        </Stack>
      ) : null}
      {source.mayScan ? (
        <InDomain
          key={source.domainId}
          source={source}
          move={(domainId) => put({ domainId }, 'The source was not moved')}
        />
      ) : null}
      {source.isRead ? <PlanList source={source} /> : null}
      <Understood key={`understood:${id}`} id={id} />
      <Part label="Runs" title={source.isRead ? 'Scan runs' : 'Runs'}>
        {runs.data?.length === 0 ? (
          <Empty title={source.isRead ? 'Never scanned' : 'Nothing came yet'}>
            <p>
              {source.isRead ? 'Each scan' : 'What programs tell of it'} leaves a run here: what was found, and what was
              different from the one before.
            </p>
          </Empty>
        ) : (
          <Listing
            heads={[
              'Asked',
              'Plan, or who',
              'State',
              num('Objects'),
              num('Columns'),
              num('Findings'),
              'Different from the run before',
            ]}
          >
            {(runs.data ?? []).map((run) => (
              <tr key={run.id}>
                <td>
                  <Link to={`/runs/${run.id}`}>
                    <When at={run.askedAt} />
                  </Link>
                </td>
                <td>{run.plan ?? run.askedBy}</td>
                <td className={run.state === 'failed' ? 'attention' : ''}>{run.state}</td>
                <td className="num">{count(run.counts.objects)}</td>
                <td className="num">{count(run.counts.columns)}</td>
                <td className="num">{count(run.counts.findings)}</td>
                <td>
                  {run.comparison
                    ? run.comparison.first
                      ? 'the first'
                      : `${run.comparison.counts.new} new, ${run.comparison.counts.changed} changed, ${run.comparison.counts.gone} gone`
                    : ''}
                </td>
              </tr>
            ))}
          </Listing>
        )}
      </Part>
      <Box component="p" mt={16}>
        <Link to={opens(where('source', source.name))}>Show what it holds in the catalog</Link>
      </Box>
    </div>
  );
}

/** What a program sends, ready to be tried. */
function HowToPush({ id }: { id: string }) {
  const assets = [
    { path: ['Harbour forms'], kind: 'application' },
    { path: ['Harbour forms', 'arrivals'], kind: 'table', comment: 'One row per ship that calls' },
    { path: ['Harbour forms', 'arrivals', 'agent_email'], kind: 'column', type: 'text', values: ['ida@example.org'] },
  ];
  const example = `{"whole": false, "assets": [\n${assets.map((asset) => `  ${JSON.stringify(asset)}`).join(',\n')}\n]}`;
  return (
    <Box component="section" aria-label="How it is pushed" mb={22}>
      <h2>How it is pushed</h2>
      <p>
        A program signs in and sends what this source holds; it is compared, recognised and kept as what a scan finds.
        Of values only what the profile shows is kept, and of guarded columns nothing. See{' '}
        <Link to="/settings/api">the API reference</Link>.
      </p>
      <pre className="code after">{`POST ${window.location.origin}/api/v1/sources/${id}/push
${example}`}</pre>
    </Box>
  );
}
