import { type ColumnName, readAsked, readScript, type SchemaCatalog } from '@idrel/core/lineage';
import { loadParser, printOf } from '@idrel/core/sql';
import { keepable } from '@idrel/core/text';
import { takingTurns } from './turns.ts';
import {
  type FlowProblem,
  type FoundFlow,
  type FoundQuery,
  GIVES_MOST,
  KEY_SEPARATOR,
  QUERY_LONGEST,
} from './types.ts';
import { attempt, type ReadStatements, toldFlow } from './written.ts';

/** A statement as a source's own counter keeps it. */
export interface CountedStatement {
  readonly query: string;
  readonly calls: FoundQuery['calls'];
  /** By what it is found in the counter, and known again where its text is kept as it is there: text that could not be read goes no further. */
  readonly number: string;
  /** What is kept of it in place of the text with its values taken out: the source's counter has none in it. */
  readonly text?: string;
  /** What the counter kept not: its end, or how many values stand in a row in what it shows. */
  readonly cut?: 'end' | 'values';
}

/** Names in statements, and what assets they are. */
export interface AskedNames {
  /** What statements may name; its search path is that which sessions begin with. */
  readonly catalog: SchemaCatalog;
  readonly column: (column: ColumnName) => string;
  readonly table: (table: Pick<ColumnName, 'schema' | 'relation'>) => string;
}

/**
 * Which statements are asked, how often and by whom, and what they read. Statements are read with the grammar of the source; one that cannot be read, or reads
 * nothing of the catalog, is left out.
 */
export async function foundQueries(
  statements: readonly CountedStatement[],
  { catalog, column, table }: AskedNames,
): Promise<FoundQuery[]> {
  await loadParser();
  const found = new Map<string, FoundQuery>();
  const rest = takingTurns();
  for (const { query, calls, text, cut } of statements) {
    await rest();
    const asked = cut === 'end' ? null : readAsked(query, catalog);
    if (!asked) continue;
    const known = found.get(asked.print);
    const shown = text ?? asked.text;
    found.set(asked.print, {
      print: asked.print,
      text: known ? known.text : shown.length > QUERY_LONGEST ? '' : keepable(shown),
      calls: known ? together([...known.calls, ...calls]) : calls,
      reads: asked.reads.map(({ schema, relation, column: name, how }) => [
        name === null ? table({ schema, relation }) : column({ schema, relation, column: name }),
        how,
      ]),
      gives: known ? known.gives : asked.gives.slice(0, GIVES_MOST).map(keepable),
      whole: asked.whole && (known?.whole ?? true),
    });
  }
  return [...found.values()];
}

/** Kind of the flow that tells of the statements that were asked and are not understood: it is as the last scan found it. */
export const UNREAD_ASKED = 'asked statements';
const NOT_KEPT: Readonly<Record<NonNullable<CountedStatement['cut']>, string>> = {
  end: 'is longer than the source keeps a statement',
  values: 'shows values in a row, of which the source keeps no number: where what stands behind them goes is not known',
};
/** So many statements that give no lineage are listed one by one. */
const UNREAD_MOST = 500;

/**
 * What statements that were asked do to columns: loads of the night that stand in no function and in no script that is read. Each is a flow at the table that it
 * writes. Its text stays where statements that were asked are shown, to who may see all that they name. Statements that only say values tell of nothing; those
 * of which it is not known what they do are told together at the top of the source, without their texts.
 *
 * @param top key of the asset at which the unread ones stand
 * @param counter what the counter and its number are called
 */
export async function askedFlows(
  statements: readonly CountedStatement[],
  { catalog, column, table }: AskedNames,
  top: string,
  counter: string,
): Promise<FoundFlow[]> {
  await loadParser();
  const flows = new Map<string, FoundFlow>();
  const unread: FlowProblem[] = [];
  const rest = takingTurns();
  for (const statement of statements) {
    const { query, cut } = statement;
    const read: ReadStatements = cut
      ? { statements: [], unresolved: [], read: 1 }
      : attempt(query, QUERY_LONGEST, () => readScript(query, catalog.within()));
    await rest();
    const writing = read.statements.find(
      ({ kind, edges }) => kind !== 'select' && kind !== 'function' && edges.length > 0,
    );
    const known = writing && catalog.relation(writing.target.schema, writing.target.relation);
    const lost = cut
      ? NOT_KEPT[cut]
      : query.length > QUERY_LONGEST
        ? `is longer than ${QUERY_LONGEST.toLocaleString('en')} characters`
        : writing && !known
          ? 'writes a table that is not in the catalog, or was there for one session'
          : // What only shows has no lineage to lose.
            !writing &&
              !read.statements.some(({ kind }) => kind === 'select') &&
              read.unresolved.some((one) => one.lost)
            ? 'cannot be read'
            : null;
    if (lost !== null)
      unread.push({ reason: unreadReason(statement, lost, counter), line: null, statement: null, lost: true });
    if (lost !== null || !writing) continue;
    const asset = table(writing.target);
    const key = [asset, 'asked', statement.text === undefined ? printOf(query) : statement.number].join(KEY_SEPARATOR);
    const flow = toldFlow({ key, asset, kind: 'asked statement', origin: 'asked', statement: '' }, read, {
      column,
      table,
    });
    // Counters keep the values of some statements: no text of them goes further than this.
    flows.set(key, {
      ...flow,
      problems: flow.problems.map((problem) => ({ ...problem, statement: null })),
      edges: flow.edges.map(({ expression: _, ...edge }) => edge),
    });
  }
  if (unread.length > 0)
    flows.set(top, {
      key: [top, 'asked', 'unread'].join(KEY_SEPARATOR),
      asset: top,
      kind: UNREAD_ASKED,
      origin: 'asked',
      statement: '',
      statements: unread.length,
      problems: unread.slice(0, UNREAD_MOST),
      edges: [],
      influences: [],
    });
  return [...flows.values()];
}

const times = (count: number) => (count === 1 ? 'once' : `${count.toLocaleString('en')} times`);
/** Told without any word of the statement but its first, which is one of a few. */
function unreadReason({ query, calls, number }: CountedStatement, why: string, counter: string): string {
  const verb = /^\s*([a-z]+)/i.exec(query)?.[1]?.toUpperCase() ?? 'statement';
  const count = calls.reduce((sum, [, n]) => sum + n, 0);
  const by = calls.map(([role]) => role).slice(0, 3);
  return keepable(`${verb} that ${by.join(', ')} asked ${times(count)} ${why} (${counter} ${number})`);
}

/** Each role once. */
function together(calls: FoundQuery['calls']): FoundQuery['calls'] {
  const by = new Map<string, number>();
  for (const [role, count] of calls) by.set(role, (by.get(role) ?? 0) + count);
  return [...by].sort((a, b) => b[1] - a[1]);
}
