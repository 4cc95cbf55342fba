import type { PolicyBody, ReachAnswer } from '@idrel/contract/access';
import { readPolicyFilter } from '@idrel/core/access/policyFilter';
import { Button } from '@mantine/core';
import { memo, useEffect } from 'react';
import { Link } from 'react-router';
import { count, KindMark, plural, When } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { useLazyReachQuery } from './api.ts';
import { Later } from './Later.tsx';
import { asSent } from './policyFields.ts';
import { WhoReads } from './WhoReads.tsx';

/** Whether a filter is one that a policy can hold by. */
function isReadable(filter: string | null): boolean {
  try {
    return filter !== null && Boolean(readPolicyFilter(filter));
  } catch {
    return false;
  }
}

/** Whether it is said by what rows are limited, where they are. */
const isSaid = (rows: PolicyBody['rows']) =>
  rows === null ||
  (rows.column.trim() !== '' &&
    rows.attribute !== '' &&
    (rows.through === null || Object.values(rows.through).every((part) => part.trim() !== '')));

const isComplete = (draft: PolicyBody) =>
  (draft.everyone || draft.groupIds.length + draft.personIds.length > 0) &&
  (draft.effect === 'allow' && draft.opens === 'see' ? draft.assetIds.length > 0 : isWhole(draft));
const isWhole = (draft: PolicyBody) =>
  (draft.assetIds.length + draft.classKeys.length > 0 || isReadable(draft.filter)) &&
  (draft.filter === null || isReadable(draft.filter)) &&
  isSaid(draft.rows);
interface Reached {
  policyId: string | null;
  draft: PolicyBody;
  extend: (() => void) | null;
}

/** Who would gain or lose what if the draft were saved now: long lists, drawn when they are others. */
export const Reach = memo(
  ReachOf,
  (before, after) =>
    before.policyId === after.policyId &&
    before.draft === after.draft &&
    (before.extend === null) === (after.extend === null),
);

function ReachOf({ policyId, draft, extend }: Reached) {
  const complete = isComplete(draft);
  const isSeen = draft.effect === 'allow' && draft.opens === 'see';
  const [ask, { data, error, isFetching }] = useLazyReachQuery();
  // The name changes nothing of what is reached.
  const asked = complete ? JSON.stringify({ ...asSent(draft), name: 'draft' }) : null;
  useEffect(() => {
    if (asked === null) return;
    const asking = ask({ policyId, draft: JSON.parse(asked) as PolicyBody }, true);
    // What is not wanted any more is not computed to its end.
    return () => asking.abort();
  }, [ask, asked, policyId]);
  if (!complete)
    return (
      <>
        <h2>Reach</h2>
        <p className="quiet">
          Say for whom the policy is and what it holds for: then everybody who would gain or lose something is listed
          here, before anything is saved.
        </p>
      </>
    );
  if (error) return <Trouble error={error} what="The reach cannot be computed" />;
  if (!data)
    return (
      <>
        <h2>Reach</h2>
        <p className="quiet">Computing …</p>
      </>
    );
  return (
    <div className={isFetching ? 'stack fading' : 'stack'}>
      <h2>Reach, if saved now</h2>
      <p role="status">
        {data.sight.rows.length > 0 && data.rows.length + data.limited.length === 0 ? (
          <Seen sight={data.sight} />
        ) : data.rows.length === 0 && data.limited.length === 0 ? (
          isSeen ? (
            'Nobody sees more or less than by the policies and roles that are in force.'
          ) : (
            'Nobody gains or loses anything against the policies in force.'
          )
        ) : data.rows.length === 0 ? (
          `${plural(new Set(data.limited.map(({ personId }) => personId)).size, 'person', 'people')} would read other rows of ${plural(new Set(data.limited.map(({ tableId }) => tableId)).size, 'table')}.`
        ) : (
          <>
            {plural(data.people, 'person', 'people')}, {plural(data.tables, 'table')}, {plural(data.columns, 'column')},
            of these <strong>{count(data.sensitive)} guarded or sealed</strong>. {count(data.gains)} gained,{' '}
            {count(data.losses)} lost, {count(data.masked)} masked.
          </>
        )}
      </p>
      <p className="quiet small">
        {isSeen
          ? 'What comes to lie in the named assets later is seen as well. No values are read by it: for that a policy allows to read, beside it.'
          : draft.filter !== null
            ? `Whatever comes to match ${draft.filter} later${draft.assetIds.length > 0 ? ' below the named assets' : ''} will be reached as well.`
            : draft.assetIds.length > 0 && draft.columns === null
              ? 'Tables and columns added later below the named assets will be reached as well.'
              : draft.classKeys.length > 0
                ? 'Columns recognised later as one of these classes will be reached as well.'
                : ''}
        {[
          '',
          ...(draft.hours && !isSeen ? ['It is counted as within its hours.'] : []),
          ...(draft.purposes.length > 0 && !isSeen ? ['It is counted as for who states one of its purposes.'] : []),
        ].join(' ')}
      </p>
      {!isSeen &&
      (draft.columns === null || draft.columnsBut || draft.filter !== null || draft.classKeys.length > 0) ? (
        <Later policyId={policyId} draft={draft} />
      ) : null}
      {data.rows.length + data.limited.length > 0 && data.sight.rows.length > 0 ? (
        <p>
          <Seen sight={data.sight} />
        </p>
      ) : null}
      <SeenRows rows={data.sight.rows} />
      <Unseen rows={data.unseen} />
      <Used rows={data.used} />
      <Limited rows={data.limited} />
      <PassedOn rows={data.passedOn} extend={extend} />
      {data.otherwise.length > 0 ? (
        <section aria-label="Left empty instead">
          <h3>Left empty instead</h3>
          <p className="small">
            {plural(data.otherwise.length, 'column')} cannot be hidden in the way chosen and{' '}
            {data.otherwise.length === 1 ? 'is' : 'are'} left empty:
          </p>
          <Listing heads={['Column', 'Why']}>
            {data.otherwise.slice(0, 12).map((row) => (
              <tr key={row.columnId}>
                <td className="mono">
                  {row.table}.{row.column}
                </td>
                <td>{row.why}</td>
              </tr>
            ))}
          </Listing>
          {data.otherwise.length > 12 ? (
            <p className="quiet small">and {count(data.otherwise.length - 12)} more</p>
          ) : null}
        </section>
      ) : null}
      {data.rows.length > 0 ? <WhoReads rows={data.rows.slice(0, 300)} levels /> : null}
      {data.rows.length > 300 ? (
        <p className="quiet">and {count(data.gains + data.losses + data.masked - 300)} more</p>
      ) : null}
    </div>
  );
}

/** More than a policy lets be seen: that is for a role. */
const SEEN_MOST = 100_000;

/** How many come to see how much, or see it no more. */
function Seen({ sight: { gains, losses, assets } }: { sight: ReachAnswer['sight'] }) {
  const people = (n: number) => plural(n, 'person', 'people');
  return (
    <>
      {[
        ...(gains > 0 ? [`${people(gains)} ${gains === 1 ? 'comes' : 'come'} to see`] : []),
        ...(losses > 0 ? [`${people(losses)} ${losses === 1 ? 'sees' : 'see'} no more`] : []),
      ].join(', ')}{' '}
      that {assets > SEEN_MOST ? `more than ${count(SEEN_MOST)} assets` : plural(assets, 'asset')}{' '}
      {assets === 1 ? 'is' : 'are'} there, and what {assets === 1 ? 'it means' : 'they mean'}.
    </>
  );
}

/** Who comes to see what. */
function SeenRows({ rows }: { rows: ReachAnswer['sight']['rows'] }) {
  if (rows.length === 0) return null;
  return (
    <section aria-label="Who sees it">
      <Listing heads={['Person', 'Asset', 'Then']}>
        {rows.slice(0, 50).map((row) => (
          <tr key={`${row.personId} ${row.assetId}`}>
            <td>{row.person}</td>
            <td>
              <KindMark kind={row.kind} />{' '}
              <Link to={`/assets/${row.assetId}`} className="mono">
                {row.path}
              </Link>
            </td>
            <td>{row.comes ? 'is seen' : 'is seen no more'}</td>
          </tr>
        ))}
      </Listing>
      {rows.length > 50 ? <p className="quiet small">and more</p> : null}
    </section>
  );
}

/** What people would lose that they asked for of late. */
function Used({ rows }: { rows: ReachAnswer['used'] }) {
  if (rows.length === 0) return null;
  return (
    <section aria-label="In use">
      <h3 className="attention">In use in the last 30 days</h3>
      <Listing heads={['Person', 'Loses', num('Asked'), 'Last']}>
        {rows.slice(0, 12).map((row) => (
          <tr key={`${row.personId} ${row.tableId} ${row.column}`}>
            <td>{row.person}</td>
            <td className="mono">{row.column === null ? `rows of ${row.table}` : `${row.table}.${row.column}`}</td>
            <td className="num">{plural(row.times, 'time')}</td>
            <td className="oneline">
              <When at={row.at} />
            </td>
          </tr>
        ))}
      </Listing>
      {rows.length > 12 ? <p className="quiet small">and {count(rows.length - 12)} more</p> : null}
    </section>
  );
}

/** Who would get other rows than now. */
function Limited({ rows }: { rows: ReachAnswer['limited'] }) {
  if (rows.length === 0) return null;
  const told = (limits: readonly string[]) => limits.join('; ') || 'all rows';
  return (
    <section aria-label="Rows">
      <h3>Rows</h3>
      <Listing heads={['Person', 'Table', 'Now', 'Then']}>
        {rows.slice(0, 100).map((row) => (
          <tr key={`${row.personId} ${row.tableId}`}>
            <td>{row.person}</td>
            <td className="mono">{row.table}</td>
            <td className="quiet">{told(row.before)}</td>
            <td>{told(row.after)}</td>
          </tr>
        ))}
      </Listing>
      {rows.length > 100 ? <p className="quiet small">and {count(rows.length - 100)} more</p> : null}
    </section>
  );
}

/** Views and loads that carry the guarded values on to where the policy does not hold. */
function PassedOn({ rows, extend }: { rows: ReachAnswer['passedOn']; extend: (() => void) | null }) {
  if (rows.length === 0) return null;
  return (
    <section aria-label="Carried on">
      <h3 className="attention">Carried on, and read there as it is</h3>
      <p className="small">
        Lineage carries the guarded values into {plural(rows.length, 'other column')} that people whom the policy is for
        may read:
      </p>
      <Listing heads={['Column', 'Comes from', num('People')]}>
        {rows.slice(0, 12).map((row) => (
          <tr key={row.columnId}>
            <td>
              <Link to={`/assets/${row.columnId}`} className="mono">
                {row.table}.{row.column}
              </Link>
            </td>
            <td className="mono quiet">{row.from}</td>
            <td className="num">{count(row.people)}</td>
          </tr>
        ))}
      </Listing>
      {rows.length > 12 ? <p className="quiet small">and {count(rows.length - 12)} more</p> : null}
      {extend ? (
        <Button variant="default" size="compact-sm" onClick={extend}>
          Extend the policy to what carries the values on
        </Button>
      ) : null}
    </section>
  );
}

/** Who gains something that is not there for them. */
function Unseen({ rows }: { rows: ReachAnswer['unseen'] }) {
  if (rows.length === 0) return null;
  const domains = [...new Set(rows.map(({ domain }) => domain))];
  const people = (domain: string) => [
    ...new Set(rows.filter((row) => row.domain === domain).map(({ person }) => person)),
  ];
  const sources = (domain: string) => [
    ...new Set(rows.filter((row) => row.domain === domain).map(({ source }) => source)),
  ];
  return (
    <section aria-label="Who does not see it">
      <h3>Who does not see it</h3>
      {domains.map((domain) => (
        <p key={domain} className="small">
          {people(domain).join(', ')}: without a role in {domain}, nothing of {sources(domain).join(', ')} is there for
          them, whatever policies open. Roles are given under Settings; a policy can let them see just this.
        </p>
      ))}
    </section>
  );
}
