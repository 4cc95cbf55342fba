import type { CoverageAnswer, GovernedBy } from '@idrel/contract/coverage';
import { Box } from '@mantine/core';
import { Link } from 'react-router';
import { opens } from '../catalog/index.ts';
import { count, plural } from '../marks/index.tsx';
import { Figures } from './Figures.tsx';

/** How assets are governed now: what would raise it most, and the figures. */
export const Governed = ({ data, by }: { data: CoverageAnswer; by: GovernedBy }) => (
  <>
    {data.nudges.length > 0 ? (
      <Box component="section" mb={20} mt={12}>
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
    <Figures data={data} rows={[data.all, ...data.rows]} narrowed={by === 'domain'} />
    {data.more > 0 ? <p className="quiet small">and {count(data.more)} more with fewer assets</p> : null}
  </>
);
