import { where } from '@idrel/core/catalog';
import { Button, Group, SegmentedControl, Stack } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { saveFile } from '../app/files.ts';
import { sayProblem } from '../app/say.ts';
import { opens, useAssetQuery } from '../catalog/index.ts';
import { KindMark, Name } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { useImpactQuery, useImpactSheetMutation } from './api.ts';
import { SumBySwitch, SumChips } from './SumChips.tsx';
import { type SumBy, valuesOf } from './sums.ts';

export function ImpactList({
  asset,
  direction,
  setDirection,
}: {
  asset: string;
  direction: 'upstream' | 'downstream';
  setDirection: (direction: string) => void;
}) {
  const { data, error } = useImpactQuery({ asset, direction });
  const { data: start } = useAssetQuery(asset);
  const [make, making] = useImpactSheetMutation();
  const [by, setBy] = useState<SumBy>('owner');
  const [only, setOnly] = useState<string | null>(null);
  const rows = (data ?? []).filter((row) => only === null || valuesOf(row, by).includes(only));
  const take = async (format: 'csv' | 'xlsx') => {
    try {
      saveFile(await make({ asset, direction, format }).unwrap());
    } catch (failed) {
      sayProblem(failed, 'The list was not written');
    }
  };
  return (
    <Stack>
      <SegmentedControl
        aria-label="Direction"
        value={direction}
        onChange={setDirection}
        data={[
          { value: 'downstream', label: 'Downstream' },
          { value: 'upstream', label: 'Upstream' },
        ]}
      />
      {error ? <Trouble error={error} what="The list cannot be shown" /> : null}
      {data?.length === 0 ? <p className="quiet">Nothing lies {direction}.</p> : null}
      {start && data && data.length > 0 ? (
        <p className="quiet small">
          {direction === 'downstream' ? (
            <>
              <Link to={`/lineage/change?asset=${asset}`}>What would a change of it do?</Link>{' '}
            </>
          ) : null}
          <Link to={opens(where(direction, start.path), where('kind', 'any'))}>Open them in the catalog</Link>, to
          narrow them down or to do something with all.
        </p>
      ) : null}
      {data && data.length > 0 ? (
        <>
          <Group gap={8} wrap="wrap">
            <SumBySwitch
              by={by}
              setBy={(value) => {
                setBy(value);
                setOnly(null);
              }}
            />
            <Button variant="default" size="compact-xs" loading={making.isLoading} onClick={() => void take('csv')}>
              As CSV
            </Button>
            <Button variant="default" size="compact-xs" loading={making.isLoading} onClick={() => void take('xlsx')}>
              As a workbook
            </Button>
          </Group>
          <SumChips rows={data} by={by} only={only} setOnly={setOnly} />
        </>
      ) : null}
      {data && data.length > 0 ? (
        <Listing heads={[num('Steps'), 'Asset', 'How', 'Owner']}>
          {rows.map((row) => (
            <tr key={row.id}>
              <td className="num">{row.distance}</td>
              <td>
                <span className="row">
                  <KindMark kind={row.kind} />
                  <Link to={`/assets/${row.id}`} title={row.way.join(' → ')}>
                    <Name text={row.path} most={28} />
                  </Link>
                </span>
              </td>
              <td>{row.how}</td>
              <td>{row.owners.join(', ') || <span className="attention">none</span>}</td>
            </tr>
          ))}
        </Listing>
      ) : null}
    </Stack>
  );
}
