import type { ReportAnswer } from '@idrel/contract/access';
import { rightBySentence } from '@idrel/core/access/rights';
import { Button, Group, SegmentedControl, Select, Stack } from '@mantine/core';
import dayjs from 'dayjs';
import { useState } from 'react';
import { useAddress } from '../app/address.ts';
import { saveFile } from '../app/files.ts';
import { sayProblem } from '../app/say.ts';
import { count, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useClassesQuery } from '../recognition/index.ts';
import { AssetChooser } from './AssetChooser.tsx';
import { useAccessReportFileMutation, useAccessReportQuery, useKnownFromQuery } from './api.ts';
import { MomentField, momentWords } from './MomentField.tsx';

/** So many rows are shown; the file has all. */
const SHOWN = 1000;

/** Who could read something in a period: asked, read, printed and filed. */
export function Report() {
  const [params, put] = useAddress();
  const [asset, key] = [params.get('asset'), params.get('class')];
  const [from, to] = [params.get('from'), params.get('to')];
  const known = useKnownFromQuery();
  const classes = useClassesQuery();
  const [by, setBy] = useState<'class' | 'asset'>(asset ? 'asset' : 'class');
  const [chosen, choose] = useState({ class: key, asset, from, to });
  const what = by === 'class' ? chosen.class : chosen.asset;
  const make = () => {
    const earliest = known.data?.at ?? '';
    // Without an end it goes on until now; without a beginning it begins where what is known does.
    put({
      class: by === 'class' ? chosen.class : null,
      asset: by === 'asset' ? chosen.asset : null,
      from: chosen.from ?? earliest,
      to: chosen.to ?? new Date().toISOString(),
    });
  };
  return (
    <Stack>
      <form
        className="stack noprint"
        onSubmit={(event) => {
          event.preventDefault();
          make();
        }}
      >
        <SegmentedControl
          aria-label="What it is about"
          value={by}
          onChange={(value) => setBy(value as 'class' | 'asset')}
          data={[
            { value: 'class', label: 'A data class' },
            { value: 'asset', label: 'An asset' },
          ]}
          w="fit-content"
        />
        <Group align="flex-end" maw={980}>
          {by === 'class' ? (
            <Select
              className="grow"
              label="Who could read what carries"
              searchable
              clearable
              placeholder="Choose a data class"
              data={(classes.data ?? [])
                .map((entry) => ({ value: entry.key, label: entry.label }))
                .sort((one, other) => one.label.localeCompare(other.label))}
              value={chosen.class}
              onChange={(value) => choose({ ...chosen, class: value })}
            />
          ) : (
            <AssetChooser
              label="Who could read"
              asset={chosen.asset}
              choose={(value) => choose({ ...chosen, asset: value })}
            />
          )}
          <MomentField
            label="From"
            at={chosen.from}
            choose={(at) => choose({ ...chosen, from: at })}
            earliest={known.data?.at}
          />
          <MomentField
            label="Until"
            at={chosen.to}
            choose={(at) => choose({ ...chosen, to: at })}
            earliest={known.data?.at}
          />
          <Button type="submit" disabled={!what || !known.data}>
            Make the report
          </Button>
        </Group>
        {known.data ? (
          <p className="quiet small">
            Without a beginning it begins with what is known, at {momentWords(known.data.at)}; without an end it goes on
            until now.
          </p>
        ) : null}
      </form>
      {(asset || key) && from && to ? (
        <Made {...(asset ? { asset } : { class: key ?? '' })} from={from} to={to} />
      ) : (
        <p className="quiet">
          A report says, for each person, what they could read of it, from when to when, and by what: policies, requests
          and rights at the source. It is rebuilt from what was kept, and the same each time it is made.
        </p>
      )}
    </Stack>
  );
}

function Made(asked: { asset?: string; class?: string; from: string; to: string }) {
  const { data, error, isFetching, refetch } = useAccessReportQuery(asked);
  const [file, { isLoading }] = useAccessReportFileMutation();
  if (error && !isFetching)
    return <Trouble error={error} what="The report was not made" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const save = (format: 'csv' | 'xlsx') =>
    void file({ ...asked, format })
      .unwrap()
      .then(saveFile, (failed: unknown) => sayProblem(failed, 'No file was written'));
  return (
    <article className={isFetching ? 'stack fading' : 'stack'} aria-label="Report">
      <Group justify="space-between" align="flex-start">
        <div>
          <h2>Who could read {data.about}</h2>
          <p>
            From {momentWords(data.from)} until {momentWords(data.to)}, {zone()}
          </p>
        </div>
        <Group gap={8} className="noprint">
          <Button variant="default" onClick={() => window.print()}>
            Print
          </Button>
          <Button variant="default" loading={isLoading} onClick={() => save('csv')}>
            As CSV
          </Button>
          <Button variant="default" loading={isLoading} onClick={() => save('xlsx')}>
            As a workbook
          </Button>
        </Group>
      </Group>
      <p role="status">
        {data.people === 0
          ? 'Nobody of those known here could read any of it'
          : `${plural(data.people, 'person', 'people')} could read something of it`}
        , in {plural(data.tables, 'table')}. What decides about it changed {plural(data.looked - 1, 'time')} in between.
      </p>
      <Rows data={data} />
      <Logins data={data} />
      <p className="quiet small">
        Made by {data.madeBy} on {momentWords(data.madeAt)}, of what they administer the policies of. Counted as within
        the hours of policies, and as for who stated their purposes; rights at sources as scans found them. By its
        digest it can be told from another: <span className="mono">{data.digest}</span>
      </p>
    </article>
  );
}

const zone = (): string => `times of ${Intl.DateTimeFormat().resolvedOptions().timeZone}`;

/** When something was, within the period of a report: no more of it than tells. */
function During({ from, to, period }: { from: string; to: string; period: Pick<ReportAnswer, 'from' | 'to'> }) {
  const said = (at: string) => (
    <time dateTime={at} title={momentWords(at)}>
      {dayjs(at).format('D MMM YYYY HH:mm:ss')}
    </time>
  );
  if (from === period.from && to === period.to) return <>all the time</>;
  return (
    <>
      {from === period.from ? null : <>from {said(from)}</>} {to === period.to ? null : <>until {said(to)}</>}
    </>
  );
}

function Rows({ data }: { data: ReportAnswer }) {
  if (data.rows.length === 0) return null;
  return (
    <>
      <Listing
        label="Who could read it"
        heads={['Person', 'Table', 'When', 'As it is', 'Masked', 'By which policies', 'At the source']}
      >
        {data.rows.slice(0, SHOWN).map((row, at) => (
          <tr key={`${row.person} ${row.tableId} ${row.from}`}>
            <td>
              {data.rows[at - 1]?.personId === row.personId ? <span className="quiet">{row.person}</span> : row.person}
            </td>
            <td>
              <span className="mono">{row.table}</span>
              <div className="quiet small">{row.source}</div>
            </td>
            <td>
              <During from={row.from} to={row.to} period={data} />
            </td>
            <td className="mono">
              {row.plain.join(', ')}
              {row.limited ? <div className="quiet small">fewer rows</div> : null}
            </td>
            <td className="mono">
              {row.masked.join(', ')}
              {row.preview.length > 0 ? (
                <div>
                  {row.preview.join(', ')} <span className="quiet small">preview</span>
                </div>
              ) : null}
            </td>
            <td>{row.policies.map(({ name }) => name).join(', ')}</td>
            <td>
              {row.atSource.map((way) => (
                <div key={`${way.login} ${way.how} ${way.holder} ${way.through}`}>
                  <span className="mono">{way.login}</span>, {rightBySentence(way)}
                </div>
              ))}
            </td>
          </tr>
        ))}
      </Listing>
      {data.rows.length > SHOWN ? (
        <p className="quiet small">and {plural(data.rows.length - SHOWN, 'more row')}, which the file has</p>
      ) : null}
    </>
  );
}

function Logins({ data }: { data: ReportAnswer }) {
  if (data.logins.length === 0) return null;
  return (
    <section className="stack" aria-label="Other logins at the source">
      <h3>Other logins at the source</h3>
      <Listing heads={['Login', 'Who that was', 'Source', 'Table', 'When', 'By which right']}>
        {data.logins.slice(0, SHOWN).map((row) => (
          <tr key={`${row.source} ${row.login} ${row.how} ${row.holder} ${row.through} ${row.tableId} ${row.from}`}>
            <td className="mono">{row.login}</td>
            <td>{row.program ? 'a program' : 'nobody said it'}</td>
            <td>{row.source}</td>
            <td className="mono">{row.table}</td>
            <td>
              <During from={row.from} to={row.to} period={data} />
            </td>
            <td>{rightBySentence(row)}</td>
          </tr>
        ))}
      </Listing>
      {data.logins.length > SHOWN ? (
        <p className="quiet small">and {count(data.logins.length - SHOWN)} more, which the file has</p>
      ) : null}
    </section>
  );
}
