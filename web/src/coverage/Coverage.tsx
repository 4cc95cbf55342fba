import type { GovernedBy } from '@idrel/contract/coverage';
import { Box, Group, SegmentedControl } from '@mantine/core';
import { Link } from 'react-router';
import { useAddress } from '../app/address.ts';
import { opens } from '../catalog/index.ts';
import { plural } from '../marks/index.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useCoverageQuery, useLevelReportQuery } from './api.ts';
import { Figures } from './Figures.tsx';
import { LevelTable } from './LevelTable.tsx';

const GOVERNED_BY: readonly GovernedBy[] = ['domain', 'source', 'kind', 'priority'];

/** How far the catalog is governed: each figure opens the assets behind it. */
export function Component() {
  useCrumbs({ text: 'Coverage' });
  const [params, put] = useAddress();
  const levels = params.get('show') === 'levels';
  const asked = params.get('by') ?? '';
  const by: GovernedBy = GOVERNED_BY.find((one) => one === asked && (!levels || one !== 'priority')) ?? 'domain';
  const governed = useCoverageQuery(by, { skip: levels });
  const levelled = useLevelReportQuery(by === 'priority' ? 'domain' : by, { skip: !levels });
  const { data, error, refetch, isFetching } = levels ? levelled : governed;
  if (error && !data) return <Trouble error={error} what="The coverage cannot be shown" again={() => void refetch()} />;
  return (
    <div className={isFetching ? 'page fading' : 'page'}>
      <div className="head">
        <div>
          <h1>Coverage</h1>
          <p className="quiet">
            {levels
              ? `How sensitive the ${data ? plural(data.all.assets, 'asset') : 'assets'} that you may see are.`
              : `How far the ${data ? plural(data.all.assets, 'asset') : 'assets'} that you may see are governed.`}{' '}
            Each figure opens the assets behind it.
          </p>
        </div>
        <Group>
          <SegmentedControl
            aria-label="What is counted"
            value={levels ? 'levels' : 'governed'}
            onChange={(value) => put({ show: value === 'levels' ? 'levels' : null })}
            data={[
              { value: 'governed', label: 'How governed' },
              { value: 'levels', label: 'Levels' },
            ]}
          />
          <SegmentedControl
            aria-label="Rows by"
            value={by}
            onChange={(value) => put({ by: value === 'domain' ? null : value })}
            data={[
              { value: 'domain', label: 'By domain' },
              { value: 'source', label: 'By source' },
              { value: 'kind', label: 'By kind' },
              ...(levels ? [] : [{ value: 'priority', label: 'By priority' }]),
            ]}
          />
        </Group>
      </div>
      {!data ? (
        <Coming />
      ) : data.all.assets === 0 ? (
        <Empty title="Nothing to count yet">
          <p>
            Figures stand here once a source was scanned. <Link to="/sources">Open the sources</Link>
          </p>
        </Empty>
      ) : 'trends' in data ? (
        <LevelTable data={data} />
      ) : (
        <>
          {data.nudges.length > 0 ? (
            <Box component="section" mb={20}>
              <h2>What would raise coverage most</h2>
              <Box component="ul" mt={4} mb={0} pl={18}>
                {data.nudges.map((nudge) => (
                  <li key={nudge.filter} className="told">
                    {by === 'priority' ? (
                      <Link to={opens(nudge.filter)}>{plural(nudge.missing, `${nudge.name} asset`)}</Link>
                    ) : (
                      <>
                        <Link to={opens(nudge.filter)}>{plural(nudge.missing, 'asset')}</Link> of {nudge.name}
                      </>
                    )}{' '}
                    {nudge.lack}
                  </li>
                ))}
              </Box>
            </Box>
          ) : null}
          <Figures data={data} rows={[data.all, ...data.rows]} />
        </>
      )}
    </div>
  );
}
