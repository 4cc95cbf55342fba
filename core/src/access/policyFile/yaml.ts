import { isMap, isSeq, LineCounter, type Node, parseDocument, stringify } from 'yaml';
import type { FileEntry, FileFlaw, PolicyInFile } from './types.ts';

/** What the first line of a file says, so that another format is not taken for it. */
export const YAML_FORMAT = 'idrel-policies/1';

const HEAD = `# Who may read what. \`idrel policies plan\` says what this file would change, and for whom; \`idrel policies apply\` does it.
`;

/** Policies as a file that people read and keep in a repository. */
export const toYaml = (policies: readonly PolicyInFile[]): string =>
  HEAD + stringify({ format: YAML_FORMAT, policies }, { lineWidth: 120, aliasDuplicateObjects: false });

/** Entries of a file, each with its line; or what is wrong with the file as a whole. */
export function fromYaml(text: string): { readonly entries: FileEntry[]; readonly flaws: FileFlaw[] } {
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, uniqueKeys: true, schema: 'core' });
  const at = (offset: number | undefined) => `line ${lines.linePos(offset ?? 0).line}`;
  const wrong = (place: string, what: string, mend: string) => ({ entries: [], flaws: [{ at: place, what, mend }] });
  const [error] = document.errors;
  if (error)
    return wrong(
      at(error.pos[0]),
      `The file is no YAML: ${error.message.split('\n')[0]}`,
      'Mend that line: nothing of the file was taken.',
    );
  const root = document.contents;
  if (!isMap(root)) return wrong('line 1', 'The file holds no policies.', `Begin it with “format: ${YAML_FORMAT}”.`);
  const format = document.get('format');
  if (format !== YAML_FORMAT)
    return wrong(
      'line 1',
      format === undefined ? 'The file does not say its format.' : `The file is of the format ${String(format)}.`,
      `It must say “format: ${YAML_FORMAT}”.`,
    );
  const list = document.get('policies', true) as Node | undefined;
  if (!isSeq(list))
    return wrong(
      at(root.range?.[0]),
      'The file has no list of policies.',
      'Put them under “policies:”, each with a dash.',
    );
  const other = root.items.find((item) => !['format', 'policies'].includes(String(item.key)));
  if (other)
    return wrong(
      at((other.key as Node).range?.[0]),
      `“${String(other.key)}” is nothing that a file of policies says.`,
      'It says “format” and “policies”.',
    );
  return {
    entries: list.items.map((item) => {
      const node = item as Node;
      // References are followed only so far: a few lines could stand for a million.
      return { at: at(node.range?.[0]), policy: node.toJS(document, { maxAliasCount: 100 }) as unknown };
    }),
    flaws: [],
  };
}
