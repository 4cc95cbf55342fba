import type { ReadableAnswer, ReadersAnswer } from '@idrel/contract/access';
import { rightBySentence } from '@idrel/core/access/rights';
import { Link } from 'react-router';
import { count, plural } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { useReadableQuery, useReadersQuery } from './api.ts';

const ACCESS = { yes: 'all of it', partly: 'in part', no: 'nothing' } as const;
const COUNTED = 'Counted as within the hours of policies, and as for who states their purposes.';

/** All who can read an asset: by the policies, and by rights at its source. */
export function Readers({
  asset,
  at = null,
  open,
}: {
  asset: string;
  /** ISO 8601; null for now. */
  at?: string | null;
  open: (person: string) => void;
}) {
  const { data, error, isFetching } = useReadersQuery({ asset, at });
  if (error) return <Trouble error={error} what="Who reads it cannot be shown" />;
  if (!data) return <p className="quiet">Looking …</p>;
  if (data.tables === 0)
    return <p className="quiet">Policies hold for tables, views and files with columns; there is none here.</p>;
  return (
    <div className={isFetching ? 'stack fading' : 'stack'}>
      <p role="status">
        {at
          ? data.total === 0
            ? 'Nobody could read'
            : `${plural(data.total, 'person', 'people')} could read`
          : data.total === 0
            ? 'Nobody reads'
            : plural(data.total, 'person reads', 'people read')}{' '}
        something of {data.tables === 1 ? 'it' : `these ${plural(data.tables, 'table')}`}.{' '}
        <span className="quiet">{COUNTED}</span>
      </p>
      {data.people.length > 0 ? (
        <Listing
          label="Who can read it"
          heads={[
            'Person',
            'By the policies',
            num('As they are'),
            num('Masked'),
            num('Preview'),
            'Which policies',
            'At the source',
          ]}
        >
          {data.people.map((row) => (
            <tr key={`${row.personId} ${row.person}`}>
              <td>
                <button type="button" className="linkish" onClick={() => open(row.personId)}>
                  {row.person}
                </button>
              </td>
              <td className={row.access === 'no' ? 'quiet' : ''}>
                {ACCESS[row.access]}
                {row.limited ? <div className="quiet small">fewer rows</div> : null}
                {row.sees === false ? (
                  <div className="quiet small">no role in its domain: it is not there for them</div>
                ) : null}
              </td>
              <td className="num">{count(row.plain)}</td>
              <td className="num">{count(row.masked)}</td>
              <td className="num">{count(row.preview)}</td>
              <td>{row.policies.map(({ name }) => name).join(', ')}</td>
              <td>
                <AtSource ways={row.atSource} />
              </td>
            </tr>
          ))}
        </Listing>
      ) : null}
      {data.total > data.people.length ? (
        <p className="quiet small">and {count(data.total - data.people.length)} more</p>
      ) : null}
      {data.logins.length > 0 ? (
        <section className="stack" aria-label="Other logins at the source">
          <h2>Other logins at the source</h2>
          <Listing heads={['Login', 'Who that is', 'Source', 'By which right']}>
            {data.logins.map((row) => (
              <tr key={`${row.sourceId} ${row.login} ${row.how} ${row.holder} ${row.through}`}>
                <td className="mono">{row.login}</td>
                <td>
                  {row.program ? (
                    'a program'
                  ) : (
                    <Link to={`/access?show=sources&source=${row.sourceId}&roles=${row.sourceId}`}>
                      nobody said it yet
                    </Link>
                  )}
                </td>
                <td>{row.source}</td>
                <td>{rightBySentence(row)}</td>
              </tr>
            ))}
          </Listing>
        </section>
      ) : null}
    </div>
  );
}

/** All that somebody can read. */
export function Readable({
  person,
  at = null,
  open,
}: {
  person: string;
  at?: string | null;
  open: (asset: string) => void;
}) {
  const { data, error, isFetching } = useReadableQuery({ person, at });
  if (error) return <Trouble error={error} what="What they read cannot be shown" />;
  if (!data) return <p className="quiet">Looking …</p>;
  return (
    <div className={isFetching ? 'stack fading' : 'stack'}>
      <p role="status">
        {data.total === 0 ? (
          `They ${at ? 'could read' : 'read'} nothing, of what you may see.`
        ) : (
          <>
            {plural(data.total, 'table')}: by the policies {plural(data.plain, 'column')} as they are, of these{' '}
            <strong>{count(data.sensitive)} guarded or sealed</strong>, and {count(data.masked)} masked.
          </>
        )}{' '}
        <span className="quiet">{COUNTED}</span>
      </p>
      {data.tables.length > 0 ? (
        <Listing
          label="What they can read"
          heads={[
            'Table',
            'Source',
            'By the policies',
            num('As they are'),
            num('Sensitive'),
            num('Masked'),
            num('Preview'),
            'Which policies',
            'At the source',
          ]}
        >
          {data.tables.map((row) => (
            <tr key={`${row.tableId} ${row.policies.map((one) => one.name).join(' ')}`}>
              <td className="mono">
                <button type="button" className="linkish" onClick={() => open(row.tableId)}>
                  {row.table}
                </button>
              </td>
              <td>{row.source}</td>
              <td className={row.access === 'no' ? 'quiet' : ''}>
                {ACCESS[row.access]}
                {row.limited ? <div className="quiet small">fewer rows</div> : null}
              </td>
              <td className="num">{count(row.plain)}</td>
              <td className={row.sensitive > 0 ? 'num attention' : 'num'}>{count(row.sensitive)}</td>
              <td className="num">{count(row.masked)}</td>
              <td className="num">{count(row.preview)}</td>
              <td>{row.policies.map(({ name }) => name).join(', ')}</td>
              <td>
                <AtSource ways={row.atSource} />
              </td>
            </tr>
          ))}
        </Listing>
      ) : null}
      {data.total > data.tables.length ? (
        <p className="quiet small">and {count(data.total - data.tables.length)} more</p>
      ) : null}
    </div>
  );
}

const AtSource = ({
  ways,
}: {
  ways: ReadersAnswer['people'][number]['atSource'] | ReadableAnswer['tables'][number]['atSource'];
}) => (
  <>
    {ways.map((way) => (
      <div key={`${way.login} ${way.how} ${way.holder} ${way.through}`}>
        <span className="mono">{way.login}</span>, {rightBySentence(way)}
      </div>
    ))}
  </>
);
