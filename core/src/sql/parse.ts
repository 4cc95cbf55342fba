import type { Node } from '@pgsql/types';
import { fingerprintSync, hasSqlDetails, loadModule, normalizeSync, parseSync, scanSync } from 'libpg-query';
import { type ScriptPiece, type SplitScript, splitScript } from './script.ts';

/** One statement of a script, with the text it was parsed from. */
export interface ParsedStatement {
  readonly node: Node;
  readonly text: string;
  /** 1-based line of the script on which the statement starts. */
  readonly line: number;
}

/** A stretch of a script that PostgreSQL's parser does not accept, or a command of psql that cannot be followed. */
export interface RejectedStatement {
  readonly text: string;
  readonly line: number;
  readonly reason: string;
  /** Whether a statement is lost by it. */
  readonly lost: boolean;
}

export interface ParsedScript {
  readonly statements: ParsedStatement[];
  readonly rejected: RejectedStatement[];
}

let loading: Promise<void> | undefined;

/** Loads PostgreSQL's parser (WebAssembly) once; the functions below need it to have finished. */
export function loadParser(): Promise<void> {
  loading ??= loadModule();
  return loading;
}

/** The reason for which a parser error was raised, with its position in characters where it is known. */
export function parserReason(error: unknown): string {
  if (hasSqlDetails(error) && error.sqlDetails)
    return `${error.sqlDetails.message} (at character ${error.sqlDetails.cursorPosition + 1})`;
  return error instanceof Error ? error.message : String(error);
}

/** Pieces that are parsed in one go: a call for each costs more than most statements do. */
const TOGETHER = 64;

/**
 * Parses a script of any number of statements with PostgreSQL's own grammar, split as psql splits it: one bad statement does not hide the others.
 *
 * @param sql the script, UTF-8
 * @param split takes the script apart; psql's rules when left out
 * @returns the statements in order, and what was refused or could not be followed, with its reason; never throws for bad SQL
 */
export function parseScript(sql: string, split: (sql: string) => SplitScript = splitScript): ParsedScript {
  const { pieces, notes } = split(sql);
  const statements: ParsedStatement[] = [];
  const rejected: RejectedStatement[] = [...notes];
  for (let from = 0; from < pieces.length; from += TOGETHER) {
    const some = pieces.slice(from, from + TOGETHER);
    const nodes = parseTogether(some);
    for (const [index, piece] of some.entries()) {
      const node = nodes?.[index];
      if (node) statements.push({ node, text: piece.text, line: piece.line });
      else takeAlone(piece, statements, rejected);
    }
  }
  return { statements, rejected: rejected.sort((a, b) => a.line - b.line) };
}

/** One node for each piece, or nothing when one of them is not what it seems. */
function parseTogether(pieces: readonly ScriptPiece[]): Node[] | undefined {
  try {
    const nodes = (parseSync(pieces.map((piece) => piece.text).join('\n;\n')).stmts ?? []).flatMap(
      (raw) => raw.stmt ?? [],
    );
    return nodes.length === pieces.length ? nodes : undefined;
  } catch {
    return undefined;
  }
}

function takeAlone(piece: ScriptPiece, statements: ParsedStatement[], rejected: RejectedStatement[]): void {
  try {
    for (const raw of parseSync(piece.text).stmts ?? [])
      if (raw.stmt) statements.push({ node: raw.stmt, text: piece.text, line: piece.line });
  } catch (error) {
    const lines = piece.text.split('\n').length;
    const variable = /(?<![:\w]):['"]?([A-Za-z_]\w*)/.exec(piece.text)?.[1];
    const reason = `${parserReason(error)}${variable ? `; the variable :${variable} is not set in the script` : ''}`;
    rejected.push({
      text: piece.text,
      line: piece.line,
      lost: true,
      reason: lines > 1 ? `${reason}; lines ${piece.line} to ${piece.line + lines - 1} are lost` : reason,
    });
  }
}

/** What statements have in common that differ in values, comments and spacing alone. @throws when it cannot be parsed */
export const printOf = (sql: string): string => fingerprintSync(sql);

/**
 * A statement without the values in it and without its comments, which can hold values too: each value becomes a number with a dollar, as in
 * PostgreSQL's own counts. @throws when it cannot be parsed
 */
export function withoutValues(sql: string): string {
  const text = normalizeSync(sql);
  const bytes = new TextEncoder().encode(text);
  const decoder = new TextDecoder();
  const pieces: string[] = [];
  let from = 0;
  for (const { start, end, tokenName } of scanSync(text).tokens) {
    if (!/COMMENT/.test(tokenName)) continue;
    pieces.push(decoder.decode(bytes.subarray(from, start)).trim());
    from = end;
  }
  pieces.push(decoder.decode(bytes.subarray(from)).trim());
  return pieces.filter(Boolean).join(' ');
}

/** Parses exactly one statement; throws the parser's own error, or one that counts the statements. */
export function parseOne(sql: string): Node {
  const stmts = parseSync(sql).stmts ?? [];
  const only = stmts[0]?.stmt;
  if (stmts.length !== 1 || !only) throw new Error(`Exactly one statement is expected, ${stmts.length} were given.`);
  return only;
}

/** Where in what was sent PostgreSQL's grammar ends to follow. */
export class SyntaxProblem extends Error {
  /** In characters, the first being 1; null where that is not known. */
  readonly position: number | null;
  constructor(message: string, position: number | null) {
    super(message);
    this.name = 'SyntaxProblem';
    this.position = position;
  }
}

/** The statements of a text as a server takes them: by its grammar alone, without what a client of the command line would do. @throws {SyntaxProblem} */
export function statementsOf(sql: string): { readonly node: Node; readonly text: string }[] {
  try {
    const bytes = new TextEncoder().encode(sql);
    const decoder = new TextDecoder();
    return (parseSync(sql).stmts ?? []).flatMap(({ stmt, stmt_location: from = 0, stmt_len: length }) =>
      stmt
        ? [{ node: stmt, text: decoder.decode(bytes.subarray(from, length ? from + length : undefined)).trim() }]
        : [],
    );
  } catch (error) {
    if (hasSqlDetails(error) && error.sqlDetails)
      throw new SyntaxProblem(error.sqlDetails.message, error.sqlDetails.cursorPosition + 1);
    throw new SyntaxProblem(error instanceof Error ? error.message : String(error), null);
  }
}
