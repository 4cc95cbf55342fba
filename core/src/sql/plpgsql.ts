import type { Node } from '@pgsql/types';
import { parsePlPgSQLSync, scanSync } from 'libpg-query';
import { parserReason } from './parse.ts';

/** An expression or a statement of SQL inside a body, as PostgreSQL's own PL/pgSQL parser tells it. */
export interface BodyExpression {
  readonly query: string;
  /** 0 a statement, 2 an expression, 3 to 5 an assignment with its target, of so many names less two. */
  readonly parseMode?: number;
}
interface Held {
  readonly PLpgSQL_expr: BodyExpression;
}
interface TypeHeld {
  readonly PLpgSQL_type: { readonly typname: string };
}

/** A variable of a body; what is 0 is left out by the parser. */
export interface BodyDatum {
  readonly PLpgSQL_var?: {
    readonly refname: string;
    readonly lineno?: number;
    readonly datatype?: TypeHeld;
    readonly default_val?: Held;
    readonly cursor_explicit_expr?: Held;
  };
  readonly PLpgSQL_rec?: {
    readonly refname: string;
    readonly dno?: number;
    readonly lineno?: number;
    readonly datatype?: TypeHeld;
    readonly default_val?: Held;
  };
  readonly PLpgSQL_row?: { readonly fields?: readonly { readonly name: string; readonly varno?: number }[] };
  readonly PLpgSQL_recfield?: { readonly fieldname: string; readonly recparentno?: number };
}

/** A statement of a body: the name of its kind, and what stands in it. */
export type BodyStatement = Readonly<Record<string, BodyStatementParts>>;
export interface BodyStatementParts {
  readonly lineno?: number;
  readonly body?: readonly BodyStatement[];
  readonly exceptions?: {
    readonly PLpgSQL_exception_block: {
      readonly exc_list?: readonly { readonly PLpgSQL_exception: { readonly action?: readonly BodyStatement[] } }[];
    };
  };
  readonly sqlstmt?: Held;
  readonly expr?: Held;
  readonly query?: Held;
  readonly dynquery?: Held;
  readonly argquery?: Held;
  readonly cond?: Held;
  readonly t_expr?: Held;
  readonly lower?: Held;
  readonly upper?: Held;
  readonly step?: Held;
  readonly params?: readonly Held[];
  readonly into?: boolean;
  readonly target?: BodyDatum;
  readonly var?: BodyDatum;
  readonly varno?: number;
  readonly retvarno?: number;
  readonly curvar?: number;
  readonly then_body?: readonly BodyStatement[];
  readonly elsif_list?: readonly {
    readonly PLpgSQL_if_elsif: { readonly cond?: Held; readonly stmts?: readonly BodyStatement[] };
  }[];
  readonly else_body?: readonly BodyStatement[];
  readonly case_when_list?: readonly {
    readonly PLpgSQL_case_when: { readonly expr?: Held; readonly stmts?: readonly BodyStatement[] };
  }[];
  readonly else_stmts?: readonly BodyStatement[];
}

export interface ParsedBody {
  readonly datums: readonly BodyDatum[];
  readonly action: BodyStatement;
  /** Line of the whole statement on which the first line of the body stands; 1-based. */
  readonly firstLine: number;
}

/** The option of a CREATE FUNCTION by its name. */
export const optionOf = (options: readonly Node[] | undefined, name: string): Node | undefined => {
  for (const entry of options ?? []) if ('DefElem' in entry && entry.DefElem.defname === name) return entry.DefElem.arg;
  return undefined;
};

const encoder = new TextEncoder();
const decoder = new TextDecoder();

interface Token {
  readonly start: number;
  readonly end: number;
  readonly text: string;
  readonly tokenName: string;
}

/** The tokens of a stretch of SQL without its comments; places in bytes. */
function tokensOf(bytes: Uint8Array): Token[] {
  return scanSync(decoder.decode(bytes))
    .tokens.filter(({ tokenName }) => !tokenName.endsWith('COMMENT'))
    .map(({ start, end, tokenName }) => ({ start, end, tokenName, text: decoder.decode(bytes.subarray(start, end)) }));
}

/** Where the text of a body lies in its statement: the text constant behind AS; of DO, one that is not the name of the language. */
function placeOf(bytes: Uint8Array): { start: number; end: number; line: number } | undefined {
  const tokens = tokensOf(bytes);
  const behind = (index: number, word: RegExp) => word.test(tokens[index - 1]?.text ?? '');
  const isText = ({ tokenName }: Token) => tokenName === 'SCONST';
  const found =
    tokens.find((token, index) => isText(token) && behind(index, /^as$/i)) ??
    tokens.find((token, index) => isText(token) && !behind(index, /^language$/i));
  if (!found) return undefined;
  const opening = /^(\$[^$]*\$|[eE]?')/.exec(found.text)?.[0] ?? '';
  const start = found.start + opening.length;
  return {
    start,
    end: found.end - (opening.startsWith('$') ? opening.length : 1),
    line: decoder.decode(bytes.subarray(0, start)).split('\n').length,
  };
}

/**
 * The parser knows no tables: a variable of the type of a row it takes for a row where the type is named (`core.ship`), and for one value where it is
 * named as that of a table (`core.ship%ROWTYPE`). The second is written as the first; all places stay as they are.
 */
function withRowTypes(bytes: Uint8Array, { start, end }: { start: number; end: number }): Uint8Array {
  const changed = bytes.slice();
  const tokens = tokensOf(bytes.subarray(start, end));
  for (const [index, token] of tokens.entries()) {
    const next = tokens[index + 1];
    if (token.text !== '%' || !next || !/^rowtype$/i.test(next.text)) continue;
    for (const { start: from, end: to } of [token, next]) changed.fill(0x20, start + from, start + to);
  }
  return changed;
}

/**
 * The body of a function, procedure or DO block in PL/pgSQL, by PostgreSQL's own parser of that language.
 *
 * @param sql the whole statement: CREATE FUNCTION, CREATE PROCEDURE or DO
 * @returns the body; @throws Error with the reason where it cannot be parsed
 */
export function parseBody(sql: string): ParsedBody {
  const bytes = encoder.encode(sql);
  const place = placeOf(bytes);
  if (!place) throw new Error('it has no body');
  let made: { datums?: BodyDatum[]; action?: BodyStatement } | undefined;
  try {
    const parsed = parsePlPgSQLSync(decoder.decode(withRowTypes(bytes, place))) as unknown as {
      plpgsql_funcs?: { PLpgSQL_function?: { datums?: BodyDatum[]; action?: BodyStatement } }[];
    };
    made = parsed.plpgsql_funcs?.[0]?.PLpgSQL_function;
  } catch (error) {
    throw new Error(parserReason(error));
  }
  if (!made?.action) throw new Error('it has no body');
  return { datums: made.datums ?? [], action: made.action, firstLine: place.line };
}

/** What is assigned, without what it is assigned to: `total := a + b` gives `a + b`. */
export function assignedIn({ query, parseMode = 0 }: BodyExpression): string {
  if (parseMode < 3) return query;
  const bytes = encoder.encode(query);
  let depth = 0;
  for (const { text, end } of tokensOf(bytes)) {
    if (text === '[' || text === '(') depth += 1;
    else if (text === ']' || text === ')') depth -= 1;
    else if (depth === 0 && (text === ':=' || text === '=')) return decoder.decode(bytes.subarray(end)).trim();
  }
  return query;
}
