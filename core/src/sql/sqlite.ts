/** A token of SQLite's SQL (https://www.sqlite.org/lang.html): words are kept as written, quoted names without their marks. */
interface Token {
  readonly kind: 'word' | 'name' | 'text' | 'number' | 'sign';
  readonly text: string;
  /** Where it begins and ends in the statement. */
  readonly from: number;
  readonly to: number;
}

const PATTERN =
  /--[^\n]*|\/\*[\s\S]*?(?:\*\/|$)|\s+|x'[0-9a-f]*'|'(?:[^']|'')*'|"((?:[^"]|"")*)"|`((?:[^`]|``)*)`|\[([^\]]*)\]|[\p{L}_][\p{L}\p{N}_$]*|(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?|0x[0-9a-f]+|->>|->|\|\||==|<>|!=|<=|>=|<<|>>|[\s\S]/giu;

function tokensOf(sql: string): Token[] {
  const tokens: Token[] = [];
  for (const match of sql.matchAll(PATTERN)) {
    const [text, doubled, ticked, bracketed] = match;
    if (/^(--|\/\*|\s)/.test(text)) continue;
    const span = { from: match.index, to: match.index + text.length };
    if (doubled !== undefined) tokens.push({ kind: 'name', text: doubled.replaceAll('""', '"'), ...span });
    else if (ticked !== undefined) tokens.push({ kind: 'name', text: ticked.replaceAll('``', '`'), ...span });
    else if (bracketed !== undefined) tokens.push({ kind: 'name', text: bracketed, ...span });
    else
      tokens.push({
        kind: /^x?'/i.test(text)
          ? 'text'
          : /^[\p{L}_]/u.test(text)
            ? 'word'
            : /^[\d.]/.test(text) && text !== '.'
              ? 'number'
              : 'sign',
        text,
        ...span,
      });
  }
  return tokens;
}

const words = (text: string) => new Set(text.split(/\s+/).filter(Boolean));
/** Words that PostgreSQL keeps for itself and SQLite takes as names; some of them would be read as something else without a word. */
const NAMES_HERE =
  words(`user current_user session_user current_role current_catalog current_schema localtime localtimestamp analyse any array asymmetric authorization binary both collation
  concurrently fetch freeze grant ilike initially lateral leading only overlaps placing similar some symmetric system_user tablesample trailing variadic verbose do for`);
/** Words after which no operand has ended. */
const OPENING = words(
  `select distinct all from where and or not on having by when then else case in like glob match regexp between is as limit offset using union intersect except values join set escape collate`,
);

const quoted = (name: string) => `"${name.toLowerCase().replaceAll('"', '""')}"`;

/**
 * The query of a view in SQLite, written so that PostgreSQL's parser reads the same: other quotation marks for names, `==`, `LIMIT 2, 5`, `x NOT NULL`,
 * `IS 3`, GLOB and its like, `INDEXED BY`. Names are in small letters, as SQLite does not tell capitals apart.
 *
 * @param statement CREATE VIEW as SQLite keeps it
 */
export function queryOfSqliteView(statement: string): string {
  const tokens = tokensOf(statement);
  const is = (index: number, word: string) =>
    tokens[index]?.kind === 'word' && tokens[index]?.text.toLowerCase() === word;
  let start = tokens.findIndex((_, index) => is(index, 'view')) + 1;
  // The name, which may be called `as`, and the list of columns stand before AS.
  if (is(start, 'if')) start += 3;
  start += 1;
  if (tokens[start]?.text === '.') start += 2;
  while (start < tokens.length && !is(start, 'as')) start += 1;
  return written(tokens.slice(start + 1));
}

function written(tokens: readonly Token[]): string {
  const out: string[] = [];
  const lower = (index: number) => (tokens[index]?.kind === 'word' ? (tokens[index]?.text.toLowerCase() ?? '') : '');
  for (let at = 0; at < tokens.length; at += 1) {
    const token = tokens[at] as Token;
    const before = tokens[at - 1];
    const operandEnded =
      before !== undefined &&
      (before.kind !== 'word'
        ? before.kind !== 'sign' || before.text === ')'
        : !OPENING.has(before.text.toLowerCase()));
    const word = lower(at);
    if (token.kind === 'name') out.push(quoted(token.text));
    else if (token.text === '==') out.push('=');
    else if (word === 'not' && lower(at + 1) === 'null' && operandEnded) {
      out.push('is not null');
      at += 1;
    } else if (word === 'not' && lower(at + 1) === 'indexed') at += 1;
    else if (word === 'indexed' && lower(at + 1) === 'by') at += 2;
    else if (word === 'is') {
      const negated = lower(at + 1) === 'not';
      const what = lower(at + (negated ? 2 : 1));
      if (['null', 'true', 'false', 'distinct'].includes(what)) out.push(token.text);
      else {
        out.push(negated ? 'is distinct from' : 'is not distinct from');
        if (negated) at += 1;
      }
    } else if (['glob', 'match', 'regexp'].includes(word)) out.push('like');
    else if (word === 'limit') {
      const end = limitEnd(tokens, at + 1);
      const comma = commaIn(tokens, at + 1, end);
      if (comma < 0) out.push('limit');
      else {
        out.push('limit', written(tokens.slice(comma + 1, end)), 'offset', written(tokens.slice(at + 1, comma)));
        at = end - 1;
      }
    } else if (NAMES_HERE.has(word) && tokens[at + 1]?.text !== '(') out.push(quoted(token.text));
    else out.push(token.text);
  }
  return out
    .join(' ')
    .replace(/\s+\.\s+/g, '.')
    .replace(/\s*;\s*$/, '');
}

/** Behind the last token of a LIMIT: the end, or the bracket that closes its query. */
function limitEnd(tokens: readonly Token[], from: number): number {
  let depth = 0;
  for (let at = from; at < tokens.length; at += 1) {
    if (tokens[at]?.text === '(') depth += 1;
    if (tokens[at]?.text === ')') depth -= 1;
    if (depth < 0 || tokens[at]?.text === ';') return at;
  }
  return tokens.length;
}

function commaIn(tokens: readonly Token[], from: number, to: number): number {
  let depth = 0;
  for (let at = from; at < to; at += 1) {
    const text = tokens[at]?.text;
    if (text === '(') depth += 1;
    if (text === ')') depth -= 1;
    if (text === ',' && depth === 0) return at;
  }
  return -1;
}

/**
 * The checks that a table's own statement holds: SQLite lists them nowhere else.
 *
 * @param statement CREATE TABLE as SQLite keeps it
 * @returns each with the name it was given, if any, the column behind which it stands, if any, and its condition as written, without the brackets
 */
export function checksOfSqliteTable(
  statement: string,
): { readonly name: string | null; readonly column: string | null; readonly condition: string }[] {
  const tokens = tokensOf(statement);
  const isWord = (index: number, word: string) =>
    tokens[index]?.kind === 'word' && tokens[index]?.text.toLowerCase() === word;
  const found: { name: string | null; column: string | null; condition: string }[] = [];
  let depth = 0;
  let begins = 0;
  for (let at = 0; at < tokens.length; at += 1) {
    const text = tokens[at]?.text;
    if (text === '(' || (text === ',' && depth === 1)) begins = depth === 0 || text === ',' ? at + 1 : begins;
    if (isWord(at, 'check') && depth === 1 && tokens[at + 1]?.text === '(') {
      let close = at + 1;
      for (let open = 0; close < tokens.length; close += 1) {
        if (tokens[close]?.text === '(' && tokens[close]?.kind === 'sign') open += 1;
        if (tokens[close]?.text === ')' && tokens[close]?.kind === 'sign') open -= 1;
        if (open === 0) break;
      }
      const named = isWord(at - 2, 'constraint');
      const ofTable = begins === at || (named && begins === at - 2);
      found.push({
        name: named ? (tokens[at - 1]?.text ?? null) : null,
        column: ofTable ? null : (tokens[begins]?.text ?? null),
        condition: statement.slice(tokens[at + 1]?.to, tokens[close]?.from ?? statement.length).trim(),
      });
      at = close;
      continue;
    }
    if (tokens[at]?.kind === 'sign' && text === '(') depth += 1;
    if (tokens[at]?.kind === 'sign' && text === ')') depth -= 1;
  }
  return found;
}
