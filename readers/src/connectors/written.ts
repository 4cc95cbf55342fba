import type { ColumnName, ScriptLineage, StatementLineage } from '@idrel/core/lineage';
import { type FoundFlow, inLines, type RemoteColumn, type RemoteTable } from './types.ts';

/** What was read of statements that write: a body, a script. */
export type ReadStatements = Pick<ScriptLineage, 'statements' | 'unresolved' | 'read'>;

/** How columns and tables that statements name are known: by a key, or by where they are. */
interface Ends {
  readonly column: (column: ColumnName) => RemoteColumn | string;
  readonly table: (table: StatementLineage['target']) => RemoteTable | string;
}

/** What copies passes more on than what transforms, and that more than what masks: of two ways the one counts that passes most on. */
const WEAKEST = ['copied', 'transformed', 'aggregated', 'masked'];
const idOf = (end: RemoteColumn | RemoteTable | string): string =>
  typeof end === 'string' ? end : JSON.stringify(end);

/** What statements do to columns of tables as one flow: edges with the line on which the first that says so stands. */
export function toldFlow(
  base: Pick<FoundFlow, 'key' | 'kind' | 'origin' | 'statement' | 'asset'>,
  { statements, unresolved, read }: ReadStatements,
  { column, table }: Ends,
): FoundFlow {
  const edges = new Map<
    string,
    { from: RemoteColumn | string; to: RemoteColumn | string; kind: string; line: number; expression?: string }
  >();
  const influences = new Map<string, { from: RemoteColumn | string; to: RemoteTable | string; kind: string }>();
  for (const made of statements) {
    // What a function gives, and what a query shows, is no column of the catalog.
    if (made.kind === 'function' || made.kind === 'select') continue;
    for (const edge of made.edges) {
      const [from, to] = [column(edge.from), column({ ...made.target, column: edge.to })];
      const id = `${idOf(from)}>${idOf(to)}`;
      const before = edges.get(id);
      if (idOf(from) !== idOf(to) && (!before || WEAKEST.indexOf(before.kind) > WEAKEST.indexOf(edge.kind)))
        edges.set(id, { from, to, kind: edge.kind, line: before?.line ?? made.line, ...inLines(edge) });
    }
    const target = table(made.target);
    for (const { from, kind } of made.influences) {
      const end = column(from);
      influences.set(`${idOf(end)}>${idOf(target)}>${kind}`, { from: end, to: target, kind });
    }
  }
  const remote = [...edges.values()].filter(({ from, to }) => typeof from !== 'string' || typeof to !== 'string');
  const remoteInfluences = [...influences.values()].filter(
    ({ from, to }) => typeof from !== 'string' || typeof to !== 'string',
  );
  return {
    ...base,
    problems: unresolved.map(({ reason, line, statement, lost }) => ({ reason, line, statement, lost })),
    statements: Math.max(1, read),
    edges: [...edges.values()].flatMap(({ from, to, ...edge }) =>
      typeof from === 'string' && typeof to === 'string' ? [{ from, to, ...edge }] : [],
    ),
    influences: [...influences.values()].flatMap(({ from, to, kind }) =>
      typeof from === 'string' && typeof to === 'string' ? [{ from, to, kind }] : [],
    ),
    ...(remote.length > 0 ? { remote } : {}),
    ...(remoteInfluences.length > 0 ? { remoteInfluences } : {}),
  };
}

const unread = (reason: string): ReadStatements => ({
  statements: [],
  unresolved: [{ statement: '', line: 1, reason: `It cannot be read: ${reason}`, lost: true }],
  read: 1,
});

/** What is read of a text, or why it is not: one that cannot be read keeps nobody from the others. @param longest in characters */
export function attempt(text: string, longest: number, read: () => ReadStatements): ReadStatements {
  if (text.length > longest) return unread(`it is longer than ${longest.toLocaleString('en')} characters`);
  try {
    return read();
  } catch (error) {
    return unread(error instanceof Error ? error.message : String(error));
  }
}
