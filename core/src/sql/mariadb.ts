import type { ScriptNote, ScriptPiece } from './script.ts';

/** A token of MariaDB's SQL: words as written, names and texts without their marks. */
interface Token {
  readonly kind: 'word' | 'name' | 'text' | 'number' | 'variable' | 'sign';
  readonly text: string;
}

const PATTERN =
  /'(?:[^'\\]|\\[\s\S]|'')*'|"(?:[^"\\]|\\[\s\S]|"")*"|`(?:[^`]|``)*`|@@?[\w$.]*|[xXbB]'[0-9a-fA-F]*'|0x[0-9a-fA-F]+|(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?|[\p{L}_$][\p{L}\p{N}_$]*|\d[\p{L}\p{N}_$]+|<=>|<>|!=|<=|>=|<<|>>|:=|&&|\|\||->>|->|\s+|[\s\S]/gu;

const UNESCAPED: Readonly<Record<string, string>> = {
  n: '\n',
  t: '\t',
  r: '\r',
  0: '',
  b: '\b',
  Z: '\u001a',
  '%': '\\%',
  _: '\\_',
};
/** A text as it is meant: doubled marks are one, and what follows a backslash is what it stands for. */
const textOf = (raw: string): string =>
  raw
    .slice(1, -1)
    .replace(/\\([\s\S])/g, (_, letter: string) => UNESCAPED[letter] ?? letter)
    .replaceAll(raw[0] === '"' ? '""' : "''", raw[0] ?? '');

function tokensOf(sql: string): Token[] {
  const tokens: Token[] = [];
  for (const [raw] of sql.matchAll(PATTERN)) {
    if (/^\s/.test(raw)) continue;
    if (raw[0] === '`') tokens.push({ kind: 'name', text: raw.slice(1, -1).replaceAll('``', '`') });
    else if (raw.length > 1 && (raw[0] === "'" || raw[0] === '"')) tokens.push({ kind: 'text', text: textOf(raw) });
    else if (/^[xXbB]'/.test(raw) || /^0x/i.test(raw)) tokens.push({ kind: 'number', text: '0' });
    else if (raw[0] === '@') tokens.push({ kind: 'variable', text: raw });
    else
      tokens.push({
        kind:
          /^[\d.]+([eE][+-]?\d+)?$/.test(raw) && raw !== '.'
            ? 'number'
            : /^[\p{L}\p{N}_$]/u.test(raw)
              ? 'word'
              : 'sign',
        text: raw,
      });
  }
  return tokens;
}

/** What stands in a comment that this server runs (`/*!40101 …`), and blanks where comments are. Lines stay where they are. */
function withoutComments(sql: string): string {
  const out: string[] = [];
  let open = false;
  for (const [raw] of sql.matchAll(
    /'(?:[^'\\]|\\[\s\S]|'')*'|"(?:[^"\\]|\\[\s\S]|"")*"|`(?:[^`]|``)*`|\/\*M?!\d*|\*\/|\/\*[\s\S]*?(?:\*\/|$)|#[^\n]*|--(?=[\s]|$)[^\n]*|[\s\S]/g,
  )) {
    if (/^\/\*M?!/.test(raw)) {
      open = true;
      out.push(' ');
    } else if (raw === '*/' && open) {
      open = false;
      out.push(' ');
    } else if (raw.startsWith('/*') || raw[0] === '#' || (raw.startsWith('--') && raw.length > 1))
      out.push(raw.replace(/[^\n]/g, ' ') || ' ');
    else out.push(raw);
  }
  return out.join('');
}

/**
 * Splits a script into its statements as MariaDB's command-line client does: quotation marks hold semicolons, `DELIMITER` names another end, what stands in
 * `/*! … *\/` is run.
 */
export function splitMariaScript(sql: string): ScriptPiece[] {
  const clean = withoutComments(sql.replace(/\r\n?/g, '\n'));
  const pieces: ScriptPiece[] = [];
  let delimiter = ';';
  let from = 0;
  let line = 1;
  const end = (to: number, skip: number) => {
    const text = clean.slice(from, to);
    const lead = text.length - text.trimStart().length;
    if (text.trim() !== '') pieces.push({ text: text.trim(), line: line + lines(text.slice(0, lead)) });
    line += lines(clean.slice(from, to + skip));
    from = to + skip;
  };
  const quoted = /'(?:[^'\\]|\\[\s\S]|'')*(?:'|$)|"(?:[^"\\]|\\[\s\S]|"")*(?:"|$)|`(?:[^`]|``)*(?:`|$)/y;
  for (let at = 0; at < clean.length; ) {
    const letter = clean[at];
    if (letter === "'" || letter === '"' || letter === '`') {
      quoted.lastIndex = at;
      at += quoted.exec(clean)?.[0].length ?? 1;
    } else if (clean.startsWith(delimiter, at)) {
      end(at, delimiter.length);
      at = from;
    } else if (
      (letter === 'd' || letter === 'D') &&
      (at === 0 || clean[at - 1] === '\n') &&
      /^delimiter[ \t]+\S/i.test(clean.slice(at, at + 80))
    ) {
      end(at, 0);
      const stop = clean.indexOf('\n', at) < 0 ? clean.length : clean.indexOf('\n', at);
      delimiter = clean.slice(at + 9, stop).trim() || ';';
      line += lines(clean.slice(from, stop));
      from = stop;
      at = stop;
    } else at += 1;
  }
  end(clean.length, 0);
  return pieces;
}
const lines = (text: string): number => text.split('\n').length - 1;

const words = (text: string) => new Set(text.split(/\s+/).filter(Boolean));
/** Words that PostgreSQL keeps for itself and MariaDB takes as names. */
const NAMES_HERE = words(
  `user current_role session_user analyse any array asymmetric authorization collation concurrently freeze ilike initially deferrable only overlaps placing similar some symmetric tablesample verbose offset end
   returning variadic window do`,
);
const DROPPED = words(
  'sql_calc_found_rows sql_no_cache sql_cache high_priority sql_small_result sql_big_result sql_buffer_result low_priority delayed quick binary',
);
const UNITS = words(
  'microsecond second minute hour day week month quarter year second_microsecond minute_microsecond minute_second hour_microsecond hour_second hour_minute day_microsecond day_second day_minute day_hour year_month',
);
const NOW = words('current_timestamp current_date current_time localtime localtimestamp current_user');
/** Functions whose names are types or words of their own to PostgreSQL. */
const CALLED = words(
  'char timestamp time date interval insert values year bit json values second minute hour day month',
);

const quotedName = (name: string) => `"${name.toLowerCase().replaceAll('"', '""')}"`;
const quotedText = (text: string) => `'${text.replaceAll("'", "''").replaceAll('\0', '')}'`;

/** A run of tokens with what is asked of it. */
class Run {
  readonly tokens: readonly Token[];
  constructor(tokens: readonly Token[]) {
    this.tokens = tokens;
  }
  is(at: number, ...text: readonly string[]): boolean {
    return text.every(
      (word, offset) =>
        this.tokens[at + offset]?.kind !== 'text' &&
        this.tokens[at + offset]?.kind !== 'name' &&
        this.tokens[at + offset]?.text.toLowerCase() === word,
    );
  }
  /** Behind the bracket that closes the one at this place. */
  behind(at: number): number {
    let depth = 0;
    for (let to = at; to < this.tokens.length; to += 1) {
      if (this.is(to, '(')) depth += 1;
      if (this.is(to, ')')) depth -= 1;
      if (depth === 0) return to + 1;
    }
    return this.tokens.length;
  }
  /** The first place from here on, outside of brackets, at which one of these words stands. */
  find(from: number, ...texts: readonly string[]): number {
    for (let at = from; at < this.tokens.length; at += 1) {
      if (this.is(at, '(')) at = this.behind(at) - 1;
      else if (texts.some((text) => this.is(at, text))) return at;
    }
    return -1;
  }
  slice(from: number, to = this.tokens.length): Run {
    return new Run(this.tokens.slice(from, to));
  }
  /** Parts between these signs, outside of brackets. */
  split(sign: string): Run[] {
    const parts: Run[] = [];
    let from = 0;
    for (let at = this.find(0, sign); at >= 0; at = this.find(at + 1, sign)) {
      parts.push(this.slice(from, at));
      from = at + 1;
    }
    parts.push(this.slice(from));
    return parts;
  }
}

/** Expressions and queries in PostgreSQL's words: the same columns stand at the same places. */
function written(run: Run): string {
  const out: string[] = [];
  const { tokens } = run;
  for (let at = 0; at < tokens.length; at += 1) {
    const token = tokens[at] as Token;
    const word = token.kind === 'word' ? token.text.toLowerCase() : '';
    const next = tokens[at + 1];
    const afterDot = run.is(at - 1, '.');
    if (token.kind === 'text') {
      // A name for an output may stand in quotation marks.
      const alias =
        run.is(at - 1, 'as') ||
        (at > 0 &&
          (run.is(at - 1, ')') || tokens[at - 1]?.kind === 'name' || run.is(at - 2, '.')) &&
          (next === undefined || run.is(at + 1, ',') || run.is(at + 1, 'from')));
      out.push(alias ? quotedName(token.text) : quotedText(token.text));
    } else if (token.kind === 'name') out.push(quotedName(token.text));
    else if (token.kind === 'variable') out.push('null');
    else if (token.text === '&&') out.push('and');
    else if (token.text === '||') out.push('or');
    else if (token.text === '<=>') out.push('is not distinct from');
    else if (token.text === '?') out.push('$1');
    else if (token.text === ':=') out.push('=');
    else if (token.text === '!' && next?.text !== '=') out.push('not');
    else if (token.text === '^') out.push('#');
    else if (afterDot || run.is(at + 1, '.')) out.push(token.kind === 'word' ? quotedName(token.text) : token.text);
    else if (word === 'xor') out.push('<>');
    else if (word === 'div') out.push('/');
    else if (word === 'mod' && !run.is(at + 1, '(')) out.push('%');
    else if (word === 'regexp' || word === 'rlike') out.push('~');
    else if (word === 'not' && (run.is(at + 1, 'regexp') || run.is(at + 1, 'rlike'))) {
      out.push('!~');
      at += 1;
    } else if (word === 'sounds' && run.is(at + 1, 'like')) continue;
    else if (DROPPED.has(word) && !run.is(at + 1, ',') && !run.is(at + 1, ')')) continue;
    else if (word === 'distinctrow') out.push('distinct');
    else if (word === 'straight_join') out.push(run.is(at - 1, 'select') ? '' : 'join');
    else if (word === 'collate') at += 1;
    else if (word.startsWith('_') && next?.kind === 'text' && /^_(utf8|latin|binary|ascii|ucs|utf16)/.test(word))
      continue;
    else if (
      (word === 'use' || word === 'force' || word === 'ignore') &&
      (run.is(at + 1, 'index') || run.is(at + 1, 'key'))
    )
      at = run.behind(bracketFrom(run, at)) - 1;
    else if (word === 'partition' && run.is(at + 1, '(') && !run.is(at - 1, 'over')) at = run.behind(at + 1) - 1;
    else if (word === 'from' && run.is(at + 1, 'dual')) at += 1;
    else if (word === 'with' && run.is(at + 1, 'rollup')) at += 1;
    else if (word === 'lock' && run.is(at + 1, 'in')) at += 3;
    else if (word === 'separator' && next?.kind === 'text') at += 1;
    else if (word === 'interval' && !run.is(at + 1, '(')) {
      const unit = unitFrom(run, at + 1);
      if (unit < 0) out.push(token.text);
      else {
        out.push('(', written(run.slice(at + 1, unit)), ')');
        at = unit;
      }
    } else if (word === 'interval' && UNITS.has(tokens[run.behind(at + 1)]?.text.toLowerCase() ?? '')) {
      out.push(written(run.slice(at + 1, run.behind(at + 1))));
      at = run.behind(at + 1);
    } else if ((word === 'cast' || word === 'convert') && run.is(at + 1, '(')) {
      const to = run.behind(at + 1);
      const inner = run.slice(at + 2, to - 1);
      const mark = word === 'cast' ? inner.find(0, 'as') : Math.max(inner.find(0, 'using'), inner.find(0, ','));
      out.push('cast (', written(inner.slice(0, mark < 0 ? undefined : mark)), 'as text )');
      at = to - 1;
    } else if ((word === 'timestampdiff' || word === 'timestampadd') && run.is(at + 1, '(') && run.is(at + 3, ',')) {
      out.push(word, '(', quotedText(tokens[at + 2]?.text ?? ''), ',');
      at += 3;
    } else if (word === 'match' && run.is(at + 1, '(') && run.is(run.behind(at + 1), 'against')) {
      const middle = run.behind(at + 1);
      const to = run.behind(middle + 1);
      const asked = run.slice(middle + 2, to - 1);
      const mode = Math.max(asked.find(0, 'in'), asked.find(0, 'with'));
      out.push(
        '( concat (',
        written(run.slice(at + 2, middle - 1)),
        ') =',
        written(asked.slice(0, mode < 0 ? undefined : mode)),
        ')',
      );
      at = to - 1;
    } else if (
      word === 'values' &&
      run.is(at + 1, '(') &&
      run.is(at + 3, ')') &&
      tokens[at + 2]?.kind !== 'text' &&
      out.includes('update set')
    ) {
      out.push(`excluded.${quotedName(tokens[at + 2]?.text ?? '')}`);
      at += 3;
    } else if (NOW.has(word) && run.is(at + 1, '(')) {
      out.push(word);
      at = run.behind(at + 1) - 1;
    } else if (word === 'limit') {
      const to = limitEnd(run, at + 1);
      const parts = run.slice(at + 1, to).split(',');
      if (parts.length === 2) out.push('limit', written(parts[1] as Run), 'offset', written(parts[0] as Run));
      else out.push('limit', written(parts[0] as Run));
      at = to - 1;
    } else if (word === 'on' && run.is(at, 'on', 'duplicate', 'key', 'update')) {
      out.push('on conflict do', 'update set');
      at += 3;
    } else if (CALLED.has(word) && run.is(at + 1, '(') && !(word === 'values' || word === 'interval'))
      out.push(quotedName(word));
    else if (NAMES_HERE.has(word) && !run.is(at + 1, '(') && !isSyntax(run, at, word)) out.push(quotedName(word));
    else out.push(/^\d/.test(token.text) && token.kind === 'word' ? quotedName(token.text) : token.text);
  }
  return out
    .filter(Boolean)
    .join(' ')
    .replace(/\s+\.\s+/g, '.');
}

/** Words that are names here and there, and part of the grammar elsewhere. */
function isSyntax(run: Run, at: number, word: string): boolean {
  if (word === 'end') return !run.is(at + 1, '.') && !run.is(at - 1, '.');
  if (word === 'offset') return run.tokens[at + 1]?.kind === 'number' || run.tokens[at + 1]?.text === '?';
  if (word === 'window') return run.tokens[at + 2]?.text.toLowerCase() === 'as';
  if (word === 'do') return run.is(at - 1, 'conflict');
  return false;
}
const bracketFrom = (run: Run, from: number): number => {
  for (let at = from; at < run.tokens.length; at += 1) if (run.is(at, '(')) return at;
  return run.tokens.length;
};
/** The unit that ends what stands behind INTERVAL, or -1. */
function unitFrom(run: Run, from: number): number {
  for (let at = from + 1; at < run.tokens.length && at < from + 40; at += 1) {
    if (run.is(at, '(')) at = run.behind(at) - 1;
    else if (run.tokens[at]?.kind === 'word' && UNITS.has(run.tokens[at]?.text.toLowerCase() ?? '')) return at;
  }
  return -1;
}
function limitEnd(run: Run, from: number): number {
  let depth = 0;
  for (let at = from; at < run.tokens.length; at += 1) {
    if (run.is(at, '(')) depth += 1;
    if (run.is(at, ')')) depth -= 1;
    if (depth < 0) return at;
    if (depth === 0 && ['offset', 'for', 'lock', 'into', 'on', 'union'].some((word) => run.is(at, word))) return at;
  }
  return run.tokens.length;
}

const NO_COLUMN = words('key index primary unique fulltext spatial constraint foreign check period');

/** CREATE TABLE: its columns by name, with what generates them; or the query or table it is made from. */
function table(run: Run): string {
  let at = run.find(0, 'table') + 1;
  const create = run.slice(0, at).tokens.some((token) => /^temporary$/i.test(token.text))
    ? 'create temporary table'
    : 'create table';
  if (run.is(at, 'if')) at += 3;
  const nameEnd = run.is(at + 1, '.') ? at + 3 : at + 1;
  const name = written(run.slice(at, nameEnd));
  const query = run.find(nameEnd, 'select', 'with');
  if (query >= 0) return `${create} ${name} as ${written(run.slice(query))}`;
  const like = run.is(nameEnd, 'like') ? nameEnd : run.is(nameEnd, '(', 'like') ? nameEnd + 1 : -1;
  if (like >= 0)
    return `${create} ${name} (like ${written(run.slice(like + 1, run.is(like + 2, '.') ? like + 4 : like + 2))})`;
  if (!run.is(nameEnd, '(')) return `${create} ${name} ()`;
  const inside = run.slice(nameEnd + 1, run.behind(nameEnd) - 1);
  const wrapped = inside.is(0, 'select') || inside.is(0, '(', 'select');
  if (wrapped) return `${create} ${name} as ${written(inside)}`;
  const columns = inside.split(',').flatMap((item) => {
    const [first] = item.tokens;
    if (!first || (first.kind === 'word' && NO_COLUMN.has(first.text.toLowerCase()))) return [];
    const made = item.find(1, 'as');
    const generated =
      made > 0 && item.is(made + 1, '(')
        ? ` generated always as ${written(item.slice(made + 1, item.behind(made + 1)))} stored`
        : '';
    return [`${quotedName(first.text)} text${generated}`];
  });
  return `${create} ${name} (${columns.join(', ')})`;
}

function view(run: Run): string {
  const at = run.find(0, 'view') + (run.is(run.find(0, 'view') + 1, 'if') ? 4 : 1);
  const as = run.find(at, 'as');
  const check = run.find(as, 'with');
  const ends = check > 0 && (run.is(check + 1, 'check') || run.is(check + 2, 'check')) ? check : undefined;
  return `create or replace view ${written(run.slice(at, as))} as ${written(run.slice(as + 1, ends))}`;
}

function insert(run: Run): string {
  let at = 1;
  while (['low_priority', 'delayed', 'high_priority', 'ignore', 'into'].some((word) => run.is(at, word))) at += 1;
  const target = run.is(at + 1, '.') ? at + 3 : at + 1;
  const name = written(run.slice(at, target));
  const rest = run.slice(target);
  if (rest.is(0, 'set')) {
    const ends = rest.find(1, 'on');
    const given = rest.slice(1, ends < 0 ? undefined : ends).split(',');
    const [columns, values] = [0, 1].map((side) =>
      given
        .map((item) => written(side === 0 ? item.slice(0, item.find(0, '=')) : item.slice(item.find(0, '=') + 1)))
        .join(', '),
    );
    return `insert into ${name} (${columns}) values (${values}) ${ends < 0 ? '' : written(rest.slice(ends))}`;
  }
  // VALUE is VALUES; an empty list of columns is none.
  const plain = new Run(
    rest.tokens.map((token) =>
      token.kind === 'word' && token.text.toLowerCase() === 'value' ? { kind: 'word' as const, text: 'values' } : token,
    ),
  );
  const without = plain.is(0, '(', ')') ? plain.slice(2) : plain;
  return without.is(0, 'values', '(', ')')
    ? `insert into ${name} default values`
    : `insert into ${name} ${written(without)}`;
}

/** Tables of UPDATE and DELETE: the first one, and the others with the conditions that join them. */
function tables(run: Run): { first: Run; others: string[]; conditions: string[] } {
  const others: string[] = [];
  const conditions: string[] = [];
  const parts: Run[] = [];
  let from = 0;
  for (let at = 0; at < run.tokens.length; at += 1) {
    if (run.is(at, '(')) at = run.behind(at) - 1;
    else if (run.is(at, ',') || run.is(at, 'join') || run.is(at, 'straight_join')) {
      let to = at;
      while (['left', 'right', 'inner', 'cross', 'outer', 'natural'].some((word) => run.is(to - 1, word))) to -= 1;
      parts.push(run.slice(from, to));
      from = at + 1;
    }
  }
  parts.push(run.slice(from));
  for (const [index, part] of parts.entries()) {
    const on = part.find(0, 'on');
    if (on >= 0) conditions.push(written(part.slice(on + 1)));
    const using = part.find(0, 'using');
    const named = part.slice(0, on >= 0 ? on : using >= 0 ? using : undefined);
    if (index > 0) others.push(written(named));
  }
  const [first = run] = parts;
  return { first, others, conditions };
}

/** The end of what limits the rows of an UPDATE or DELETE: order and number are of no account. */
function conditionEnd(run: Run, from: number): number | undefined {
  const ends = [run.find(from, 'order'), run.find(from, 'limit'), run.find(from, 'returning')].filter((at) => at >= 0);
  return ends.length > 0 ? Math.min(...ends) : undefined;
}

function update(run: Run): string {
  let at = 1;
  while (run.is(at, 'low_priority') || run.is(at, 'ignore')) at += 1;
  const set = run.find(at, 'set');
  const { first, others, conditions } = tables(run.slice(at, set));
  const alias = written(first.slice(-1).tokens.length > 0 ? first.slice(first.tokens.length - 1) : first);
  const where = run.find(set, 'where');
  const end = conditionEnd(run, set);
  const assigned = run
    .slice(set + 1, where >= 0 ? where : end)
    .split(',')
    .map((item) => {
      const equals = item.find(0, '=');
      const column = item.slice(0, equals);
      const owner = column.tokens.length === 3 ? written(column.slice(0, 1)) : alias;
      if (column.tokens.length === 3 && owner.replaceAll('"', '') !== alias.replaceAll('"', ''))
        throw new Error('a statement that writes into several tables at once is not followed');
      return `${written(column.slice(column.tokens.length - 1))} = ${written(item.slice(equals + 1))}`;
    });
  if (where >= 0) conditions.push(written(run.slice(where + 1, end)));
  return `update ${written(first)} set ${assigned.join(', ')}${others.length > 0 ? ` from ${others.join(', ')}` : ''}${conditions.length > 0 ? ` where (${conditions.join(') and (')})` : ''}`;
}

function remove(run: Run): string {
  let at = 1;
  while (['low_priority', 'quick', 'ignore'].some((word) => run.is(at, word))) at += 1;
  const from = run.find(at, 'from');
  const using = run.find(from + 1, 'using');
  const where = run.find(from, 'where');
  const end = conditionEnd(run, from);
  const listed = run.slice((using >= 0 ? using : from) + 1, where >= 0 ? where : end);
  const { first, others, conditions } = tables(listed);
  if (where >= 0) conditions.push(written(run.slice(where + 1, end)));
  const rest = conditions.length > 0 ? ` where (${conditions.join(') and (')})` : '';
  return `delete from ${written(first)}${others.length > 0 ? ` using ${others.join(', ')}` : ''}${rest}`;
}

/** Statements that say nothing of what lies where: settings, locks, rights, databases, upkeep. */
const OF_NO_ACCOUNT =
  /^(set|lock|unlock|flush|grant|revoke|start|begin|commit|rollback|savepoint|release|analyze|optimize|check|repair|show|describe|desc|explain|help|kill|reset|purge|change|install|uninstall|handler|source|connect|pager|tee|notee|charset|warnings|nowarning|status|signal|do|call|use|shutdown|cache|load index)$/;
const TOLD = /^(trigger|procedure|function|event|aggregate)$/;

/**
 * A statement of MariaDB as PostgreSQL's parser reads the same of it, as far as columns are concerned; names are in small letters, as MariaDB does not tell
 * capitals of columns apart.
 *
 * @returns the text, or null for a statement that says nothing of what lies where
 * @throws with a reason for one that is not followed
 */
export function mariaStatement(statement: string): string | null {
  const run = new Run(tokensOf(statement));
  const first = run.tokens[0]?.text.toLowerCase() ?? '';
  if (first === 'use') return `set search_path = ${written(run.slice(1))}`;
  if (OF_NO_ACCOUNT.test(first)) return null;
  if (first === 'create' || first === 'alter' || first === 'drop') {
    const what = run.tokens
      .slice(1)
      .find(
        (token) =>
          /^(table|view|trigger|procedure|function|event|aggregate|index|database|schema|user|role|server|sequence|tablespace|package|logfile)$/i.test(
            token.text,
          ) && token.kind === 'word',
      );
    const kind = what?.text.toLowerCase() ?? '';
    if (TOLD.test(kind)) {
      if (first === 'create') throw new Told(`what a ${kind} does is not traced`);
      return null;
    }
    if (first === 'create' && kind === 'table') return table(run);
    if ((first === 'create' || first === 'alter') && kind === 'view') return view(run);
    if (first === 'drop' && (kind === 'table' || kind === 'view')) {
      const at = run.find(0, kind) + (run.is(run.find(0, kind) + 1, 'if') ? 3 : 1);
      const names = run
        .slice(at)
        .split(',')
        .map((part) => written(part.slice(0, part.is(1, '.') ? 3 : 1)));
      return `drop ${kind} if exists ${names.join(', ')}`;
    }
    if (first === 'alter' && kind === 'table') return alter(run);
    return null;
  }
  if (first === 'insert' || first === 'replace') return insert(run);
  if (first === 'update') return update(run);
  if (first === 'delete') return remove(run);
  if (first === 'truncate') return null;
  if (first === 'rename' && run.is(1, 'table')) {
    return run
      .slice(2)
      .split(',')
      .map(
        (pair) =>
          `alter table ${written(pair.slice(0, pair.find(0, 'to')))} rename to ${written(pair.slice(pair.find(0, 'to') + 1).slice(-1))}`,
      )
      .join('; ');
  }
  if (first === 'load') throw new Told('data is moved between a file and a table; the file side is not known');
  const into = run.find(0, 'into');
  return written(
    into >= 0 && first === 'select'
      ? new Run([
          ...run.tokens.slice(0, into),
          ...run.tokens.slice(run.find(into, 'from') < 0 ? run.tokens.length : run.find(into, 'from')),
        ])
      : run,
  );
}

/** ALTER TABLE as far as it adds, drops or renames columns. */
function alter(run: Run): string | null {
  let at = run.find(0, 'table') + 1;
  if (run.is(at, 'if')) at += 2;
  const nameEnd = run.is(at + 1, '.') ? at + 3 : at + 1;
  const name = written(run.slice(at, nameEnd));
  const acts = run
    .slice(nameEnd)
    .split(',')
    .flatMap((act): string[] => {
      const [verb, ...rest] = act.tokens.map((token) => token.text.toLowerCase());
      const column = rest[0] === 'column' ? 2 : 1;
      const own = act.is(column, 'if') ? column + (act.is(column + 1, 'not') ? 3 : 2) : column;
      const token = act.tokens[own];
      if (!token) return [];
      if (
        verb === 'add' &&
        !act.is(own, '(') &&
        !(token.kind === 'word' && NO_COLUMN.has(token.text.toLowerCase()) && column === 1)
      )
        return [`alter table ${name} add column ${quotedName(token.text)} text`];
      if (
        verb === 'drop' &&
        !(
          token.kind === 'word' &&
          (NO_COLUMN.has(token.text.toLowerCase()) || token.text.toLowerCase() === 'partition') &&
          column === 1
        )
      )
        return [`alter table ${name} drop column ${quotedName(token.text)}`];
      if (verb === 'change' && act.tokens[own + 1])
        return [
          `alter table ${name} rename column ${quotedName(token.text)} to ${quotedName(act.tokens[own + 1]?.text ?? '')}`,
        ];
      if (verb === 'rename' && rest[0] === 'column')
        return [
          `alter table ${name} rename column ${quotedName(token.text)} to ${quotedName(act.tokens[own + 2]?.text ?? '')}`,
        ];
      return verb === 'rename' && rest[0] !== 'index' && rest[0] !== 'key'
        ? [`alter table ${name} rename to ${quotedName(act.tokens.at(-1)?.text ?? '')}`]
        : [];
    });
  // Each alone: a rename cannot stand beside another act.
  return acts.length === 0 ? null : acts.join('; ');
}

/** Something that is known not to be followed: told, and nothing is lost by it. */
class Told extends Error {}

/** The statements of a script as PostgreSQL's parser reads them; what is not followed is named. */
export function readMariaScript(sql: string): { pieces: ScriptPiece[]; notes: ScriptNote[] } {
  const pieces: ScriptPiece[] = [];
  const notes: ScriptNote[] = [];
  for (const { text, line } of splitMariaScript(sql)) {
    try {
      const statement = mariaStatement(text);
      for (const part of statement?.split(/; (?=alter table )/) ?? []) pieces.push({ text: part, line });
    } catch (error) {
      notes.push({ text, line, reason: (error as Error).message, lost: !(error instanceof Told) });
    }
  }
  return { pieces, notes };
}
