import { Box, Button, Group } from '@mantine/core';
import { Link } from 'react-router';
import { Name, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { useClassLabel } from './classLabels.ts';
import { useSwitchEffectQuery } from './detectorsApi.ts';

const SHOWN = 12;

/** What carries a class by detectors that are to be switched off, before they are. */
export function SwitchOff({ ids, act, leave }: { ids: readonly string[]; act: () => void; leave: () => void }) {
  const { data } = useSwitchEffectQuery(ids);
  const labelOf = useClassLabel();
  if (!data) return null;
  const going = data.columns - data.confirmed;
  return (
    <Box component="section" className="notice calm" aria-label="Before it is switched off" mb={12}>
      <p role="status">
        {data.columns === 0
          ? 'Nothing carries a class by '
          : `${plural(data.columns, 'column')} ${data.columns === 1 ? 'carries' : 'carry'} a class by `}
        {ids.length === 1 ? ids[0] : `these ${ids.length} detectors`}.
        {going > 0
          ? ` ${plural(going, 'column')} ${going === 1 ? 'loses' : 'lose'} it with the next scan of the source.`
          : ''}
        {data.confirmed > 0
          ? ` ${plural(data.confirmed, 'column')} that people confirmed ${data.confirmed === 1 ? 'keeps' : 'keep'} it.`
          : ''}
        {data.alone.length > 0 ? ` Nothing else looks for: ${data.alone.join(', ')}.` : ''}
      </p>
      {data.shown.length > 0 ? (
        <Listing label="What carries it">
          {data.shown.slice(0, SHOWN).map((column) => (
            <tr key={`${column.assetId}:${column.classKey}`}>
              <td>
                <Link to={`/assets/${column.assetId}#findings`}>
                  <Name text={column.path} most={46} />
                </Link>{' '}
                <span className="small quiet">{column.source}</span>
              </td>
              <td>{labelOf(column.classKey)}</td>
              <td className="quiet">{column.state === 'to-settle' ? 'to settle' : column.state}</td>
            </tr>
          ))}
        </Listing>
      ) : null}
      {data.columns > SHOWN ? (
        <p className="quiet small">and {data.columns - Math.min(SHOWN, data.shown.length)} more</p>
      ) : null}
      <Group mt={8}>
        <Button onClick={act}>Switch off</Button>
        <Button variant="subtle" onClick={leave}>
          Leave on
        </Button>
      </Group>
    </Box>
  );
}
