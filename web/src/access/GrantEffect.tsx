import type { GrantBody, GrantEffect, RequestAnswer } from '@idrel/contract/access';
import { count, plural } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { WhoReads } from './WhoReads.tsx';

const TABLES = 12;
const ROWS = 60;
/** What lies below these is meant as well. */
const HOLDS = ['schema', 'database', 'folder', 'file set'];

/** What a grant, or a share, would open to somebody, in words. @param effect undefined until it is computed */
export function WhatItOpens({
  who,
  assets,
  grant,
  effect,
}: {
  /** To whom, as the beginning of a sentence. */
  who: string;
  assets: readonly Pick<RequestAnswer['assets'][number], 'id' | 'kind'>[];
  grant: Pick<GrantBody, 'assetIds' | 'columns' | 'columnsBut' | 'stated'>;
  effect: GrantEffect | undefined;
}) {
  if (!effect)
    return (
      <p className="quiet" role="status">
        Computing what it would open …
      </p>
    );
  const { tables, total, gains, sensitive, rows, kept } = effect;
  const opened = tables.filter(({ before, after }) => after.plain + after.masked > before.plain + before.masked).length;
  const granted = assets.filter(({ id }) => grant.assetIds.includes(id));
  const isLater = (grant.columns === null || grant.columnsBut) && granted.some(({ kind }) => kind !== 'column');
  const holds = granted.some(({ kind }) => HOLDS.includes(kind));
  return (
    <div>
      <p role="status">
        {gains === 0 && rows.length === 0 ? (
          total === 0 ? (
            'There is no table or file in it that could be read now.'
          ) : (
            `It opens nothing: ${who} reads the same as now.`
          )
        ) : (
          <>
            {who} would read {plural(gains, 'column')} of {plural(opened, 'table')} more than now, of these{' '}
            <strong className={sensitive > 0 ? 'attention' : ''}>{count(sensitive)} guarded or sealed</strong> as they
            are.
          </>
        )}
      </p>
      <p className="quiet small">
        {[
          isLater
            ? holds
              ? 'Tables and columns that are added to it later are read as well.'
              : 'Columns that are added later are read as well.'
            : '',
          grant.stated ? 'It is counted as for who states the purpose.' : '',
          ...kept.map(({ policy, columns }) => `“${policy}” keeps ${plural(columns, 'column')} all the same.`),
        ].join(' ')}
      </p>
    </div>
  );
}

/** The tables and columns that granting a request would open. */
export function OpenedTables({ effect: { tables, total, rows, gains } }: { effect: GrantEffect }) {
  return (
    <section aria-label="What it opens" className="stack">
      {tables.length > 1 ? (
        <Listing heads={['Table', num('Columns'), num('Now'), num('Then'), num('Masked'), num('Guarded')]}>
          {tables.slice(0, TABLES).map(({ tableId, table, columns, before, after, sensitive: guarded }) => (
            <tr key={tableId}>
              <td className="mono">{table}</td>
              <td className="num">{count(columns.length)}</td>
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
      {gains > ROWS ? <p className="quiet small">and {plural(gains - ROWS, 'more column')}</p> : null}
    </section>
  );
}
