import { parseScript } from '../../sql/index.ts';

/** Kinds of files that can have a header, and what begins a comment in them. */
export const COMMENT_SIGNS: Readonly<Record<string, string>> = {
  '.sql': '--',
  '.yaml': '#',
  '.yml': '#',
};
const MARK = 'In the catalog: ';
/** So many assets of a file are named; a file of more is about none of them. */
export const HEADER_MOST = 10;

const BOM = '\ufeff';

/**
 * The text without its header: lines of it at the very top of the file, wherever they came from.
 * @param sign what begins a comment in the file
 */
export function withoutHeader(text: string, sign: string): string {
  const [bom, rest] = text.startsWith(BOM) ? [BOM, text.slice(1)] : ['', text];
  let at = 0;
  while (rest.startsWith(`${sign} ${MARK}`, at)) {
    const end = rest.indexOf('\n', at);
    at = end < 0 ? rest.length : end + 1;
  }
  return bom + rest.slice(at);
}

/**
 * The text with a header in place of the one that it has: a comment with the address of each asset that is made or described in it. Everything else stays as it is, to the
 * ends of its lines.
 */
export function withHeader(text: string, sign: string, addresses: readonly string[]): string {
  const bare = withoutHeader(text, sign);
  const [bom, rest] = bare.startsWith(BOM) ? [BOM, bare.slice(1)] : ['', bare];
  const end = /\r\n/.test(rest) ? '\r\n' : '\n';
  return bom + addresses.map((address) => `${sign} ${MARK}${address}${end}`).join('') + rest;
}

interface Named {
  readonly schemaname?: string;
  readonly relname?: string;
  readonly relpersistence?: string;
}

/**
 * Tables and views that a SQL script makes, in their order, as names from the schema on; what is temporary, or has no schema where none is given, is left out.
 * PostgreSQL's parser must have been loaded.
 */
export function madeIn(sql: string, schema: string | null): string[][] {
  const made = new Map<string, string[]>();
  for (const { node } of parseScript(sql).statements) {
    const relation: Named | undefined =
      'CreateStmt' in node
        ? node.CreateStmt.relation
        : 'ViewStmt' in node
          ? node.ViewStmt.view
          : 'CreateTableAsStmt' in node
            ? node.CreateTableAsStmt.into?.rel
            : undefined;
    const holder = relation?.schemaname ?? schema;
    if (!relation?.relname || !holder || relation.relpersistence === 't') continue;
    made.set(JSON.stringify([holder, relation.relname]), [holder, relation.relname]);
  }
  return [...made.values()];
}
