import type { CoverageAnswer, CoverageRow } from '@idrel/contract/coverage';
import { Tooltip } from '@mantine/core';
import { Link } from 'react-router';
import { opens } from '../catalog/index.ts';
import { count, Evidence, percent } from '../marks/index.tsx';
import { Listing, num, Said } from '../marks/Listing.tsx';

type Measure = CoverageAnswer['measures'][number];

/** Shares of assets, row by row; each figure opens the assets behind it. @param rows the first stands for all of the others @param narrowed whether a name leads to the same of its domain alone */
export const Figures = ({
  data,
  rows,
  narrowed = false,
}: {
  data: CoverageAnswer;
  rows: readonly CoverageRow[];
  narrowed?: boolean;
}) => (
  <Listing
    heads={[
      'Name',
      num('Assets'),
      ...data.measures.map(({ label, help }) => ({
        text: (
          <Tooltip label={help} multiline maw={320}>
            {/* biome-ignore lint/a11y/noNoninteractiveTabindex: the explanation is reached by keyboard too */}
            <span tabIndex={0}>{label}</span>
          </Tooltip>
        ),
      })),
    ]}
    className="figures"
  >
    {rows.map((row, index) => (
      <tr key={row.key || row.filter || 'all'}>
        <td style={{ paddingLeft: row.depth * 16, fontWeight: index === 0 ? 620 : undefined }}>
          {narrowed && index > 0 ? <Link to={`/coverage?domain=${row.key}&by=source`}>{row.name}</Link> : row.name}
        </td>
        <td className="num">
          <Link to={opens(row.filter)}>{count(row.assets)}</Link>
        </td>
        {data.measures.map((measure, nth) => (
          <td key={measure.key}>
            <Figure row={row} measure={measure} met={row.counts[nth] ?? 0} />
          </td>
        ))}
      </tr>
    ))}
  </Listing>
);

/** The same of one row, one measure below the other. */
export const FiguresOfOne = ({ data, row }: { data: CoverageAnswer; row: CoverageRow }) => (
  <Listing label={`Coverage of ${row.name}`} maw={420}>
    <Said words="Assets">
      <Link to={opens(row.filter)}>{count(row.assets)}</Link>
    </Said>
    {data.measures.map((measure, nth) => (
      <Said key={measure.key} words={measure.label}>
        <Figure row={row} measure={measure} met={row.counts[nth] ?? 0} />
      </Said>
    ))}
  </Listing>
);

function Figure({ row, measure, met }: { row: CoverageRow; measure: Measure; met: number }) {
  const share = row.assets === 0 ? 0 : met / row.assets;
  return (
    <Link
      to={opens(row.filter, measure.filter)}
      aria-label={`${measure.label}: ${percent(share)}, ${count(met)} of ${count(row.assets)}, ${row.name}`}
      title={`${count(met)} of ${count(row.assets)}`}
    >
      <Evidence share={share} narrow={24} />
    </Link>
  );
}
