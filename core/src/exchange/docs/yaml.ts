import { isMap, isScalar, isSeq, LineCounter, type Node, type Pair, parseDocument, type YAMLMap } from 'yaml';
import { placeOf, STANDINGS } from '../../catalog/index.ts';
import { nearest } from '../../text/index.ts';
import { DOC_FIELDS, DOCS_FORMAT, type DocField, WINNERS } from './schema.ts';

/** What a file says of one asset. */
export interface DocEntry {
  /** Where in the file: `line 7`. */
  readonly at: string;
  /** Its readable address. */
  readonly of: string;
  /** Whether it is a column of what stands around it. */
  readonly column: boolean;
  readonly said: Readonly<Partial<Record<DocField, string | null | readonly string[]>>>;
  /** Of what is said, where what somebody decided by hand stays. */
  readonly keep: readonly DocField[];
}
export interface DocFlaw {
  readonly at: string;
  readonly what: string;
  readonly mend: string;
}
export interface DocsRead {
  readonly entries: readonly DocEntry[];
  readonly flaws: readonly DocFlaw[];
}

const LISTS: readonly DocField[] = ['stewards', 'custodians', 'terms', 'tags'];
const MOST: Readonly<Partial<Record<DocField, number>>> = { stewards: 20, custodians: 20, terms: 50, tags: 50 };

/** Whether a text is a file of documentation, by what it says of itself; other YAML in a folder is somebody else's. */
export const isDocs = (text: string): boolean => /^format:\s*["']?idrel-docs\//m.test(text);

/**
 * Reads a file of documentation. What cannot be read of it is a flaw with its line; the rest is read.
 * @param text YAML, as {@link DOCS_SCHEMA} describes it
 */
export function readDocs(text: string): DocsRead {
  const counter = new LineCounter();
  const document = parseDocument(text, { lineCounter: counter, uniqueKeys: true, schema: 'core' });
  const entries: DocEntry[] = [];
  const flaws: DocFlaw[] = [];
  const at = (node: unknown) => `line ${counter.linePos((node as Node | null)?.range?.[0] ?? 0).line}`;
  const flaw = (node: unknown, what: string, mend: string) => void flaws.push({ at: at(node), what, mend });
  const [error] = document.errors;
  if (error) {
    flaws.push({
      at: `line ${counter.linePos(error.pos[0]).line}`,
      what: `The file is no YAML: ${error.message.split('\n')[0]}`,
      mend: 'Mend that line: nothing of the file was taken.',
    });
    return { entries, flaws };
  }
  const root = document.contents;
  /** The fields of a map, those of no known name left out with a flaw. */
  const fields = (node: unknown, known: readonly string[], what: string): Map<string, Pair> => {
    const found = new Map<string, Pair>();
    for (const pair of (node as YAMLMap).items as Pair[]) {
      const name = isScalar(pair.key) ? String(pair.key.value) : '';
      if (known.includes(name)) found.set(name, pair);
      else {
        const near = nearest(known, name);
        flaw(
          pair.key,
          `“${name}” is nothing that ${what} says.`,
          near ? `Is “${near}” meant?` : `It says ${known.join(', ')}.`,
        );
      }
    }
    return found;
  };
  const wordOf = (node: unknown): string | undefined =>
    isScalar(node) && typeof node.value === 'string' && node.value.trim() !== '' ? node.value : undefined;

  /** What is said of a field; undefined where it cannot be read. */
  const readField = (field: DocField, node: unknown): string | null | readonly string[] | undefined => {
    if (LISTS.includes(field)) {
      const list = isSeq(node) ? node.items.map(wordOf) : [wordOf(node)];
      const words = list.filter((word) => word !== undefined);
      if (words.length < list.length) {
        flaw(
          node,
          `${field} is a list of names.`,
          'Write each on a line of its own, behind a dash; quote what looks like a number.',
        );
        return undefined;
      }
      if (words.length > (MOST[field] ?? 50)) {
        flaw(node, `${field} holds more than ${MOST[field]}.`, 'Leave some out.');
        return undefined;
      }
      return [...new Set(words.map((word) => word.trim()))];
    }
    if (isScalar(node) && node.value === null && field !== 'standing') return null;
    const word = isScalar(node) && typeof node.value === 'string' ? node.value.trim() : undefined;
    if (word === undefined || (field !== 'description' && word === '')) {
      flaw(node, `${field} is a text.`, 'Write one; quote what looks like a number or a date.');
      return undefined;
    }
    if (word.length > 20_000) {
      flaw(node, `${field} is longer than 20,000 letters.`, 'Say it shorter, and the rest in the guide of the asset.');
      return undefined;
    }
    if (field === 'standing' && !(STANDINGS as readonly string[]).includes(word)) {
      flaw(node, `“${word}” is no standing.`, `Use one of ${STANDINGS.join(', ')}.`);
      return undefined;
    }
    return word;
  };

  if (!isMap(root)) {
    flaws.push({ at: 'line 1', what: 'The file says nothing.', mend: `Begin it with “format: ${DOCS_FORMAT}”.` });
    return { entries, flaws };
  }
  const top = fields(root, ['format', 'source', 'wins', 'assets'], 'a file of documentation');
  const format = wordOf(top.get('format')?.value);
  if (format !== DOCS_FORMAT) {
    flaw(
      top.get('format')?.value ?? root,
      format === undefined ? 'The file does not say its format.' : `The file is of the format ${format}.`,
      `It must say “format: ${DOCS_FORMAT}”.`,
    );
    return { entries: [], flaws };
  }
  const source = wordOf(top.get('source')?.value);
  if (source === undefined) {
    flaw(
      top.get('source')?.value ?? root,
      'The file does not say of which source it is.',
      'Write “source:” and the name that it has in the catalog.',
    );
    return { entries: [], flaws };
  }
  const keep = new Set<DocField>(DOC_FIELDS);
  const wins = top.get('wins')?.value;
  if (isMap(wins))
    for (const [name, pair] of fields(wins, DOC_FIELDS, '“wins”')) {
      const winner = wordOf(pair.value);
      if (winner === 'file') keep.delete(name as DocField);
      else if (winner !== 'people') flaw(pair.value, `“${winner ?? ''}” cannot win.`, `Write ${WINNERS.join(' or ')}.`);
    }
  else if (wins !== undefined)
    flaw(wins, '“wins” says of facts who wins.', 'Write it as “description: file”, a line for each fact.');

  const take = (key: unknown, names: readonly string[], node: unknown, columnsToo: boolean): void => {
    if (isScalar(node)) {
      const description = readField('description', node);
      if (description !== undefined) add(key, names, !columnsToo, { description });
      return;
    }
    if (!isMap(node)) {
      flaw(key, 'Nothing can be read of it.', 'Write its description, or what is known of it line by line.');
      return;
    }
    const said: Partial<Record<DocField, string | null | readonly string[]>> = {};
    const found = fields(
      node,
      columnsToo ? [...DOC_FIELDS, 'columns'] : DOC_FIELDS,
      columnsToo ? 'an asset' : 'a column',
    );
    for (const [name, pair] of found) {
      if (name === 'columns') continue;
      const value = readField(name as DocField, pair.value);
      if (value !== undefined) said[name as DocField] = value;
    }
    add(key, names, !columnsToo, said);
    const columns = found.get('columns')?.value;
    if (columns === undefined) return;
    if (!isMap(columns)) flaw(columns, 'Columns stand by their names.', 'Write each name with a colon behind it.');
    else
      for (const pair of columns.items as Pair[]) {
        const name = isScalar(pair.key) ? String(pair.key.value) : '';
        if (name === '') flaw(pair.key, 'A column has no name.', 'Write its name.');
        else take(pair.key, [...names, name], pair.value, false);
      }
  };
  const seen = new Set<string>();
  const add = (key: unknown, names: readonly string[], column: boolean, said: DocEntry['said']): void => {
    const of = placeOf(source, names);
    const fields = Object.keys(said) as DocField[];
    if (fields.length === 0) return;
    if (seen.has(of)) {
      flaw(key, `${names.join('/')} stands twice.`, 'Say all of it in one place.');
      return;
    }
    seen.add(of);
    entries.push({ at: at(key), of, column, said, keep: fields.filter((field) => keep.has(field)) });
  };
  const assets = top.get('assets')?.value;
  if (!isMap(assets))
    flaw(assets ?? root, 'The file says nothing of any asset.', 'Write “assets:” and below it each by its name.');
  else
    for (const pair of assets.items as Pair[]) {
      const names = (isScalar(pair.key) ? String(pair.key.value) : '').split('/').map(decoded);
      if (names.includes(''))
        flaw(pair.key, 'A name is missing.', 'Write the names from the top with a stroke between, as in mart/fares.');
      else take(pair.key, names, pair.value, true);
    }
  return { entries, flaws };
}

/** A name as it stands in a file, where a stroke of its own is written as %2F. */
function decoded(name: string): string {
  try {
    return decodeURIComponent(name).trim();
  } catch {
    return name.trim();
  }
}
