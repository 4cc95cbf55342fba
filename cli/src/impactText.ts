import type { ScriptChange, ScriptFile } from '@idrel/core/lineage';

/** Something that is made of what changes. */
export interface AffectedRow {
  readonly id: string;
  readonly kind: string;
  readonly path: string;
  readonly source: string;
  readonly standing: string;
  readonly within: { readonly kind: string; readonly path: string; readonly standing: string } | null;
  readonly owners: readonly string[];
  readonly distance: number;
  readonly how: string;
  readonly matches: boolean;
}
/** What a change touches; rows are null where the catalog does not have it. */
export interface Affected {
  readonly change: ScriptChange;
  readonly rows: readonly AffectedRow[] | null;
}

/** By which its own comment is known again: a comment of Markdown, which nobody sees. */
export const MARK = '<!-- idrel impact -->';
/** So many rows of one change are told. */
const ROWS_MOST = 30;

const WHAT: Readonly<Record<ScriptChange['what'], string>> = {
  dropped: 'is dropped',
  renamed: 'is renamed',
  retyped: 'gets another type',
  'made otherwise': 'is made otherwise',
  added: 'is new',
};
const nameOf = ({ schema, relation, column }: ScriptChange): string =>
  [schema, relation, ...(column === null ? [] : [column])].join('.');
/** Texts of others within a table of Markdown: no markup of theirs counts, and no bar ends a cell. */
const cell = (text: string): string =>
  text.replace(/[\\`*_{}[\]()#+!|<>~]/g, (letter) => `\\${letter}`).replace(/\s+/g, ' ');
const code = (text: string): string => `\`${text.replaceAll('`', 'ˋ').replace(/\s+/g, ' ')}\``;
const plural = (count: number, one: string): string => `${count} ${one}${count === 1 ? '' : 's'}`;

function headOf({ change }: Affected): string {
  const { before, after, what } = change;
  const how =
    what === 'renamed' || what === 'retyped'
      ? `: ${code(before ?? '')} → ${code(after ?? '')}`
      : what === 'made otherwise'
        ? `: from ${code(before ?? 'nothing')} → ${code(after ?? 'nothing')}`
        : '';
  return `### ${code(nameOf(change))} ${WHAT[what]}${how}`;
}

function tableOf({ rows }: Affected): string[] {
  if (rows === null) return ['Not in the catalog: nothing is known of what is made of it.', ''];
  if (rows.length === 0) return ['Nothing in the catalog is made of it.', ''];
  const shown = rows.slice(0, ROWS_MOST);
  return [
    '| what | in | standing | owners | steps | how |',
    '|---|---|---|---|---|---|',
    ...shown.map(({ kind, path, source, standing, within, owners, distance, how, matches }) =>
      [
        '',
        `${matches ? '**⚠** ' : ''}${cell(kind)} ${code(path).replaceAll('|', '\\|')}`,
        cell(source),
        cell(within?.standing ?? standing),
        cell(owners.join(', ')) || '–',
        String(distance),
        cell(how),
        '',
      ]
        .join(' | ')
        .trim(),
    ),
    ...(rows.length > shown.length ? ['', `and ${rows.length - shown.length} more`] : []),
    '',
  ];
}

/** What a change of scripts does, as Markdown: who must know first, then each change with what is made of it. */
export function markdownOf({
  range,
  source,
  knower,
  touched,
  affected,
  added,
  lost,
  rule,
}: {
  range: string;
  source: string;
  /** Who, or what, was asked. */
  knower: string;
  touched: readonly string[];
  affected: readonly Affected[];
  added: readonly ScriptChange[];
  lost: readonly { readonly path: ScriptFile['path']; readonly line: number; readonly reason: string }[];
  rule: string | undefined;
}): string {
  const rows = new Map(affected.flatMap(({ rows: some }) => (some ?? []).map((row) => [row.id, row] as const)));
  const owners = [...new Set([...rows.values()].flatMap((row) => row.owners))].sort();
  const matching = [...rows.values()].filter(({ matches }) => matches);
  const reports = new Set(
    [...rows.values()].flatMap(({ kind, path, within }) =>
      [{ kind, path }, ...(within ? [within] : [])]
        .filter((one) => one.kind === 'report' || one.kind === 'dashboard')
        .map((one) => one.path),
    ),
  );
  const lines = [MARK, `## Impact of ${code(range)} on ${cell(source)}`, ''];
  if (touched.length === 0) return [...lines, 'No SQL script is touched.'].join('\n');
  if (affected.length === 0)
    lines.push(
      `${plural(touched.length, 'script')} touched; nothing that they made before is dropped, renamed or made otherwise.`,
      '',
    );
  else
    lines.push(
      `${plural(affected.length, 'change')} in ${plural(touched.length, 'script')}; ${plural(rows.size, 'asset')} made of what changes, ${plural(reports.size, 'report')} among what they lead to.`,
      '',
    );
  if (rule)
    lines.push(
      matching.length > 0
        ? `**The rule ${code(rule)} holds for ${plural(matching.length, 'asset')}**, marked ⚠ below.`
        : `The rule ${code(rule)} holds for none of them.`,
      '',
    );
  if (owners.length > 0) lines.push(`To tell: ${owners.map(cell).join(', ')}`, '');
  for (const one of affected) lines.push(headOf(one), '', ...tableOf(one));
  if (added.length > 0) lines.push(`New: ${added.map((change) => code(nameOf(change))).join(', ')}`, '');
  if (lost.length > 0)
    lines.push(
      '### Statements that could not be read',
      '',
      ...lost.map(({ path, line, reason }) => `- ${code(`${path}, line ${line}`)}: ${cell(reason)}`),
      '',
    );
  lines.push(`As ${knower} knows it, with what the person who asked may see.`);
  return lines.join('\n');
}
