/** A statement as MariaDB's counter keeps it: without values, its words and names apart. */
export interface MariaDigest {
  /** As it could have been written, each value a question mark. */
  readonly statement: string;
  /** The same with less space, for people. */
  readonly text: string;
  /** What the counter left out: its end, or how many values stand next to each other in what a query shows. */
  readonly cut?: 'end' | 'values';
}

/** Names, lists of values, units and texts of comments as the counter writes them; every other word and sign. */
const TOKEN = /`(?:[^`]|``)*`|\/\* , \.\.\. \*\/|\?, \.\.\.|\(\.\.\.\)|\(\?\)|@\?|[^\s`()?]+|[()?]/g;
/** A token takes two bytes in the counter, the length of a name two more. */
const TOKEN_BYTES = 2;
const LONGEST_NAME = 64;
const ENDS_LIST = /^(from|where|group|having|order|limit|offset|into|window|for|on|using)$/i;

/**
 * Reads what `performance_schema.events_statements_summary_by_digest` says of a statement. Several values in a row are one sign there (`(...)`, `?, ...`), words
 * of the grammar are in capitals, and a long statement is cut without a mark, which is told here by how much room it took.
 *
 * @param digest the column digest_text
 * @param longest bytes that the server keeps of a statement (`max_digest_length`)
 */
export function readMariaDigest(digest: string, longest: number): MariaDigest {
  const out: string[] = [];
  let bytes = 0;
  let values = false;
  // Of each bracket that is open, and of what stands outside of all: whether a list of what a query shows goes on.
  const lists = [false];
  for (const [token] of digest.matchAll(TOKEN)) {
    bytes += TOKEN_BYTES + (token.startsWith('`') ? TOKEN_BYTES + new TextEncoder().encode(token).length - 2 : 0);
    const top = lists.length - 1;
    if (token === '(') lists.push(false);
    else if (token === ')') lists.pop();
    else if (/^select$/i.test(token)) lists[top] = true;
    else if (ENDS_LIST.test(token)) lists[top] = false;
    if (token.startsWith('/*')) continue;
    // A date is a text behind a word, which is told as a value too.
    if (token === '?' && /^(date|time|timestamp)$/i.test(out.at(-1) ?? '')) out.pop();
    if (token === '?, ...') {
      values ||= lists[top] ?? false;
      out.push('?', ',', '?');
    } else if (token === '(...)' || token === '(?)') out.push('(', '?', ')');
    else if (token === '@?') out.push('?');
    else out.push(token.replace(/^SQL_TSI_/, ''));
  }
  const statement = out.join(' ');
  const end = bytes > longest - 2 * TOKEN_BYTES - LONGEST_NAME;
  return {
    statement,
    text: statement.replace(/ (?=[,).])/g, '').replace(/(?<=[(.]) /g, ''),
    ...(end ? { cut: 'end' as const } : values ? { cut: 'values' as const } : {}),
  };
}
