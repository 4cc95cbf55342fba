import { Box, Group } from '@mantine/core';
import { Link } from 'react-router';
import { useImpactQuery } from '../lineage/index.ts';
import { count, KindMark, Name } from '../marks/index.tsx';

export function Neighbours({ id }: { id: string }) {
  const up = useImpactQuery({ asset: id, direction: 'upstream' });
  const down = useImpactQuery({ asset: id, direction: 'downstream' });
  const list = (title: string, rows: typeof up.data) => (
    <div className="grow">
      <h3>{title}</h3>
      {rows && rows.length > 0 ? (
        <ul className="bare">
          {rows.slice(0, 12).map((row) => (
            <li key={row.id} className="row line">
              <KindMark kind={row.kind} />
              <Link to={`/assets/${row.id}`} className="cut">
                <Name text={row.path} most={34} />
              </Link>
              <span className="quiet small">
                {row.how}
                {row.distance > 1 ? `, ${row.distance} steps` : ''}
              </span>
            </li>
          ))}
        </ul>
      ) : (
        <p className="quiet">nothing known</p>
      )}
      {rows && rows.length > 12 ? <p className="quiet small">and {count(rows.length - 12)} more</p> : null}
    </div>
  );
  return (
    <>
      <Group align="flex-start" gap={24}>
        {list('Comes from', up.data)}
        {list('Goes to', down.data)}
      </Group>
      <Box component="p" mt={8}>
        <Link to={`/lineage?focus=${id}`}>See the picture</Link> ·{' '}
        <Link to={`/lineage/causes?asset=${id}`}>A figure looks wrong?</Link> ·{' '}
        <Link to={`/lineage/change?asset=${id}`}>To be changed?</Link>
      </Box>
    </>
  );
}
