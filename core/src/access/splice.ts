import { scanSync } from 'libpg-query';

interface Edit {
  readonly from: number;
  readonly to: number;
  readonly text: string;
}

/** Words by which what follows HAVING begins. */
const AFTER_HAVING: ReadonlySet<string> = new Set(
  'window order limit offset fetch for union intersect except'.split(' '),
);

/**
 * A statement in which some places are written anew while all else stays letter by letter: so nothing that a person may write can be lost
 * by a writer of SQL that does not know it. Places are in bytes of UTF-8, as the parser gives them.
 */
export class Splice {
  readonly #bytes: Buffer;
  readonly #tokens: readonly { readonly start: number; readonly end: number; readonly text: string }[];
  readonly #edits: Edit[] = [];

  constructor(sql: string) {
    this.#bytes = Buffer.from(sql, 'utf8');
    this.#tokens = scanSync(sql).tokens.filter((token) => !/COMMENT/.test(token.tokenName));
  }

  #at(offset: number): number {
    return this.#tokens.findIndex((token) => token.start >= offset);
  }

  #is(index: number, text: string): boolean {
    return this.#tokens[index]?.text.toLowerCase() === text;
  }

  insert(offset: number, text: string): void {
    this.#edits.push({ from: offset, to: offset, text });
  }

  /** Writes the name that starts at a offset anew: one token. */
  replaceName(offset: number, text: string): void {
    const token = this.#tokens[this.#at(offset)];
    if (token) this.#edits.push({ from: token.start, to: token.end, text });
  }

  /** Writes a relation anew: its name with what stands before (schema), ONLY with its brackets, and the star behind it. */
  replaceRelation(offset: number, text: string): void {
    let first = this.#at(offset);
    let last = first;
    while (this.#is(last + 1, '.')) last += 2;
    if (this.#is(last + 1, '*')) last += 1;
    if (this.#is(first - 1, 'only')) first -= 1;
    else if (this.#is(first - 1, '(') && this.#is(first - 2, 'only') && this.#is(last + 1, ')')) {
      first -= 2;
      last += 1;
    }
    // TABLE t is short for SELECT * FROM t, and takes nothing but a name.
    const short = this.#tokens[first - 1];
    if (short && this.#is(first - 1, 'table'))
      this.#edits.push({ from: short.start, to: short.end, text: 'select * from' });
    const [start, end] = [this.#tokens[first], this.#tokens[last]];
    if (start && end) this.#edits.push({ from: start.start, to: end.end, text });
  }

  /** Takes a TABLESAMPLE clause out, by the offset of its method's name; its text. */
  takeSample(offset: number): string {
    const method = this.#at(offset);
    let last = this.#closing(method + 1);
    if (this.#is(last + 1, 'repeatable')) last = this.#closing(last + 2);
    const [start, end] = [this.#tokens[method - 1], this.#tokens[last]];
    if (!start || !end) return '';
    this.#edits.push({ from: start.start, to: end.end, text: '' });
    return this.#bytes.subarray(start.start, end.end).toString('utf8');
  }

  /**
   * Keeps a query to groups of which a condition holds: in its HAVING, or in one of its own.
   * @param offset of the first part of what it tells
   * @param asked whether it has a HAVING; what stands there is asked only where the condition holds
   */
  having(offset: number, condition: string, asked: boolean): void {
    let depth = 0;
    let from = -1;
    let index = this.#at(offset);
    for (; index >= 0 && index < this.#tokens.length; index += 1) {
      if (this.#is(index, '(') || this.#is(index, '[')) depth += 1;
      else if (this.#is(index, ')') || this.#is(index, ']')) depth -= 1;
      if (depth < 0 || this.#is(index, ';')) break;
      // Behind AS and behind a dot a word is a name, whatever it is.
      if (depth > 0 || this.#is(index - 1, 'as') || this.#is(index - 1, '.')) continue;
      if (this.#is(index, 'having')) from = index;
      else if (AFTER_HAVING.has(this.#tokens[index]?.text.toLowerCase() ?? '')) break;
    }
    const last = this.#tokens[index - 1];
    const having = this.#tokens[from];
    if (!last) return;
    if (!asked) this.insert(last.end, ` HAVING ${condition}`);
    else if (having) {
      this.insert(having.end, ` CASE WHEN ${condition} THEN (`);
      this.insert(last.end, ') ELSE FALSE END');
    }
  }

  #closing(open: number): number {
    let depth = 0;
    for (let index = open; index < this.#tokens.length; index += 1) {
      if (this.#is(index, '(')) depth += 1;
      if (this.#is(index, ')')) depth -= 1;
      if (depth === 0) return index;
    }
    return open;
  }

  /** The statement with all edits made. */
  text(): string {
    const parts: Buffer[] = [];
    let from = 0;
    for (const edit of [...this.#edits].sort((a, b) => a.from - b.from || a.to - b.to)) {
      parts.push(this.#bytes.subarray(from, edit.from), Buffer.from(edit.text, 'utf8'));
      from = edit.to;
    }
    parts.push(this.#bytes.subarray(from));
    return Buffer.concat(parts).toString('utf8').trim();
  }
}
