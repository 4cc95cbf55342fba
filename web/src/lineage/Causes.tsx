import type { Cause } from '@idrel/contract/lineage';
import { CopyButton, Group, SegmentedControl } from '@mantine/core';
import { Link, useSearchParams } from 'react-router';
import { useAddress } from '../app/address.ts';
import { count, KindMark, Name, plural, When } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useCausesQuery } from './api.ts';

const DAYS = ['3', '14', '90'] as const;

/** A figure looks wrong: what happened upstream, the likeliest first. The address can be sent to somebody. */
export function Component() {
  const [params, put] = useAddress();
  const [asked] = useSearchParams();
  const asset = asked.get('asset') ?? '';
  const days = Number(params.get('days') ?? 14);
  const { data, error, isFetching, refetch } = useCausesQuery({ asset, days }, { skip: asset === '' });
  useCrumbs(
    { text: 'Lineage', to: '/lineage' },
    { text: data?.asset.path ?? '…', ...(data ? { to: `/assets/${data.asset.id}` } : {}) },
    { text: 'What could be wrong' },
  );
  if (error) return <Trouble error={error} what="It cannot be told what could be wrong" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const { causes, looked } = data;
  return (
    <div className="page">
      <div className="head">
        <div>
          <h1>
            What could be wrong with <Link to={`/assets/${data.asset.id}`}>{data.asset.path}</Link>
          </h1>
          <p className="quiet">
            What failed, is late, changed or is warned of in what it comes from, the likeliest first: by what happened,
            how long ago and how many steps away. Looked at: {plural(looked.assets, 'asset')} and{' '}
            {plural(looked.flows, 'flow')} upstream
            {looked.hidden > 0 ? `; ${count(looked.hidden)} more that you may not see` : ''}
            {looked.more > 0 ? `; ${count(looked.more)} more, further away, were not` : ''}.
          </p>
        </div>
      </div>
      <Group mb={14}>
        <SegmentedControl
          aria-label="How far back"
          value={String(days)}
          onChange={(value) => put({ days: value })}
          data={DAYS.map((value) => ({ value, label: `${value} days` }))}
        />
        <CopyButton value={window.location.href}>
          {({ copied, copy }) => (
            <button type="button" className="linkish" onClick={copy}>
              {copied ? 'Copied' : 'Copy the link'}
            </button>
          )}
        </CopyButton>
      </Group>
      {causes.length === 0 ? (
        <Empty title="Nothing is known to have happened">
          <p>
            In the last {days} days nothing upstream failed, was late, changed or was warned of, as far as scans and
            events tell. Look further back, or ask those who answer for what it comes from.{' '}
            <Link to={`/lineage?focus=${data.asset.id}`}>See the picture</Link>.
          </p>
        </Empty>
      ) : (
        <Listing
          label="What could be behind it"
          heads={['Weight', 'What happened', 'Where', num('Steps'), 'When']}
          widths={[130]}
        >
          {causes.map((cause) => (
            <Row key={`${cause.kind} ${cause.asset.id} ${cause.what}`} cause={cause} />
          ))}
        </Listing>
      )}
      {isFetching ? <span className="hidden-visually">Loading</span> : null}
    </div>
  );
}

const GRAVE: readonly Cause['kind'][] = ['failed run', 'failed check', 'gone', 'late run'];

function Row({ cause }: { cause: Cause }) {
  // An order, no probability: so it is not told in per cent.
  const weight = Math.round(cause.likelihood * 100);
  return (
    <tr>
      <td>
        <span className="evidence">
          <span className="bar" aria-hidden="true">
            <i style={{ width: `${Math.max(2, weight)}%` }} />
          </span>
          {weight}
        </span>
      </td>
      <td className="anywhere">
        <strong className={GRAVE.includes(cause.kind) ? 'attention' : ''}>{cause.kind}</strong>
        <div className="written">{cause.what}</div>
      </td>
      <td>
        <span className="row">
          <KindMark kind={cause.asset.kind} />
          <Link to={`/assets/${cause.asset.id}`} title={cause.way.join(' → ')}>
            <Name text={cause.asset.path} most={44} />
          </Link>
        </span>
        <div className="quiet small">{cause.asset.source}</div>
      </td>
      <td className="num">{cause.distance}</td>
      <td>{cause.at === null ? 'now' : <When at={cause.at} />}</td>
    </tr>
  );
}
