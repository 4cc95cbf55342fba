import type { ChangedAsset, Rename, RunAnswer, RunComparison } from '@idrel/contract/scanning';
import { where } from '@idrel/core/catalog';
import { Box, Select } from '@mantine/core';
import dayjs from 'dayjs';
import { Link } from 'react-router';
import { useAddress } from '../app/address.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import { count, KindMark, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useCompareRunsQuery, useRunsQuery, useSettleRenameMutation } from './runsApi.ts';

/** What a run found different from the one before, with what is likely renamed; or from another one that is chosen. */
export function Comparison({ run }: { run: RunAnswer }) {
  const [params, put] = useAddress();
  const other = params.get('with');
  const runs = useRunsQuery(run.sourceId);
  const chosen = useCompareRunsQuery({ id: run.id, with: other ?? '' }, { skip: !other });
  if (!run.comparison) return null;
  const earlier = (runs.data ?? []).filter((entry) => entry.comparison && entry.askedAt < run.askedAt);
  const nameOf = (entry: RunAnswer) =>
    `${dayjs(entry.askedAt).format('D MMM YYYY, HH:mm')}${entry.plan ? ` · ${entry.plan}` : ''}`;
  return (
    <section aria-label="Comparison">
      {run.comparison.first ? (
        <div className="notice calm">
          The first scan of this source: {count(run.comparison.counts.new)} assets are new.{' '}
          <Link to={opens(where('source', run.source))}>Show them</Link>
        </div>
      ) : (
        <>
          <div className="head level-with">
            <h2>{other ? 'Different from an earlier run' : 'Different from the run before'}</h2>
            {earlier.length > 1 ? (
              <Select
                aria-label="Compared with"
                size="xs"
                w={280}
                allowDeselect={false}
                data={earlier.map((entry, index) => ({
                  value: index === 0 ? '' : entry.id,
                  label: `${index === 0 ? 'The run before, ' : ''}${nameOf(entry)}`,
                }))}
                value={other ?? ''}
                onChange={(value) => put({ with: value ?? '' })}
              />
            ) : null}
          </div>
          {other ? (
            chosen.error ? (
              <Trouble error={chosen.error} what="The two runs cannot be compared" />
            ) : chosen.data ? (
              <Lists comparison={chosen.data} none="Nothing is different from that run." />
            ) : (
              <Coming lines={3} />
            )
          ) : (
            <>
              <Renames run={run} renames={run.comparison.renames ?? []} />
              <Lists comparison={run.comparison} none="Nothing is different from the run before." />
            </>
          )}
        </>
      )}
    </section>
  );
}

function Lists({ comparison, none }: { comparison: RunComparison; none: string }) {
  const { counts } = comparison;
  if (counts.new + counts.changed + counts.gone + counts.back === 0) return <div className="notice calm">{none}</div>;
  return (['new', 'changed', 'gone', 'back'] as const).map((change) =>
    counts[change] > 0 ? (
      <Box key={change} mb={10}>
        <h3>
          {count(counts[change])} {change}
        </h3>
        <Listing widths={[30]}>
          {comparison[change].map((asset: ChangedAsset) => (
            <tr key={asset.id}>
              <td>
                <KindMark kind={asset.kind} />
              </td>
              <td>
                <Link to={`/assets/${asset.id}`} className="mono">
                  {asset.path}
                </Link>
              </td>
              <td className="quiet">
                {asset.what?.join('; ') ?? (asset.columns ? `with ${plural(asset.columns, 'column')}` : '')}
              </td>
            </tr>
          ))}
        </Listing>
      </Box>
    ) : null,
  );
}

/** Pairs that are likely the same under another name: a person says so, and everything written moves along. */
function Renames({ run, renames }: { run: RunAnswer; renames: readonly Rename[] }) {
  const [settle, settling] = useSettleRenameMutation();
  if (renames.length === 0) return null;
  const say = async (rename: Rename, same: boolean) => {
    try {
      await settle({ id: run.id, from: rename.from.id, to: rename.to.id, same }).unwrap();
      sayDone(
        same ? `${rename.from.path} is ${rename.to.path} now, with everything written about it.` : 'They stay two.',
      );
    } catch (error) {
      sayProblem(error, 'It was not settled');
    }
  };
  return (
    <Box mb={14}>
      <h3>{count(renames.length)} likely renamed</h3>
      <p className="quiet">
        When they are the same, descriptions, people, terms, decisions and policies of the old one hold for the new one.
      </p>
      <Listing widths={[30]} label="Likely renamed">
        {renames.map((rename) => (
          <tr key={rename.from.id}>
            <td>
              <KindMark kind={rename.to.kind} />
            </td>
            <td>
              <span className="mono">{rename.from.path}</span> → <span className="mono">{rename.to.path}</span>
            </td>
            <td className="quiet">{rename.why.join('; ')}</td>
            <td className="num">
              {rename.settled ? (
                rename.settled === 'same' ? (
                  <Link to={`/assets/${rename.from.id}`}>the same</Link>
                ) : (
                  'two different ones'
                )
              ) : (
                <span className="row steps-of">
                  <button
                    type="button"
                    className="linkish"
                    disabled={settling.isLoading}
                    onClick={() => void say(rename, true)}
                  >
                    The same
                  </button>
                  <button
                    type="button"
                    className="linkish"
                    disabled={settling.isLoading}
                    onClick={() => void say(rename, false)}
                  >
                    Different
                  </button>
                </span>
              )}
            </td>
          </tr>
        ))}
      </Listing>
    </Box>
  );
}
