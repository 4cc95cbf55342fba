import { GLOSSARY_FORMATS, type GlossaryFormat } from '@idrel/contract/glossary';
import {
  type Given,
  PREFIXES,
  readRows,
  readStatements,
  rowsOf,
  statementsOf,
  TERM_STATUSES,
  type Vocabulary,
} from '@idrel/core/glossary';
import { invalid } from '../platform/problems.ts';
import { asText, readCsv, readWorkbook, SHEET_TYPES, writeCsv, writeWorkbook } from '../platform/sheets.ts';

const TYPES: Record<GlossaryFormat, string> = {
  ttl: 'text/turtle; charset=utf-8',
  jsonld: 'application/ld+json',
  ...SHEET_TYPES,
};
export const mediaType = (format: GlossaryFormat): string => TYPES[format];

/** @throws 422 when the ending of a name says no kind of file that is read */
export function formatOf(name: string): GlossaryFormat {
  const ending = /\.([a-z]+)$/i.exec(name)?.[1]?.toLowerCase() ?? '';
  const known: Record<string, GlossaryFormat> = {
    ttl: 'ttl',
    nt: 'ttl',
    jsonld: 'jsonld',
    json: 'jsonld',
    csv: 'csv',
    xlsx: 'xlsx',
  };
  const format = known[ending];
  if (!format)
    throw invalid(
      `${name}: its ending says no kind of file that is read.`,
      `Use ${Object.keys(GLOSSARY_FORMATS)
        .map((entry) => `.${entry}`)
        .join(', ')}.`,
      [{ field: 'name', message: 'has an ending that is not read' }],
    );
  return format;
}

/** What reads and writes statements is loaded when a file of them comes or goes. */
const statements = () => import('../platform/rdf.ts');

/** @throws 422 with what is wrong and where in the file */
export async function readGlossary(format: GlossaryFormat, bytes: Buffer): Promise<Given> {
  if (format === 'xlsx') return readRows(await readWorkbook(bytes));
  const text = asText(bytes);
  if (format === 'csv') return readRows(readCsv(text));
  const { readJsonLd, readTurtle } = await statements();
  return readStatements(format === 'ttl' ? readTurtle(text) : await readJsonLd(text));
}

/** A vocabulary as the bytes of a file. */
export async function writeGlossary(format: GlossaryFormat, vocabulary: Vocabulary): Promise<Buffer> {
  switch (format) {
    case 'csv':
      return writeCsv(rowsOf(vocabulary));
    case 'xlsx':
      return writeWorkbook('Terms', rowsOf(vocabulary), { wide: WIDE, lists: { status: TERM_STATUSES } });
    case 'ttl':
      return Buffer.from(await (await statements()).writeTurtle(statementsOf(vocabulary), PREFIXES));
    case 'jsonld':
      return Buffer.from(
        JSON.stringify(await (await statements()).asJsonLd(statementsOf(vocabulary), PREFIXES), null, 2),
      );
  }
}

const WIDE = ['definition', 'scope note', 'example', 'other names', 'broader', 'related'];
