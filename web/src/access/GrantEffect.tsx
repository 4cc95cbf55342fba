import type { GrantBody, RequestAnswer } from '@idrel/contract/access';
import { count, plural } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { WhoReads } from './Reach.tsx';
import { useGrantEffectQuery } from './requestsApi.ts';

const TABLES = 12;
const ROWS = 60;
/** What lies below these is meant as well. */
const HOLDS = ['schema', 'database', 'folder', 'file set'];

/** What granting a request would open to whoever asked, before it is granted. */
export function GrantEffect({ request, grant }: { request: RequestAnswer; grant: GrantBody }) {
  const { currentData, data, error, isFetching } = useGrantEffectQuery({ id: request.id, body: grant });
  const { person } = request;
  const shown = currentData ?? data;
  if (error) return <Trouble error={error} what="What it would open cannot be computed" />;
  if (!shown) return <p className="quiet">Computing what it would open …</p>;
  const { tables, total, gains, sensitive, rows, kept } = shown;
  const opened = tables.filter(({ before, after }) => after.plain + after.masked > before.plain + before.masked).length;
  const isLater =
    (grant.columns === null || grant.columnsBut) &&
    request.assets.some(({ id, kind }) => grant.assetIds.includes(id) && kind !== 'column');
  const holds = request.assets.some(({ id, kind }) => grant.assetIds.includes(id) && HOLDS.includes(kind));
  return (
    <section aria-label="What it opens" className={isFetching ? 'stack fading' : 'stack'}>
      <h3>What it opens</h3>
      <p role="status">
        {gains === 0 && rows.length === 0 ? (
          total === 0 ? (
            'There is no table or file in it that could be read now.'
          ) : (
            `Nothing: ${person.name} reads the same as now.`
          )
        ) : (
          <>
            {person.name} would read {plural(gains, 'column')} of {plural(opened, 'table')} more than now, of these{' '}
            <strong className={sensitive > 0 ? 'attention' : ''}>{count(sensitive)} guarded or sealed</strong> as they
            are.
          </>
        )}
      </p>
      {isLater ? (
        <p className="quiet small">
          {holds
            ? 'Tables and columns that are added to it later are read as well.'
            : 'Columns that are added later are read as well.'}
          {grant.stated ? ' It is counted as for who states the purpose.' : ''}
        </p>
      ) : null}
      {kept.length > 0 ? (
        <p className="small">
          Kept all the same:{' '}
          {kept.map(({ policy, columns }) => `${plural(columns, 'column')} by “${policy}”`).join(', ')}.
        </p>
      ) : null}
      {tables.length > 1 ? (
        <Listing heads={['Table', num('Columns'), num('Now'), num('Then'), num('Masked'), num('Guarded')]}>
          {tables.slice(0, TABLES).map(({ tableId, table, columns, before, after, sensitive: guarded }) => (
            <tr key={tableId}>
              <td className="mono">{table}</td>
              <td className="num">{count(columns)}</td>
              <td className="num">{count(before.plain + before.masked)}</td>
              <td className="num">{count(after.plain + after.masked)}</td>
              <td className="num">{count(after.masked)}</td>
              <td className={guarded > 0 ? 'num attention' : 'num'}>{count(guarded)}</td>
            </tr>
          ))}
        </Listing>
      ) : null}
      {total > TABLES ? <p className="quiet small">and {plural(total - TABLES, 'more table')}</p> : null}
      {rows.length > 0 ? <WhoReads rows={rows.slice(0, ROWS)} levels /> : null}
      {rows.length > ROWS ? <p className="quiet small">and more columns</p> : null}
    </section>
  );
}
