import { Button, Group, SegmentedControl } from '@mantine/core';
import { Link, useParams } from 'react-router';
import { useAddress } from '../app/address.ts';
import { count, KindMark, Name, plural } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useSourceQuery } from '../sources/index.ts';
import { useStatementsQuery } from './api.ts';
import { understood } from './understood.ts';

const AT_ONCE = 50;

/** The statements of a source of which lineage could not, or not wholly, be told, each with its reason. */
export function Component() {
  const { id = '' } = useParams();
  const [params, put] = useAddress();
  const lost = params.get('show') === 'lost';
  const offset = Number(params.get('from') ?? 0) || 0;
  const { data, error, isFetching, refetch } = useStatementsQuery({ id, lost, offset, limit: AT_ONCE });
  const { data: source } = useSourceQuery(id);
  useCrumbs(
    { text: 'Sources', to: '/sources' },
    { text: source?.name ?? '…', to: `/sources/${id}` },
    { text: 'Statements' },
  );
  if (error) return <Trouble error={error} what="Its statements cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  return (
    <div className="page">
      <div className="head">
        <div>
          <h1>Statements that tell of lineage</h1>
          <p className="quiet">
            {plural(data.flows, 'definition')} (views, functions, procedures, triggers, rules, scripts, loads, reports,
            statements that were asked): {understood(data)}. Of what is not understood nothing is known; the others were
            read, and left something open. To mend one, see its reason; what stays open can be said by hand, in the
            picture of lineage.
          </p>
        </div>
      </div>
      <Group mb={14}>
        <SegmentedControl
          aria-label="Which statements"
          value={lost ? 'lost' : 'all'}
          onChange={(value) => put({ show: value === 'lost' ? 'lost' : null, from: null })}
          data={[
            { value: 'all', label: 'All remarks' },
            { value: 'lost', label: 'Not understood' },
          ]}
        />
        <span className="quiet">{plural(data.total, 'remark')}</span>
      </Group>
      {data.items.length === 0 ? (
        <Empty title={data.statements === 0 ? 'Nothing here tells of lineage' : 'Nothing is left open'}>
          <p>
            {data.statements === 0
              ? 'No scan has found a view, a function or another definition here that you may see.'
              : 'Every statement that was found is understood.'}
          </p>
        </Empty>
      ) : (
        <Listing label="Statements" heads={['Where', num('Line'), 'What is left open', 'Statement']} widths={[260, 60]}>
          {data.items.map(({ asset, line, reason, statement, lost: isLost }, index) => (
            <tr key={`${offset + index}`}>
              <td>
                <KindMark kind={asset.kind} />{' '}
                <Link to={`/assets/${asset.id}${line === null ? '' : `?line=${line}`}`}>
                  <Name text={asset.path} most={40} />
                </Link>
              </td>
              <td className="num">{line}</td>
              <td>
                {isLost ? <strong className="attention">not understood</strong> : null}
                {isLost ? ': ' : ''}
                <span className="written">{reason}</span>
              </td>
              <td className="mono small written">{statement}</td>
            </tr>
          ))}
        </Listing>
      )}
      {data.total > AT_ONCE ? (
        <Group mt={14}>
          <Button
            variant="default"
            disabled={offset === 0}
            onClick={() => put({ from: offset > AT_ONCE ? String(offset - AT_ONCE) : null })}
          >
            Earlier ones
          </Button>
          <Button
            variant="default"
            disabled={offset + AT_ONCE >= data.total}
            onClick={() => put({ from: String(offset + AT_ONCE) })}
          >
            Further ones
          </Button>
          <span className="quiet">
            {count(offset + 1)} to {count(Math.min(offset + AT_ONCE, data.total))} of {count(data.total)}
          </span>
        </Group>
      ) : null}
      {isFetching ? <span className="hidden-visually">Loading</span> : null}
    </div>
  );
}
