import validator from 'validator';
import { joined, nearest, neutral, parted, plain } from '../text/index.ts';

/** Somebody as a directory lists them, and as Idrel has them. */
export interface Listed {
  readonly email: string;
  readonly name: string;
  readonly job: string;
  readonly groups: readonly string[];
}
export interface Known extends Listed {
  readonly id: string;
  readonly left: boolean;
}
export const LISTED_FIELDS = ['name', 'job', 'groups'] as const;
export type ListedField = (typeof LISTED_FIELDS)[number];

export interface Flaw {
  readonly at: string;
  readonly what: string;
  readonly mend: string;
}

/** What a line says of somebody; fields without a column are not there. */
export interface Line extends Partial<Omit<Listed, 'email'>> {
  readonly at: string;
  readonly email: string;
}
export interface Directory {
  readonly lines: readonly Line[];
  readonly flaws: readonly Flaw[];
  readonly notKept: readonly { readonly what: string; readonly times: number }[];
}

export interface PersonChange {
  readonly at: string;
  readonly id: string;
  readonly name: string;
  readonly fields: readonly { readonly field: ListedField; readonly before: string; readonly after: string }[];
  readonly after: Listed;
}
export interface DirectoryChange {
  readonly fresh: readonly (Listed & { readonly at: string })[];
  readonly changed: readonly PersonChange[];
  readonly same: number;
  /** Who is in Idrel and not in the directory. */
  readonly absent: readonly Known[];
  readonly flaws: readonly Flaw[];
}

/** By which names a column is known; the first is the one that is written. */
const COLUMNS: Readonly<Record<ListedField | 'email', readonly string[]>> = {
  email: ['e-mail', 'email', 'mail', 'e-mail address', 'email address'],
  name: ['name', 'display name', 'full name'],
  job: ['job', 'title', 'job title'],
  groups: ['groups', 'member of'],
};
const MOST = { name: 120, job: 120, email: 200 } as const;

/** People as rows of a sheet, the names of the columns first. */
export const directoryRows = (people: readonly Listed[]): string[][] => [
  [COLUMNS.email[0] ?? '', ...LISTED_FIELDS],
  ...people.map(({ email, name, job, groups }) => [email, name, job, joined(groups)].map(neutral)),
];

const columnOf = (cell: string): ListedField | 'email' | undefined => {
  const written = cell.trim().toLowerCase();
  return (Object.keys(COLUMNS) as (keyof typeof COLUMNS)[]).find((field) => COLUMNS[field].includes(written));
};

/**
 * Reads people out of the rows of a sheet: the first names the columns. People are known by their e-mail addresses; what has no column stays as it is,
 * an empty cell empties, and several groups in a cell are parted by strokes or semicolons.
 */
export function readDirectory(rows: readonly (readonly string[])[]): Directory {
  const [head = [], ...body] = rows;
  const known = head.map(columnOf);
  const notKept = head.flatMap((cell, at) => {
    const times = known[at] === undefined && cell.trim() ? body.filter((row) => row[at]?.trim()).length : 0;
    return times > 0 ? [{ what: `the column “${cell.trim()}”`, times }] : [];
  });
  const flaws: Flaw[] = [];
  const placeOf = (field: ListedField | 'email') => known.indexOf(field);
  if (placeOf('email') < 0)
    return {
      lines: [],
      notKept,
      flaws: [
        {
          at: 'line 1',
          what: 'No column is called “e-mail”.',
          mend: 'Name the columns in the first line: e-mail, name, job, groups; people are known by their addresses.',
        },
      ],
    };
  const firstAt = new Map<string, string>();
  const lines = body.flatMap((row, index): Line[] => {
    const at = `line ${index + 2}`;
    if (row.every((cell) => !cell.trim())) return [];
    const cell = (field: ListedField | 'email') => {
      const place = placeOf(field);
      return place < 0 ? undefined : plain(row[place] ?? '');
    };
    const flaw = (what: string, mend: string): Line[] => {
      flaws.push({ at, what, mend });
      return [];
    };
    const email = cell('email') ?? '';
    if (!validator.isEmail(email) || email.length > MOST.email)
      return flaw(
        email ? `“${email}” is no e-mail address.` : 'There is no e-mail address.',
        'Write one, like name@example.org; the line is left.',
      );
    const before = firstAt.get(email.toLowerCase());
    if (before) return flaw(`${email} stands in ${before} as well.`, 'Keep one of them; this line is left.');
    firstAt.set(email.toLowerCase(), at);
    const [name, job, groups] = [cell('name'), cell('job'), cell('groups')];
    const long = (['name', 'job'] as const).find((field) => (cell(field) ?? '').length > MOST[field]);
    if (long) return flaw(`The ${long} is longer than ${MOST[long]} characters.`, 'Shorten it; the line is left.');
    return [
      {
        at,
        email,
        ...(name === undefined ? {} : { name }),
        ...(job === undefined ? {} : { job }),
        ...(groups === undefined ? {} : { groups: groups.includes('|') ? parted(groups) : semicolons(groups) }),
      },
    ];
  });
  return { lines, flaws, notKept };
}

const semicolons = (cell: string): string[] =>
  cell
    .split(';')
    .map((name) => plain(name).replace(/\\([\\|])/g, '$1'))
    .filter(Boolean);

const lineOf = ({ at }: Flaw): number => Number(at.replace(/\D/g, ''));

const sorted = (names: readonly string[]) => [...new Set(names)].sort((a, b) => (a < b ? -1 : 1));

/** What would come of a directory: who is new, whose what changes, who is not in it. Groups that nobody knows are told, and left out. */
export function compareDirectory(
  { lines, flaws: read }: Pick<Directory, 'lines' | 'flaws'>,
  people: readonly Known[],
  groupNames: readonly string[],
): DirectoryChange {
  const flaws = [...read];
  const byEmail = new Map(people.map((person) => [person.email.toLowerCase(), person]));
  const groups = new Map(groupNames.map((name) => [name.toLowerCase(), name]));
  const fresh: (Listed & { at: string })[] = [];
  const changed: PersonChange[] = [];
  let same = 0;
  const named = ({ at, groups: wanted = [] }: Line): string[] =>
    sorted(
      wanted.flatMap((name) => {
        const group = groups.get(name.toLowerCase());
        if (group !== undefined) return [group];
        const near = nearest(groupNames, name);
        flaws.push({
          at,
          what: `There is no group “${name}”.`,
          mend: near
            ? `Is “${near}” meant? Else make the group first.`
            : 'Make the group first, then take the file in again.',
        });
        return [];
      }),
    );
  for (const line of lines) {
    const now = byEmail.get(line.email.toLowerCase());
    if (now?.left) {
      flaws.push({ at: line.at, what: `${now.name} has left.`, mend: 'Let them come back first; the line is left.' });
      continue;
    }
    if (line.name === '' || (!now && line.name === undefined)) {
      flaws.push({ at: line.at, what: `${line.email} has no name.`, mend: 'Write it; the line is left.' });
      continue;
    }
    const after: Listed = {
      email: now?.email ?? line.email,
      name: line.name ?? now?.name ?? '',
      job: line.job ?? now?.job ?? '',
      groups: line.groups ? named(line) : sorted(now?.groups ?? []),
    };
    if (!now) {
      fresh.push({ ...after, at: line.at });
      continue;
    }
    const cell = (listed: Listed, field: ListedField) =>
      field === 'groups' ? sorted(listed.groups).join(', ') : listed[field];
    const fields = LISTED_FIELDS.flatMap((field) => {
      const [before, then] = [cell(now, field), cell(after, field)];
      return before === then ? [] : [{ field, before, after: then }];
    });
    if (fields.length === 0) same += 1;
    else changed.push({ at: line.at, id: now.id, name: now.name, fields, after });
  }
  const there = new Set(lines.map(({ email }) => email.toLowerCase()));
  return {
    fresh,
    changed,
    same,
    absent: people.filter(({ email, left }) => !left && !there.has(email.toLowerCase())),
    flaws: flaws.sort((a, b) => lineOf(a) - lineOf(b)),
  };
}
