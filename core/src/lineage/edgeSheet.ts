import { plain } from '../text/index.ts';
import { VALUE_KINDS, type ValueKind } from './types.ts';

/** An edge as a line of a sheet says it: its ends, and the flow it goes through, by readable addresses. */
export interface EdgeLine {
  /** Where it stands: `line 4`. */
  readonly at: string;
  readonly from: string;
  readonly to: string;
  readonly kind: ValueKind;
  readonly through: string | null;
  readonly note: string;
}
export interface EdgeSheet {
  readonly lines: readonly EdgeLine[];
  readonly flaws: readonly { readonly at: string; readonly what: string; readonly mend: string }[];
  /** Columns that say nothing of an edge, with how many of their cells are filled. */
  readonly notKept: readonly { readonly what: string; readonly times: number }[];
}

const FIELDS = ['from', 'to', 'kind', 'through', 'note'] as const;
type Field = (typeof FIELDS)[number];
/** What people call the columns. */
const CALLED: Readonly<Record<string, Field>> = {
  from: 'from',
  to: 'to',
  into: 'to',
  kind: 'kind',
  'what happens': 'kind',
  how: 'kind',
  through: 'through',
  flow: 'through',
  note: 'note',
  remark: 'note',
  'how it is known': 'note',
};
const calledIn = (cell: string): Field | undefined => CALLED[plain(cell).toLowerCase()];
const MOST_NOTE = 2000;

/** An address as it is asked for: a link that was copied names the server as well, and people leave out how it begins. */
function addressed(text: string): string {
  const place = text.replace(/^https?:\/\/[^/]+(?=\/at\/)/i, '');
  return place.startsWith('/at/') ? place : `/at/${place.replace(/^\/+/, '')}`;
}

/**
 * Reads edges out of the rows of a sheet. The first row names the columns (from, to, what happens, through, note); where it does not, they stand in that order. An
 * empty cell of what happens means copied.
 */
export function readEdgeSheet(rows: readonly (readonly string[])[]): EdgeSheet {
  const [head = []] = rows;
  const named = head.map(calledIn);
  const hasHeads = named.includes('from') && named.includes('to');
  const columns: readonly (Field | undefined)[] = hasHeads ? named : FIELDS;
  const body = rows.map((row, nth) => ({ row, at: `line ${nth + 1}` })).slice(hasHeads ? 1 : 0);
  const flaws: EdgeSheet['flaws'][number][] = [];
  const firstAt = new Map<string, string>();
  const lines = body.flatMap(({ row, at }): EdgeLine[] => {
    if (row.every((cell) => !cell.trim())) return [];
    const cell = (field: Field): string => plain(row[columns.indexOf(field)] ?? '');
    const flaw = (what: string, mend: string): EdgeLine[] => {
      flaws.push({ at, what, mend: `${mend}; the line is left.` });
      return [];
    };
    const [from, to, said, through, note] = [cell('from'), cell('to'), cell('kind'), cell('through'), cell('note')];
    if (!from || !to)
      return flaw(
        from ? 'It does not say where the edge leads.' : 'It does not say where the edge comes from.',
        'Write a readable address, as in Warehouse/core/passenger/email',
      );
    const kind = said === '' ? 'copied' : VALUE_KINDS.find((known) => known === said.toLowerCase());
    if (!kind)
      return flaw(`“${said}” is nothing that can happen to a value.`, `Write one of ${VALUE_KINDS.join(', ')}`);
    if (note.length > MOST_NOTE) return flaw(`The note is longer than ${MOST_NOTE} characters.`, 'Shorten it');
    const pair = `${addressed(from)}\n${addressed(to)}`;
    const before = firstAt.get(pair);
    if (before) return flaw(`The same edge stands in ${before}.`, 'Keep one of them');
    firstAt.set(pair, at);
    return [{ at, from: addressed(from), to: addressed(to), kind, through: through ? addressed(through) : null, note }];
  });
  const notKept = columns.flatMap((field, at) => {
    const times = field === undefined ? body.filter(({ row }) => row[at]?.trim()).length : 0;
    return times > 0 ? [{ what: `the column “${plain(head[at] ?? '')}”`, times }] : [];
  });
  return { lines, flaws, notKept };
}
