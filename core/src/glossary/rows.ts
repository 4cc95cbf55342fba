import { joined, neutral, parted, plain } from '../text/index.ts';
import {
  type Concept,
  type Flaw,
  type Given,
  type GivenConcept,
  LANGUAGE_TAG,
  type LabelKind,
  type MatchKind,
  type NoteKind,
  TERM_STATUSES,
  type Vocabulary,
} from './vocabulary.ts';

/** Columns of a sheet of terms. Those of labels and notes may stand again for other languages, as in `name@de`. */
const LABEL_COLUMNS: Record<string, LabelKind> = {
  name: 'preferred',
  'other names': 'alternative',
  'hidden names': 'hidden',
};
const NOTE_COLUMNS: Record<string, NoteKind> = {
  definition: 'definition',
  'scope note': 'scope note',
  example: 'example',
  note: 'note',
  'change note': 'change note',
  'editorial note': 'editorial note',
  'history note': 'history note',
};
const MATCH_COLUMNS: Record<string, MatchKind> = {
  'exact match': 'exact',
  'close match': 'close',
  'broad match': 'broad',
  'narrow match': 'narrow',
  'related match': 'related',
};
const PLAIN = ['uri', 'scheme', 'language', 'broader', 'related', 'status', 'owner'] as const;
/** In every sheet, in this order; others where something stands in them. */
const ALWAYS = [
  'uri',
  'scheme',
  'name',
  'language',
  'other names',
  'hidden names',
  'definition',
  'scope note',
  'example',
  'broader',
  'related',
  'exact match',
  'close match',
  'status',
  'owner',
];
const KNOWN = [...PLAIN, ...Object.keys(LABEL_COLUMNS), ...Object.keys(NOTE_COLUMNS), ...Object.keys(MATCH_COLUMNS)];

/** Columns of one value, which stands as it is. */
const SINGLE = ['uri', 'scheme', 'name', 'language', 'definition', 'status', 'owner'] as const;

const columnOf = <K extends string>(columns: Record<string, K>, kind: K): string =>
  Object.keys(columns).find((column) => columns[column] === kind) ?? kind;

const isAddress = (name: string): boolean => /^[a-z][a-z0-9+.-]*:/i.test(name);

/** A vocabulary as rows of a sheet, the names of the columns first. Terms are named by their URIs where their names alone do not tell them apart. */
export function rowsOf({ schemes, concepts }: Vocabulary): string[][] {
  const schemeName = new Map(schemes.map(({ uri, name }) => [uri, name]));
  const times = new Map<string, number>();
  const named = (concept: Concept) => `${concept.scheme} ${concept.name.toLowerCase()}`;
  for (const concept of concepts) times.set(named(concept), (times.get(named(concept)) ?? 0) + 1);
  const byUri = new Map(concepts.map((concept) => [concept.uri, concept]));
  const called = (from: Concept) => (uri: string) => {
    const other = byUri.get(uri);
    const isClear = other && other.scheme === from.scheme && times.get(named(other)) === 1 && !isAddress(other.name);
    return isClear ? other.name : uri;
  };
  const cells = concepts.map((concept) => {
    const row = new Map<string, string[]>();
    const add = (column: string, ...values: string[]) => row.set(column, [...(row.get(column) ?? []), ...values]);
    const inLanguage = (column: string, language: string) =>
      // A second definition in the term's own language has a column of its own.
      language === concept.language && column !== 'definition' ? column : `${column}@${language || 'none'}`;
    add('uri', concept.uri);
    add('scheme', schemeName.get(concept.scheme) ?? concept.scheme);
    add('name', concept.name);
    add('language', concept.language);
    if (concept.definition) add('definition', concept.definition);
    for (const { kind, language, text } of concept.labels)
      add(inLanguage(columnOf(LABEL_COLUMNS, kind), language), text);
    for (const { kind, language, text } of concept.notes) add(inLanguage(columnOf(NOTE_COLUMNS, kind), language), text);
    add('broader', ...concept.broader.map(called(concept)));
    add('related', ...concept.related.map(called(concept)));
    for (const { kind, uri } of concept.matches) add(columnOf(MATCH_COLUMNS, kind), uri);
    add('status', concept.status);
    if (concept.owner !== null) add('owner', concept.owner);
    return row;
  });
  const others = [...new Set(cells.flatMap((row) => [...row.keys()]))].filter((column) => !ALWAYS.includes(column));
  const columns = [...ALWAYS, ...others.sort()];
  const cell = (column: string, values: readonly string[] = []) =>
    neutral((SINGLE as readonly string[]).includes(column) ? (values[0] ?? '') : joined(values));
  return [columns, ...cells.map((row) => columns.map((column) => cell(column, row.get(column))))];
}

/** A column that is known; its language where one stands behind its name. */
interface Column {
  readonly name: string;
  readonly language: string | undefined;
  readonly place: number;
}

/**
 * Reads terms out of the rows of a sheet: the first names the columns. What has no column stays as it is; an empty cell empties.
 * Terms that a cell names (`broader`, `related`) stay names or URIs, to be looked up by whoever knows the others.
 */
export function readRows(rows: readonly (readonly string[])[]): Given {
  const [head = [], ...lines] = rows;
  const flaws: Flaw[] = [];
  const known = head.map((cell, place) => knownColumn(cell, place));
  const columns = known.filter((column) => column !== null);
  const notKept = head.flatMap((cell, at) =>
    known[at] === null && cell.trim()
      ? [{ what: `the column “${cell.trim()}”`, times: lines.filter((row) => row[at]?.trim()).length }]
      : [],
  );
  if (!columns.some(({ name, language }) => name === 'name' && language === undefined))
    return {
      schemes: [],
      concepts: [],
      notKept,
      flaws: [
        {
          at: 'line 1',
          what: 'No column is called “name”.',
          mend: `Name the columns in the first line: ${ALWAYS.join(', ')}; what you leave out stays as it is.`,
        },
      ],
    };
  const concepts = lines.flatMap((row, index) => {
    if (row.every((cell) => !cell.trim())) return [];
    const at = `line ${index + 2}`;
    return readRow(columns, row, at, (what, mend) => flaws.push({ at, what, mend })) ?? [];
  });
  return { schemes: [], concepts, flaws, notKept };
}

function knownColumn(cell: string, place: number): Column | null {
  const [, name = '', tag] = /^([^@]*)(?:@(.*))?$/s.exec(cell.trim().toLowerCase()) ?? [];
  if (!KNOWN.includes(name.trim())) return null;
  if (tag === undefined) return { name: name.trim(), language: undefined, place };
  const hasLanguage = name.trim() in LABEL_COLUMNS || name.trim() in NOTE_COLUMNS;
  const isTag = tag === 'none' || LANGUAGE_TAG.test(tag);
  return hasLanguage && isTag ? { name: name.trim(), language: tag === 'none' ? '' : tag, place } : null;
}

function readRow(
  columns: readonly Column[],
  row: readonly string[],
  at: string,
  flaw: (what: string, mend: string) => void,
): GivenConcept | undefined {
  const single = (name: (typeof SINGLE)[number]): string | undefined => {
    const column = columns.find((entry) => entry.name === name && entry.language === undefined);
    return column && plain(row[column.place] ?? '');
  };
  const name = single('name');
  if (!name) {
    flaw('The term has no name.', 'Write one into the column “name”; the line is left out.');
    return undefined;
  }
  const language = single('language')?.toLowerCase();
  const isTag = language !== undefined && (language === '' || LANGUAGE_TAG.test(language));
  if (language !== undefined && !isTag)
    flaw(`“${language}” is no language tag.`, 'Write it as in en or pt-BR; the language stays as it is.');
  const status = single('status')?.toLowerCase();
  const knownStatus = TERM_STATUSES.find((entry) => entry === status);
  if (status && !knownStatus)
    flaw(`“${status}” is no status.`, `Use one of ${TERM_STATUSES.join(', ')}; the status stays as it is.`);
  const [uri, scheme, definition, owner] = [single('uri'), single('scheme'), single('definition'), single('owner')];
  const named = (wanted: 'broader' | 'related') => {
    const column = columns.find((entry) => entry.name === wanted);
    return column && parted(plain(row[column.place] ?? ''));
  };
  const [broader, related] = [named('broader'), named('related')];
  /** What the columns of some kind say; those of one value, which stand by themselves, aside. */
  const several = <K extends string>(kinds: Record<string, K>) => {
    const told = columns.flatMap((column) => {
      const kind = kinds[column.name];
      const isSingle = column.language === undefined && (SINGLE as readonly string[]).includes(column.name);
      return kind === undefined || isSingle ? [] : [{ kind, language: column.language, place: column.place }];
    });
    if (told.length === 0) return undefined;
    return {
      covers: told.map((entry) => ({ kind: entry.kind, language: entry.language })),
      values: told.flatMap(({ place, ...entry }) =>
        parted(plain(row[place] ?? '')).map((text) => ({ ...entry, text })),
      ),
    };
  };
  const [labels, notes, matches] = [several(LABEL_COLUMNS), several(NOTE_COLUMNS), several(MATCH_COLUMNS)];
  return {
    at,
    name,
    ...(uri ? { uri } : {}),
    ...(scheme ? { scheme } : {}),
    ...(isTag ? { language } : {}),
    ...(labels ? { labels } : {}),
    ...(definition === undefined ? {} : { definition }),
    ...(notes ? { notes } : {}),
    ...(broader ? { broader } : {}),
    ...(related ? { related } : {}),
    ...(matches
      ? {
          matches: {
            covers: matches.covers.map(({ kind }) => ({ kind })),
            values: matches.values.map(({ kind, text }) => ({ kind, uri: text })),
          },
        }
      : {}),
    ...(knownStatus === undefined ? {} : { status: knownStatus }),
    ...(owner === undefined ? {} : { owner: owner || null }),
  };
}
