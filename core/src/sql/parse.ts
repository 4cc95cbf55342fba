import type { Node, RawStmt } from '@pgsql/types';
import { hasSqlDetails, loadModule, parseSync, scanSync } from 'libpg-query';

/** One statement of a script, with the text it was parsed from. */
export interface ParsedStatement {
  readonly node: Node;
  readonly text: string;
  /** 1-based line of the script on which the statement starts. */
  readonly line: number;
}

/** A stretch of a script that PostgreSQL's parser does not accept. */
export interface RejectedStatement {
  readonly text: string;
  readonly line: number;
  readonly reason: string;
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
  if (hasSqlDetails(error) && error.sqlDetails) return `${error.sqlDetails.message} (at character ${error.sqlDetails.cursorPosition + 1})`;
  return error instanceof Error ? error.message : String(error);
}

const lineOf = (sql: string, offset: number) => sql.slice(0, offset).split('\n').length;

function toStatement(bytes: Buffer, raw: RawStmt, lineBase: number): ParsedStatement | undefined {
  if (!raw.stmt) return undefined;
  const start = raw.stmt_location ?? 0;
  const end = raw.stmt_len ? start + raw.stmt_len : bytes.length;
  const slice = bytes.subarray(start, end).toString('utf8');
  const lead = slice.length - slice.trimStart().length;
  const before = bytes.subarray(0, start).toString('utf8');
  return { node: raw.stmt, text: slice.trim(), line: lineBase + lineOf(before + slice.slice(0, lead), Infinity) - 1 };
}

/**
 * Parses a script of any number of statements with PostgreSQL's own grammar.
 * When the script as a whole is refused it is cut at its semicolons, so that one bad statement does not hide the others.
 *
 * @param sql the script, UTF-8
 * @returns the statements in order, and what was refused with its reason; never throws for bad SQL
 */
export function parseScript(sql: string): ParsedScript {
  const statements: ParsedStatement[] = [];
  const rejected: RejectedStatement[] = [];
  const take = (text: string, line: number) => {
    const bytes = Buffer.from(text, 'utf8');
    for (const raw of parseSync(text).stmts ?? []) {
      const statement = toStatement(bytes, raw, line);
      if (statement) statements.push(statement);
    }
  };
  if (sql.trim() === '') return { statements, rejected };
  try {
    take(sql, 1);
    return { statements, rejected };
  } catch {
    for (const piece of splitAtSemicolons(sql)) {
      try {
        take(piece.text, piece.line);
      } catch (error) {
        rejected.push({ text: piece.text.trim(), line: piece.line, reason: parserReason(error) });
      }
    }
    return { statements, rejected };
  }
}

/** Parses exactly one statement; throws the parser's own error, or one that counts the statements. */
export function parseOne(sql: string): Node {
  const stmts = parseSync(sql).stmts ?? [];
  const only = stmts[0]?.stmt;
  if (stmts.length !== 1 || !only) throw new Error(`Exactly one statement is expected, ${stmts.length} were given.`);
  return only;
}

function splitAtSemicolons(sql: string): { text: string; line: number }[] {
  const bytes = Buffer.from(sql, 'utf8');
  let cuts: number[];
  try {
    cuts = scanSync(sql)
      .tokens.filter((token) => token.text === ';')
      .map((token) => token.end);
  } catch {
    cuts = []; // not even the lexer accepts it (an open quote): the whole is one refused piece
  }
  const pieces: { text: string; line: number }[] = [];
  let from = 0;
  for (const cut of [...cuts, bytes.length]) {
    const text = bytes.subarray(from, cut).toString('utf8');
    if (text.replace(/[\s;]+/g, '') !== '') {
      const lead = text.length - text.trimStart().length;
      const line = lineOf(bytes.subarray(0, from).toString('utf8') + text.slice(0, lead), Infinity);
      pieces.push({ text: text.trimStart(), line });
    }
    from = cut;
  }
  return pieces;
}
