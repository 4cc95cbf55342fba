import type { ProposedImpact, ProposedRow } from '@idrel/contract/lineage';
import { PROPOSALS, type Proposal, suitable } from '@idrel/core/lineage/proposed';
import { Button, Checkbox, CopyButton, Group, SegmentedControl, Stack, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { useAddress } from '../app/address.ts';
import { saveFile } from '../app/files.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { useAssetQuery } from '../catalog/index.ts';
import { ManyPanel } from '../curation/index.ts';
import { count, KindMark, Level, Name, plural } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Beside } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useImpactSheetMutation, useProposedQuery } from './api.ts';
import { Concerned } from './Concerned.tsx';
import { CONSEQUENCE_WORDS, GRAVE, plannedInWords, WHAT_WORDS } from './proposedWords.ts';
import { SumBySwitch, SumChips } from './SumChips.tsx';
import { type SumBy, valuesOf } from './sums.ts';

/** So many rows are drawn at first, and so many more each time. */
const AT_ONCE = 200;

/** What a change would do, before it is made: to what, for what reason, and whom to tell. */
export function Component() {
  const [params] = useAddress();
  const id = params.get('asset') ?? '';
  if (id === '')
    return (
      <Empty title="Which asset is to be changed?">
        <p>
          Open it in the <Link to="/catalog">catalog</Link> or in the <Link to="/lineage">picture</Link>, and follow{' '}
          <i>To be changed?</i>
        </p>
      </Empty>
    );
  // What was typed of one asset is not said of another.
  return <Proposed key={id} id={id} />;
}

function Proposed({ id }: { id: string }) {
  const [params, put] = useAddress();
  const asset = useAssetQuery(id, { skip: id === '' });
  const suits = asset.data ? suitable(asset.data.kind) : [];
  const what = suits.find((one) => one === params.get('what')) ?? suits[0];
  const [typed, setTyped] = useState(params.get('to') ?? '');
  const [to] = useDebouncedValue(typed.trim(), 300);
  const kept = params.get('to') ?? '';
  useEffect(() => {
    if (to !== kept) put({ to: to || null });
  }, [to, kept, put]);
  useCrumbs(
    { text: 'Lineage', to: '/lineage' },
    { text: asset.data?.path ?? '…', ...(asset.data ? { to: `/assets/${id}` } : {}) },
    { text: 'To be changed' },
  );
  const takesWord = what === 'retype' || what === 'rename';
  const isAsked = what !== undefined && (what !== 'retype' || to !== '');
  const asked = { asset: id, what: what ?? 'drop', ...(takesWord && to ? { to } : {}) };
  const { currentData, data: last, error, isFetching, refetch } = useProposedQuery(asked, { skip: !isAsked });
  // What was asked before stays while the new answer comes, but for another asset.
  const data = currentData ?? (last?.asset.id === id ? last : undefined);
  if (asset.error)
    return (
      <Trouble error={asset.error} what="It cannot be told what a change would do" again={() => void asset.refetch()} />
    );
  if (!asset.data || !what) return <Coming />;
  return (
    <div className="page stack">
      <div className="head">
        <div>
          <h1>
            If <Link to={`/assets/${id}`}>{asset.data.path}</Link> were changed
          </h1>
          <p className="quiet">
            What would be refused, fail or differ in all that is made of it, with the reason and the way, before
            anything is done. Nothing here changes the source.
          </p>
        </div>
      </div>
      <Group wrap="wrap">
        <SegmentedControl
          aria-label="What is to be done"
          value={what}
          onChange={(value) => put({ what: value })}
          data={PROPOSALS.filter((one) => suits.includes(one)).map((value) => ({ value, label: WHAT_WORDS[value] }))}
        />
        {takesWord ? (
          <TextInput
            aria-label={what === 'retype' ? 'New type' : 'New name'}
            placeholder={what === 'retype' ? 'New type, as varchar(40)' : 'New name, if it is known'}
            value={typed}
            onChange={(event) => setTyped(event.currentTarget.value)}
            className="mono"
            w={240}
          />
        ) : null}
        {data?.asset.type ? <span className="quiet small mono">now {data.asset.type}</span> : null}
        <CopyButton value={window.location.href}>
          {({ copied, copy }) => (
            <button type="button" className="linkish" onClick={copy}>
              {copied ? 'Copied' : 'Copy the link'}
            </button>
          )}
        </CopyButton>
        {isFetching && data ? <span className="quiet small">Working it out …</span> : null}
      </Group>
      {!isAsked ? (
        <p className="quiet">
          Write the type that the column is to have: it is held against the types of what is filled from it.
        </p>
      ) : error && !isFetching ? (
        <Trouble error={error} what="It cannot be told what this would do" again={() => void refetch()} />
      ) : data ? (
        <Told key={id} data={data} asked={asked} />
      ) : (
        <Coming />
      )}
    </div>
  );
}

function Told({ data, asked }: { data: ProposedImpact; asked: { asset: string; what: Proposal; to?: string } }) {
  const [by, setBy] = useState<SumBy>('owner');
  const [only, setOnly] = useState<string | null>(null);
  const [kept, setKept] = useState<ProposedRow['consequence'] | null>(null);
  const [chosen, choose] = useState<ReadonlySet<string>>(new Set());
  const [most, setMost] = useState(AT_ONCE);
  const [noticing, setNoticing] = useState(false);
  const [make, making] = useImpactSheetMutation();
  const counts = new Map<ProposedRow['consequence'], number>();
  for (const { consequence } of data.rows) counts.set(consequence, (counts.get(consequence) ?? 0) + 1);
  // A choice that the next answer has not is none.
  const consequence = kept !== null && counts.has(kept) ? kept : null;
  const rows = data.rows.filter(
    (row) =>
      (consequence === null || row.consequence === consequence) && (only === null || valuesOf(row, by).includes(only)),
  );
  const there = new Set(data.rows.map(({ id }) => id));
  const picked = [...chosen].filter((id) => there.has(id));
  const ids = picked.length > 0 ? picked : rows.map(({ id }) => id);
  const take = async (format: 'csv' | 'xlsx') => {
    try {
      saveFile(await make({ ...asked, direction: 'downstream', format }).unwrap());
    } catch (failed) {
      sayProblem(failed, 'The sheet was not written');
    }
  };
  const isUnharmed = data.rows.every((row) => row.consequence === 'unharmed');
  return (
    <Beside first="minmax(0, 1fr)" second="minmax(300px, 380px)" gap={24}>
      <Stack>
        {data.facts.length > 0 ? (
          <ul className="notice calm" aria-label="To know before">
            {data.facts.map((fact) => (
              <li key={fact}>{fact}</li>
            ))}
          </ul>
        ) : null}
        {data.hidden > 0 ? (
          <p className="quiet">
            {plural(data.hidden, 'asset')} more would be concerned that you may not see: ask somebody who may.
          </p>
        ) : null}
        {data.rows.length === 0 ? (
          <Empty title="Nothing is known to be made of it">
            <p>
              No view, load, script or report in the catalog takes anything from it, as far as scans and events tell.{' '}
              <Link to={`/lineage?focus=${asked.asset}`}>See the picture</Link>.
            </p>
          </Empty>
        ) : (
          <>
            <Group gap={4} wrap="wrap" role="group" aria-label="What becomes of it">
              {[...counts].map(([one, many]) => (
                <button
                  key={one}
                  type="button"
                  className={`chip${consequence === one ? ' on' : ''}`}
                  aria-pressed={consequence === one}
                  onClick={() => setKept(consequence === one ? null : one)}
                >
                  {CONSEQUENCE_WORDS[one]} {count(many)}
                </button>
              ))}
              {data.more > 0 ? (
                <span className="quiet small">and {count(data.more)} more that are not listed</span>
              ) : null}
            </Group>
            {isUnharmed ? <p>Nothing is harmed by it, as far as is known.</p> : null}
            <Group gap={8} wrap="wrap">
              <SumBySwitch
                by={by}
                setBy={(value) => {
                  setBy(value);
                  setOnly(null);
                }}
              />
              <SumChips rows={data.rows} by={by} only={only} setOnly={setOnly} />
            </Group>
            <Group gap={8} wrap="wrap">
              <Button variant="default" size="compact-sm" onClick={() => setNoticing(true)} disabled={ids.length === 0}>
                Attach a notice to {picked.length > 0 ? 'the chosen' : 'all'} {count(ids.length)}
              </Button>
              <Button variant="default" size="compact-sm" loading={making.isLoading} onClick={() => void take('xlsx')}>
                As a workbook
              </Button>
              <Button variant="default" size="compact-sm" loading={making.isLoading} onClick={() => void take('csv')}>
                As CSV
              </Button>
              <Link to="/catalog/sheet" className="small linked">
                Bring a filled-in sheet back
              </Link>
            </Group>
            <Listing
              label="What would become of what is made of it"
              heads={[
                {
                  text: (
                    <Checkbox
                      size="xs"
                      aria-label="Choose all that are listed"
                      checked={picked.length > 0 && rows.every(({ id }) => chosen.has(id))}
                      indeterminate={picked.length > 0 && !rows.every(({ id }) => chosen.has(id))}
                      onChange={(event) =>
                        choose(event.currentTarget.checked ? new Set(rows.map(({ id }) => id)) : new Set())
                      }
                    />
                  ),
                },
                'Asset',
                'What becomes of it',
                num('Steps'),
                num('Asked', 'How often it was asked for'),
                'Owner',
              ]}
              widths={[28]}
            >
              {rows.slice(0, most).map((row) => (
                <Row
                  key={row.id}
                  row={row}
                  chosen={chosen.has(row.id)}
                  choose={(on) => {
                    const next = new Set(chosen);
                    if (on) next.add(row.id);
                    else next.delete(row.id);
                    choose(next);
                  }}
                />
              ))}
            </Listing>
            {rows.length > most ? (
              <Group>
                <Button variant="default" size="compact-sm" onClick={() => setMost(most + AT_ONCE)}>
                  Show {count(Math.min(AT_ONCE, rows.length - most))} more of {count(rows.length)}
                </Button>
              </Group>
            ) : null}
          </>
        )}
      </Stack>
      {noticing ? (
        <ManyPanel
          choice={{ ids }}
          chosen={ids.length}
          given={{ what: 'notice', to: 'caution', value: noticeFor(data, asked) }}
          close={() => setNoticing(false)}
          begun={() => {
            setNoticing(false);
            choose(new Set());
            sayDone('The notices are being attached.');
          }}
        />
      ) : (
        <Concerned data={data} asked={asked} />
      )}
    </Beside>
  );
}

/** What a notice says at first, to be gone over. */
const noticeFor = ({ asset }: ProposedImpact, { what, to }: { what: Proposal; to?: string }): string =>
  `${asset.path} in ${asset.source} ${plannedInWords(what, to)}; this is made of it.`;

function Row({ row, chosen, choose }: { row: ProposedRow; chosen: boolean; choose: (on: boolean) => void }) {
  const between = row.way.slice(1, -1);
  return (
    <tr>
      <td>
        <Checkbox
          size="xs"
          aria-label={`Choose ${row.path}`}
          checked={chosen}
          onChange={(event) => choose(event.currentTarget.checked)}
        />
      </td>
      <td>
        <span className="row">
          <KindMark kind={row.kind} />
          <Link to={`/assets/${row.id}`}>
            <Name text={row.path} most={40} />
          </Link>
          {row.level === null ? null : <Level level={row.level} />}
        </span>
        <div className="quiet small anywhere">
          {row.source}
          {between.length > 0 ? `, by way of ${between.join(' → ')}` : ''}
        </div>
      </td>
      <td className="anywhere">
        <strong className={GRAVE.includes(row.consequence) ? 'attention' : ''}>
          {CONSEQUENCE_WORDS[row.consequence]}
        </strong>
        <div className="small">{row.why}</div>
      </td>
      <td className="num">{row.distance}</td>
      <td className="num">{row.asked > 0 ? count(Math.round(row.asked)) : ''}</td>
      <td>{row.owners.join(', ') || <span className="attention">nobody</span>}</td>
    </tr>
  );
}
