import { BY_EMAIL, type DecidedLimit, type Hours, type RowLimit } from './types.ts';

export { BY_EMAIL } from './types.ts';

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

/** Days and hours in words: "Monday to Friday, 08:00 to 18:00 (Europe/Oslo)". */
export function hoursInWords({ days, from, to, zone }: Hours): string {
  const sorted = [...days].sort();
  const runs: number[][] = [];
  for (const day of sorted) {
    const last = runs.at(-1);
    if (last?.at(-1) === day - 1) last.push(day);
    else runs.push([day]);
  }
  const named = (day: number | undefined) => DAYS[(day ?? 1) - 1] ?? '';
  const words = runs.flatMap((run) => (run.length > 2 ? [`${named(run[0])} to ${named(run.at(-1))}`] : run.map(named)));
  const on = sorted.length === 7 ? 'every day' : words.join(', ');
  return `${on}, ${from} to ${to}${to <= from ? ' of the next day' : ''} (${zone})`;
}

/** That rows are told only together. */
const togetherInWords = (column: string, least: number): string =>
  `only in groups, each with at least ${least} different values of ${column}`;

/** Which rows may be seen, in words that go on from "rows where"; where they are told only together, in words that stand alone. @param rights the table of rights, as it is called */
export function limitInWords(
  {
    column,
    values,
    attribute,
    through,
    least,
  }: Pick<RowLimit, 'column' | 'values' | 'attribute' | 'least'> & {
    readonly through: Omit<NonNullable<RowLimit['through']>, 'at'> | null;
  },
  rights: string | null | undefined,
): string {
  if (least !== undefined) return togetherInWords(column, least);
  if (through)
    return `${column} is one that ${rights ?? 'a table of rights'} gives the reader (${through.column} for ${through.by === BY_EMAIL ? 'the e-mail address' : `the ${through.by}`} in ${through.reader})`;
  if (attribute !== null) return `${column} is the ${attribute} of the reader`;
  return `${column} is ${values.join(' or ') || 'none of any values'}`;
}

/** Which rows one reader gets, in words: "only rows where port is Ulvey". @param byRights whether a table of rights says it */
export function decidedLimitInWords({
  column,
  values,
  byRights,
  least,
}: Pick<DecidedLimit, 'column' | 'values'> & { readonly byRights: boolean; readonly least?: number | null }): string {
  if (typeof least === 'number') return togetherInWords(column, least);
  if (byRights) return `only rows where ${column} is one that a table of rights gives the reader`;
  return values.length > 0
    ? `only rows where ${column} is ${values.join(' or ')}`
    : `no rows, since nothing is known of the reader that ${column} could be`;
}
