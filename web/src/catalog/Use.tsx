import type { AskedQuery, AssetAnswer, AssetUse } from '@idrel/contract/catalog';
import { Box, Button, Group } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { KindMark, Name, plural, When } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useAssetUseQuery } from './api.ts';
import { doneWith } from './askedWords.ts';

const FIRST = 5;
const MORE = 20;
/** So many are told at most: the most frequent ones. */
const MOST = 100;

/** Who asks for a table or a column, with which statements, and what is asked for beside it. */
export function Use({ asset }: { asset: AssetAnswer }) {
  const [limit, setLimit] = useState(FIRST);
  const { data, error, isFetching, refetch } = useAssetUseQuery({ id: asset.id, limit });
  if (error) return <Trouble error={error} what="Its use cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  if (data.queries.total + data.notShown === 0)
    return (
      <p className="quiet">
        Nobody was seen asking for it. Each scan looks at what the source has counted, where it counts (in PostgreSQL:
        the extension pg_stat_statements, and the role pg_read_all_stats for the reader; in MariaDB:
        performance_schema), and the gateway notes what goes through it.
      </p>
    );
  const { items, total } = data.queries;
  return (
    <>
      <Group align="flex-start" gap={24}>
        <div className="grow">
          <h3>Asked by</h3>
          <Askers data={data} />
        </div>
        <div className="grow">
          <h3>{asset.kind === 'column' ? 'Joined with' : 'Asked for beside it'}</h3>
          <Together data={data} />
        </div>
      </Group>
      {data.columns.length > 0 ? (
        <>
          <h3 className="under">Columns asked for most</h3>
          <ul className="bare">
            {data.columns.map((column) => (
              <li key={column.id} className="row line">
                <Link to={`/assets/${column.id}`} className="cut mono">
                  <Name text={column.name} most={34} />
                </Link>
                <span className="quiet small">
                  {plural(column.calls, 'time')}
                  {column.how.length > 0 ? `: ${doneWith(column.how)}` : ''}
                </span>
              </li>
            ))}
          </ul>
        </>
      ) : null}
      <h3 className="under">Statements</h3>
      {items.map((query) => (
        <Statement key={query.id} query={query} />
      ))}
      {total > items.length && items.length < MOST ? (
        <Button
          variant="subtle"
          size="compact-xs"
          loading={isFetching}
          onClick={() => setLimit(Math.min(limit + MORE, MOST))}
        >
          {`${plural(total - items.length, 'more statement')}`}
        </Button>
      ) : null}
      {total > items.length && items.length >= MOST ? (
        <p className="quiet small">and {plural(total - items.length, 'rarer statement')}</p>
      ) : null}
      {data.notShown > 0 ? (
        <Box component="p" className="quiet small" mt={6}>
          {plural(data.notShown, 'statement is', 'statements are')} counted and not shown: something that you may not
          see, or that the catalog does not have, is named there, or the text is too long.
        </Box>
      ) : null}
    </>
  );
}

function Askers({ data: { askers, people } }: { data: AssetUse }) {
  const named = askers.filter((asker) => asker.person).length;
  return (
    <>
      <ul className="bare">
        {askers.map((asker) => (
          <li key={asker.role ?? asker.person?.id} className="row line">
            {asker.person ? <span>{asker.person.name}</span> : <span className="mono">{asker.role}</span>}
            <span className="quiet small">
              {asker.calls > 0 ? plural(asker.calls, 'time') : ''}
              {asker.calls > 0 && asker.writes > 0 ? ', ' : ''}
              {asker.writes > 0 ? `wrote ${plural(asker.writes, 'time')}` : ''}, last <When at={asker.movedAt} />
            </span>
          </li>
        ))}
      </ul>
      {people > named ? (
        <p className="quiet small">
          {named > 0 ? 'and ' : ''}
          {plural(people - named, named > 0 ? 'other person' : 'person', named > 0 ? 'other people' : 'people')} through
          the gateway
        </p>
      ) : null}
    </>
  );
}

/** A column with its table alone: where the table lies is told on the column's page. */
const inTable = (path: string) => path.split('.').slice(-2).join('.');
const joined = (names: readonly string[]) => names.join(', ');

function Together({ data: { together } }: { data: AssetUse }) {
  if (together.length === 0) return <p className="quiet">nothing</p>;
  return (
    <ul className="bare">
      {together.map((other) => (
        <li key={other.id}>
          <div className="row line">
            <KindMark kind={other.kind} />
            <Link to={`/assets/${other.id}`} className="cut">
              <Name text={other.kind === 'column' ? inTable(other.path) : other.path} most={38} />
            </Link>
          </div>
          <p className="quiet small">
            {plural(other.calls, 'time')}
            {other.mine.length > 0 && other.theirs.length > 0 ? (
              <>
                , joined by <span className="mono">{joined(other.mine)}</span> here and{' '}
                <span className="mono">{joined(other.theirs)}</span> there
              </>
            ) : null}
          </p>
        </li>
      ))}
    </ul>
  );
}

function Statement({ query }: { query: AskedQuery }) {
  return (
    <Box mb={10}>
      <pre className="code">{query.text}</pre>
      <p className="quiet small">
        {plural(query.calls, 'time')}
        {query.askers.length > 0 ? ` by ${query.askers.join(', ')}` : ''}, last <When at={query.movedAt} />
        {query.how.length > 0 ? ` · ${doneWith(query.how)}` : ''}
      </p>
    </Box>
  );
}
