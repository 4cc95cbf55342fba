import type { TryAnswer } from '@idrel/contract/access';
import { pairRows } from '@idrel/core/access/pairs';
import { decidedLimitInWords } from '@idrel/core/access/words';
import type { ReactNode } from 'react';
import { count, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { maskWords } from './maskWords.ts';

type Result = Pick<TryAnswer, 'columns' | 'rows' | 'capped' | 'milliseconds'>;
type Cells = readonly (string | null)[];

/** What became of a result since the run before of the same query as the same person. */
export interface Since {
  /** Places of cells that are otherwise, `row column`, with what stood there. */
  readonly changed: ReadonlyMap<string, string | null>;
  readonly came: ReadonlySet<number>;
  readonly went: readonly Cells[];
}

/** What changed between two runs: rows are found again by what is the same column of both, for both people. */
export function since(before: TryAnswer, now: TryAnswer): Since {
  const by = now.beside.flatMap(({ name, same, theirs }) => {
    const then = before.columns.indexOf(name);
    return same && theirs !== null && then >= 0 ? [[then, theirs] as const] : [];
  });
  const changed = new Map<string, string | null>();
  const came = new Set<number>();
  const went: Cells[] = [];
  for (const [then, at] of pairRows(before.rows, now.rows, by)) {
    if (at === null) {
      const gone = before.rows[then ?? 0] ?? [];
      went.push(now.columns.map((name) => gone[before.columns.indexOf(name)] ?? null));
    } else if (then === null) came.add(at);
    else
      now.columns.forEach((name, column) => {
        const old = before.columns.indexOf(name);
        const was = old < 0 ? undefined : (before.rows[then]?.[old] ?? null);
        if (was !== undefined && was !== now.rows[at]?.[column]) changed.set(`${at} ${column}`, was);
      });
  }
  return { changed, came, went };
}

/** The results of one query beside each other: what one gets oneself, and what somebody else gets, row by row. */
export function TwoSides({ answer, person, changes }: { answer: TryAnswer; person: string; changes: Since | null }) {
  const { yours, yoursNot, beside, pairs } = answer;
  const lines: readonly (readonly (number | null)[])[] = yours ? pairs : answer.rows.map((_, at) => [null, at]);
  const missing = yours ? pairs.filter(([, theirs]) => theirs === null).length : 0;
  const cut = answer.capped || yours?.capped === true;
  const limits = answer.tables.flatMap((table) =>
    table.rowLimits.map((limit) => `${decidedLimitInWords(limit)} (${limit.policy})`),
  );
  return (
    <>
      <div className="two-sides">
        <Side
          title={yours?.whole ? 'What the source holds' : 'You'}
          result={yours}
          lines={lines}
          side={0}
          told={
            yours
              ? yours.whole
                ? 'You read all of it as it is.'
                : 'You do not read all of it as it is either.'
              : `It is refused to you: ${yoursNot}`
          }
          mark={() => null}
          empty={<span className="quiet">not among your rows</span>}
        />
        <Side
          title={person}
          result={answer}
          lines={lines}
          side={1}
          told={
            yours
              ? `${
                  missing === 0
                    ? 'None of your rows is missing'
                    : `${plural(missing, 'of your rows is', 'of your rows are')} missing${cut ? ', or beyond what is shown' : ''}`
                }${limits.length > 0 ? `: ${limits.join('; ')}` : ''}.`
              : ''
          }
          mark={(row, column, other) => {
            const shown = beside.find(({ theirs }) => theirs === column);
            const was = changes?.changed.get(`${row} ${column}`);
            const value = answer.rows[row]?.[column];
            const mine =
              shown && shown.yours !== null && other !== null ? yours?.rows[other]?.[shown.yours] : undefined;
            const because = [
              ...(was === undefined ? [] : [`${was ?? 'null'} in the run before`]),
              ...(mine !== undefined && mine !== value ? (shown?.because ?? []) : []),
            ];
            return was !== undefined
              ? { className: 'since', title: because.join('; ') }
              : mine !== undefined && mine !== value
                ? { className: 'differs', title: because.join('; ') || 'other than yours' }
                : null;
          }}
          came={changes?.came}
          empty={<span className="quiet">not for them</span>}
        />
      </div>
      <Columns answer={answer} />
      {cut ? <p className="quiet small">The first {count(answer.rows.length)} rows of either are compared.</p> : null}
      {changes ? <Changed changes={changes} columns={answer.columns} /> : null}
    </>
  );
}

function Side({
  title,
  result,
  lines,
  side,
  told,
  mark,
  came,
  empty,
}: {
  title: string;
  result: Result | null;
  lines: readonly (readonly (number | null)[])[];
  side: 0 | 1;
  told: string;
  mark: (row: number, column: number, other: number | null) => { className: string; title: string } | null;
  came?: ReadonlySet<number> | undefined;
  empty: ReactNode;
}) {
  return (
    <section aria-label={title}>
      <h2>{title}</h2>
      <p className="small">
        {result
          ? `${plural(result.rows.length, 'row')}${result.capped ? ' and more' : ''} in ${count(result.milliseconds)} ms. `
          : ''}
        <span className="quiet">{told}</span>
      </p>
      {result ? (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: whoever works with the keyboard scrolls it by its arrows
        <div className="scrolled" role="group" aria-label={`Rows: ${title}`} tabIndex={0}>
          <Listing heads={result.columns.map((text) => ({ text, mono: true }))} label={`Result: ${title}`}>
            {lines.map((pair, line) => {
              const at = pair[side] ?? null;
              return (
                <tr key={`line-${line + 1}`} className={at !== null && came?.has(at) ? 'since' : undefined}>
                  {at === null ? (
                    <td colSpan={Math.max(1, result.columns.length)} className="oneline">
                      {empty}
                    </td>
                  ) : (
                    result.columns.map((_, column) => {
                      const value = result.rows[at]?.[column];
                      const marked = mark(at, column, pair[side === 0 ? 1 : 0] ?? null);
                      return (
                        <td
                          key={`cell-${column + 1}`}
                          className={`mono oneline sample ${marked?.className ?? ''}`}
                          title={marked?.title ?? value ?? undefined}
                        >
                          {value ?? <span className="quiet">null</span>}
                        </td>
                      );
                    })
                  )}
                </tr>
              );
            })}
          </Listing>
        </div>
      ) : null}
    </section>
  );
}

/** Columns that come otherwise to them, or not at all, each with its reason. */
function Columns({ answer }: { answer: TryAnswer }) {
  const how = (name: string) =>
    answer.tables.flatMap((table) =>
      table.columns.filter((column) => column.name === name && column.access === 'masked'),
    );
  const differs = (left: number, right: number) =>
    answer.pairs.some(
      ([mine, their]) =>
        typeof mine === 'number' &&
        typeof their === 'number' &&
        answer.yours?.rows[mine]?.[left] !== answer.rows[their]?.[right],
    );
  const other = answer.beside.filter(
    ({ yours, theirs }) => theirs === null || (yours !== null && differs(yours, theirs)),
  );
  if (other.length === 0) return null;
  return (
    <Listing label="Columns that differ" heads={['Column', 'They get it', 'Because of']}>
      {other.map(({ name, theirs, because, ofMany }) => (
        <tr key={`${name} ${theirs}`}>
          <td className="mono">{name}</td>
          <td>
            {theirs === null
              ? 'not'
              : [...new Set(how(name).map(maskWords))].join(', ') || (ofMany ? 'of fewer rows' : 'otherwise')}
          </td>
          <td>{because.join(', ')}</td>
        </tr>
      ))}
    </Listing>
  );
}

function Changed({ changes: { changed, came, went }, columns }: { changes: Since; columns: readonly string[] }) {
  const told = [
    ...(changed.size > 0 ? [`${plural(changed.size, 'value is', 'values are')} otherwise`] : []),
    ...(came.size > 0 ? [`${plural(came.size, 'row')} came`] : []),
    ...(went.length > 0 ? [`${plural(went.length, 'row')} went`] : []),
  ];
  return (
    <section aria-label="Since the run before">
      <p role="status">
        Since the run before: {told.length === 0 ? 'nothing is otherwise for them' : told.join(', ')}.
      </p>
      {went.length > 0 ? (
        <Listing heads={columns.map((text) => ({ text, mono: true }))} label="Rows that went">
          {went.slice(0, 20).map((row, line) => (
            <tr key={`went-${line + 1}`}>
              {row.map((value, column) => (
                <td key={`cell-${column + 1}`} className="mono oneline sample quiet">
                  <s>{value ?? 'null'}</s>
                </td>
              ))}
            </tr>
          ))}
        </Listing>
      ) : null}
    </section>
  );
}
