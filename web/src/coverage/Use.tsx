import type { UsedAsset } from '@idrel/contract/coverage';
import { Link } from 'react-router';
import { opens } from '../catalog/index.ts';
import { bytes, count, KindMark, Name, plural, When } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCoverageUseQuery } from './api.ts';

/** What is asked for most, what would gain most by being governed, and what nobody asks for. */
export function Use({ domain }: { domain: string | undefined }) {
  const { data, error, refetch, isFetching } = useCoverageUseQuery({ domain });
  if (error && !data) return <Trouble error={error} what="What is used cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const { totals, filters } = data;
  return (
    <div className={isFetching ? 'fading' : undefined}>
      <p className="told">
        Of what holds rows, <Link to={`${opens(filters.used)}&sort=use&down=1`}>{count(totals.used)}</Link> were asked
        for within 90 days, and <Link to={`${opens(filters.unused)}&sort=size&down=1`}>{count(totals.unused)}</Link>{' '}
        were not; of <Link to={opens(filters.untold)}>{count(totals.untold)}</Link> the source does not tell.
      </p>
      {totals.used === 0 ? (
        <Empty title="Nothing is known to be in use">
          <p>
            Sources that count the statements which they are asked tell it with a scan; what is asked through the
            gateway counts, too.
          </p>
        </Empty>
      ) : (
        <>
          <section className="part" aria-label="What would gain most" style={{ marginTop: 14 }}>
            <h2>What would gain most</h2>
            {data.nudges.length === 0 ? (
              <p className="quiet">All that is asked for has an owner, a description, terms and a standing.</p>
            ) : (
              <>
                <p className="quiet small">
                  By how often it is asked for, times how much it lacks. Open one to give it that.
                </p>
                <Rows
                  label="What would gain most"
                  rows={data.nudges}
                  last="Lacks"
                  tell={({ lacks }) => lacks.join(', ')}
                />
              </>
            )}
          </section>
          <div className="halves">
            <section aria-label="Asked for most">
              <h2>Asked for most</h2>
              <p className="quiet small">Roles of sources, and people through the gateway.</p>
              <Rows label="Asked for most" rows={data.popular} last="By" tell={by} />
            </section>
            <section aria-label="Columns asked for most">
              <h2>Columns asked for most</h2>
              <p className="quiet small">A statement that reads a column counts for it.</p>
              <Rows label="Columns asked for most" rows={data.columns} last="By" tell={by} />
            </section>
          </div>
        </>
      )}
      <section className="part" aria-label="Never asked for" style={{ marginTop: 22 }}>
        <h2>Never asked for</h2>
        {data.unused.length === 0 ? (
          <p className="quiet">Nothing that has been here for 90 days, of sources that tell.</p>
        ) : (
          <Listing heads={['Name', 'Source', num('Room'), 'Here since', 'Last asked for']} label="Never asked for">
            {data.unused.map((asset) => (
              <tr key={asset.id}>
                <NameCell asset={asset} />
                <td>{asset.source}</td>
                <td className="num">{asset.bytes === null ? '–' : bytes(asset.bytes)}</td>
                <td>
                  <When at={asset.since} />
                </td>
                <td>{asset.askedAt ? <When at={asset.askedAt} /> : <span className="quiet">never</span>}</td>
              </tr>
            ))}
          </Listing>
        )}
      </section>
    </div>
  );
}

const by = ({ askedBy, statements }: UsedAsset) => `${count(askedBy)}, ${plural(statements, 'query', 'queries')}`;

const NameCell = ({ asset }: { asset: UsedAsset }) => (
  <td>
    <span className="row">
      <KindMark kind={asset.kind} />
      <Link to={`/assets/${asset.id}#use`}>
        <Name text={asset.path} most={38} />
      </Link>
    </span>
  </td>
);

const Rows = ({
  label,
  rows,
  last,
  tell,
}: {
  label: string;
  rows: readonly UsedAsset[];
  last: string;
  tell: (asset: UsedAsset) => string;
}) => (
  <Listing heads={['Name', num('Asked for'), last]} label={label}>
    {rows.map((asset) => (
      <tr key={asset.id}>
        <NameCell asset={asset} />
        <td className="num">{count(asset.uses)}</td>
        <td className="small">{tell(asset)}</td>
      </tr>
    ))}
  </Listing>
);
