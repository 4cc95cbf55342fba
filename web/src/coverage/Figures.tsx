import type { CoverageAnswer, CoverageRow } from '@idrel/contract/coverage';
import { Tooltip } from '@mantine/core';
import { Link } from 'react-router';
import { opens } from '../catalog/index.ts';
import { count, Evidence, percent } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';

/** Shares of assets, row by row; each figure opens the assets behind it. @param rows the first stands for all of the others @param named whether each says what it is about; not where there is one, of what the page is about */
export function Figures({
  data,
  rows,
  named = true,
}: {
  data: CoverageAnswer;
  rows: readonly CoverageRow[];
  named?: boolean;
}) {
  return (
    <Listing
      heads={[
        named && 'Name',
        num('Assets'),
        ...data.measures.map(({ label, help }) => ({
          text: (
            <Tooltip label={help}>
              {/* biome-ignore lint/a11y/noNoninteractiveTabindex: the explanation is reached by keyboard too */}
              <span tabIndex={0}>{label}</span>
            </Tooltip>
          ),
        })),
      ]}
      className="spaced"
    >
      {rows.map((row, index) => (
        <Line key={row.filter || 'all'} row={row} data={data} named={named} strong={index === 0} />
      ))}
    </Listing>
  );
}

const Line = ({
  row,
  data,
  named,
  strong,
}: {
  row: CoverageRow;
  data: CoverageAnswer;
  named: boolean;
  strong: boolean;
}) => (
  <tr>
    {named ? <td style={{ paddingLeft: row.depth * 16, fontWeight: strong ? 620 : undefined }}>{row.name}</td> : null}
    <td className="num">
      <Link to={opens(row.filter)}>{count(row.assets)}</Link>
    </td>
    {data.measures.map((measure, index) => {
      const met = row.counts[index] ?? 0;
      const share = row.assets === 0 ? 0 : met / row.assets;
      return (
        <td key={measure.key}>
          <Link
            to={opens(row.filter, measure.filter)}
            aria-label={`${measure.label}: ${percent(share)}, ${count(met)} of ${count(row.assets)}, ${row.name}`}
            title={`${count(met)} of ${count(row.assets)}`}
          >
            <Evidence share={share} narrow />
          </Link>
        </td>
      );
    })}
  </tr>
);
