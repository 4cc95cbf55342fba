/** A statement of a script, as it would be sent: without the semicolon, variables filled in. */
export interface ScriptPiece {
  readonly text: string;
  /** 1-based line on which it starts. */
  readonly line: number;
}

/** Something of a script that is no statement that could be read, and that statements may hang on. */
export interface ScriptNote {
  readonly text: string;
  readonly line: number;
  readonly reason: string;
  /** Whether statements are lost by it. */
  readonly lost: boolean;
}

export interface SplitScript {
  readonly pieces: readonly ScriptPiece[];
  readonly notes: readonly ScriptNote[];
}

/** Commands of psql that send what stands before them, as a semicolon does. */
const SENDS = new Set(['g', 'gx', 'gexec', 'gset', 'gdesc', 'crosstabview', 'watch']);
const TOLD: Readonly<Record<string, string>> = {
  i: 'another file is read here: it is not known to this reading',
  include: 'another file is read here: it is not known to this reading',
  ir: 'another file is read here: it is not known to this reading',
  include_relative: 'another file is read here: it is not known to this reading',
  copy: 'data is moved between a file and a table; the file side is not known',
  c: 'from here on another database may be meant',
  connect: 'from here on another database may be meant',
  gexec: 'what the query gives is run as statements: these are not known',
  gset: 'variables are set from what a query gives: their values are not known',
  prompt: 'a variable is asked for: its value is not known',
};
const isWord = (letter: string | undefined): boolean => letter !== undefined && /[\p{L}\p{N}_$]/u.test(letter);
const TRUE = /^(true|on|yes|1|t|y)$/i;
const FALSE = /^(false|off|no|0|f|n)$/i;
/** PostgreSQL reads data behind such a statement, up to a line with \. alone. */
const TAKES_DATA = /^\s*copy\b[\s\S]*\bfrom\s+(stdin|pstdin)\b/i;

/**
 * Splits a script into its statements as PostgreSQL's psql does (documentation of psql, and its lexer psqlscan.l): quotation marks and dollar quotes, nested
 * comments, brackets and bodies of SQL functions hold semicolons; backslash commands end with their line; data of COPY is no SQL; variables that the
 * script sets are filled in; of \if only what holds is taken, and both ways where that cannot be told. Takes time in the length of the script.
 */
export function splitScript(sql: string): SplitScript {
  return new Splitter(sql).split();
}

class Splitter {
  readonly #sql: string;
  readonly #pieces: ScriptPiece[] = [];
  readonly #notes: ScriptNote[] = [];
  readonly #variables = new Map<string, string>();
  /** Of each open \if: whether its part is taken now, whether one was taken already, and whether it cannot be told. */
  readonly #branches: { taken: boolean; done: boolean; unknown: boolean }[] = [];
  #at = 0;
  #line = 1;
  #parts: string[] = [];
  #startLine = 1;
  #filled = false;
  #brackets = 0;
  #bodies = 0;
  #words: string[] = [];

  constructor(sql: string) {
    this.#sql = sql;
  }

  split(): SplitScript {
    while (this.#at < this.#sql.length) this.#step();
    this.#end();
    return { pieces: this.#pieces, notes: this.#notes };
  }

  get #active(): boolean {
    return this.#branches.every((branch) => branch.taken);
  }

  #note(line: number, text: string, reason: string, lost = false): void {
    if (this.#active) this.#notes.push({ text: text.trim(), line, reason, lost });
  }

  /** Takes the text up to a place into the statement. */
  #take(to: number): void {
    const text = this.#sql.slice(this.#at, to);
    if (!this.#filled && text.trim() !== '') {
      this.#filled = true;
      const lead = text.length - text.trimStart().length;
      this.#startLine = this.#line + newlines(text.slice(0, lead));
    }
    this.#parts.push(text);
    this.#line += newlines(text);
    this.#at = to;
  }

  #step(): void {
    const sql = this.#sql;
    const letter = sql[this.#at] as string;
    const next = sql[this.#at + 1];
    if (letter === "'") {
      this.#quoted(this.#lastWord(/^(e)$/i));
      return;
    }
    if (letter === '"') {
      this.#take(closing(sql, this.#at + 1, '"', false));
      return;
    }
    if (letter === '-' && next === '-') {
      this.#take(endOfLine(sql, this.#at));
      return;
    }
    if (letter === '/' && next === '*') {
      this.#take(endOfComment(sql, this.#at));
      return;
    }
    if (letter === '$') {
      const tag = dollarTag(sql, this.#at);
      if (tag) {
        this.#take(after(sql, tag, this.#at + tag.length));
        return;
      }
    }
    if (letter === '\\') {
      this.#command();
      return;
    }
    if (letter === ':' && next !== ':' && sql[this.#at - 1] !== ':' && this.#variable()) return;
    if (letter === '(' || letter === '[') this.#brackets += 1;
    if ((letter === ')' || letter === ']') && this.#brackets > 0) this.#brackets -= 1;
    if (letter === ';' && this.#brackets === 0 && this.#bodies === 0) {
      this.#end(1);
      return;
    }
    if (isWord(letter)) {
      this.#word();
      return;
    }
    this.#take(this.#at + 1);
  }

  #lastWord(pattern: RegExp): boolean {
    const last = this.#parts.at(-1) ?? '';
    return pattern.test(last);
  }

  #quoted(escapes: boolean): void {
    this.#take(closing(this.#sql, this.#at + 1, "'", escapes));
  }

  /** A word; those that open and close the body of an SQL function hold semicolons as brackets do. */
  #word(): void {
    let to = this.#at + 1;
    while (isWord(this.#sql[to])) to += 1;
    const word = this.#sql.slice(this.#at, to).toLowerCase();
    if (this.#words.length < 4) this.#words.push(word);
    const [first, second, third, fourth] = this.#words;
    const routine = (name: string | undefined) => name === 'function' || name === 'procedure';
    if (
      first === 'create' &&
      (routine(second) || (second === 'or' && third === 'replace' && routine(fourth))) &&
      this.#brackets === 0
    ) {
      if (word === 'begin' || (word === 'case' && this.#bodies > 0)) this.#bodies += 1;
      if (word === 'end' && this.#bodies > 0) this.#bodies -= 1;
    }
    this.#take(to);
  }

  /** `:name`, `:'name'`, `:"name"`: filled in when the script has set it; else it stays, and the parser says so. */
  #variable(): boolean {
    const found = /^:(?:([A-Za-z_0-9\u0080-\uffff]+)|'([^']+)'|"([^"]+)")/.exec(
      this.#sql.slice(this.#at, this.#at + 200),
    );
    const name = found?.[1] ?? found?.[2] ?? found?.[3];
    const value = name === undefined ? undefined : this.#variables.get(name);
    if (!found || value === undefined) return false;
    const filled =
      found[2] !== undefined
        ? `'${value.replaceAll("'", "''")}'`
        : found[3] !== undefined
          ? `"${value.replaceAll('"', '""')}"`
          : value;
    if (!this.#filled) {
      this.#filled = true;
      this.#startLine = this.#line;
    }
    this.#parts.push(filled);
    this.#at += found[0].length;
    return true;
  }

  /** Ends the statement that is being read; data behind it is passed over. */
  #end(skip = 0): void {
    const text = this.#parts.join('').trim();
    const line = this.#startLine;
    this.#parts = [];
    this.#filled = false;
    this.#brackets = 0;
    this.#bodies = 0;
    this.#words = [];
    this.#at += skip;
    if (!this.#active || withoutComments(text).trim() === '') return;
    this.#pieces.push({ text, line });
    if (TAKES_DATA.test(withoutComments(text))) this.#data(line);
  }

  #data(line: number): void {
    const from = endOfLine(this.#sql, this.#at);
    const end = /^\\\.\r?$/m;
    end.lastIndex = from;
    const rest = this.#sql.slice(from);
    const found = end.exec(rest);
    const to = found ? from + found.index + found[0].length : this.#sql.length;
    if (!found && rest.trim() !== '')
      this.#note(
        line,
        rest.trim().slice(0, 200),
        'the data of COPY has no end (a line with \\. alone): everything behind it is taken as data',
        true,
      );
    this.#line += newlines(this.#sql.slice(this.#at, to));
    this.#at = to;
  }

  #command(): void {
    const [from, line] = [this.#at, this.#line];
    const name = /^\\([A-Za-z_]+|[!?;])?/.exec(this.#sql.slice(from, from + 60))?.[1] ?? '';
    if (name === ';') {
      this.#end(2);
      return;
    }
    const stop = endOfLine(this.#sql, from);
    // Two backslashes end a command within its line.
    const parted = this.#sql.slice(from + 1, stop).indexOf('\\\\');
    const to = parted < 0 ? stop : from + 1 + parted + 2;
    const whole = this.#sql.slice(from, to).trim();
    const rest = this.#sql.slice(from + 1 + name.length, parted < 0 ? stop : to - 2).trim();
    if (SENDS.has(name)) this.#end();
    this.#at = to;
    if (TOLD[name]) this.#note(line, whole, `\\${name}: ${TOLD[name]}`);
    if (name === 'set' && this.#active) this.#set(rest);
    if (name === 'unset') this.#variables.delete(rest);
    if (['if', 'elif', 'else', 'endif'].includes(name)) this.#branch(name, rest, line, whole);
  }

  #set(rest: string): void {
    const [name = '', ...values] = wordsOf(rest, this.#variables);
    if (name) this.#variables.set(name, values.join(''));
  }

  #branch(name: string, rest: string, line: number, whole: string): void {
    const inner = this.#branches.at(-1);
    const value = wordsOf(rest, this.#variables).join(' ');
    const holds = TRUE.test(value) ? true : FALSE.test(value) ? false : undefined;
    if (name === 'if') {
      if (holds === undefined)
        this.#note(line, whole, 'whether this holds is known only when the script runs: both ways are read');
      this.#branches.push({ taken: holds ?? true, done: holds ?? false, unknown: holds === undefined });
    } else if (inner && name === 'elif') {
      inner.taken = inner.unknown || (!inner.done && holds !== false);
      inner.done ||= holds === true;
      inner.unknown ||= holds === undefined;
    } else if (inner && name === 'else') inner.taken = inner.unknown || !inner.done;
    else if (name === 'endif') this.#branches.pop();
  }
}

function newlines(text: string): number {
  let count = 0;
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) count += 1;
  return count;
}

const endOfLine = (sql: string, from: number): number => {
  const at = sql.indexOf('\n', from);
  return at < 0 ? sql.length : at;
};

function after(sql: string, what: string, from: number): number {
  const at = sql.indexOf(what, from);
  return at < 0 ? sql.length : at + what.length;
}

/** Behind the mark that closes a quotation; a doubled one stands for itself. */
function closing(sql: string, from: number, mark: string, escapes: boolean): number {
  for (let at = from; at < sql.length; at += 1) {
    if (escapes && sql[at] === '\\') at += 1;
    else if (sql[at] === mark) {
      if (sql[at + 1] !== mark) return at + 1;
      at += 1;
    }
  }
  return sql.length;
}

/** Behind a comment; comments lie within each other. */
function endOfComment(sql: string, from: number): number {
  let depth = 0;
  for (let at = from; at < sql.length; at += 1) {
    if (sql[at] === '/' && sql[at + 1] === '*') {
      depth += 1;
      at += 1;
    } else if (sql[at] === '*' && sql[at + 1] === '/') {
      depth -= 1;
      at += 1;
      if (depth === 0) return at + 1;
    }
  }
  return sql.length;
}

function dollarTag(sql: string, at: number): string | undefined {
  if (isWord(sql[at - 1])) return undefined;
  return /^\$([A-Za-z_\u0080-\uffff][A-Za-z_0-9\u0080-\uffff]*)?\$/.exec(sql.slice(at, at + 130))?.[0];
}

const withoutComments = (text: string): string => text.replace(/--[^\n]*|\/\*[\s\S]*?\*\//g, ' ');

/** The words of a command's line: quotation marks hold blanks, variables are filled in. */
function wordsOf(text: string, variables: ReadonlyMap<string, string>): string[] {
  const found = text.match(/'(?:[^']|'')*'|"[^"]*"|[^\s'"]+/g) ?? [];
  return found.map((word) =>
    word.startsWith("'")
      ? word.slice(1, -1).replaceAll("''", "'")
      : /^:[A-Za-z_]/.test(word)
        ? (variables.get(word.slice(1)) ?? word)
        : word,
  );
}
