import { FILTER_KEYS, type FilterKey, parseFilter, type Token, tokens } from './filter.ts';

/** What could be written where somebody types, and the place in the text that it would take. */
export type Completing =
  | { readonly what: 'key'; readonly begun: string; readonly from: number; readonly to: number }
  | {
      readonly what: 'value';
      readonly key: FilterKey;
      readonly begun: string;
      readonly from: number;
      readonly to: number;
      /** The filter without this condition: what its values are counted over. */
      readonly beside: string;
    };

const isKey = (word: string): word is FilterKey => Object.hasOwn(FILTER_KEYS, word);

/**
 * What is being written at a place of a filter: the key of a condition, or a value of one; nothing within words that no key begins so.
 * @param caret between which characters somebody types, from 0
 */
export function completingAt(text: string, caret: number): Completing | undefined {
  const all = tolerant(text);
  const at = all.findIndex((token) => token.at < caret && caret <= token.end);
  const here = all[at];
  if (!here) return { what: 'key', begun: '', from: caret, to: caret };
  if (here.kind === 'compare' || here.kind === 'comma') {
    const condition = conditionAround(all, at);
    return condition && value(text, all, condition, { begun: '', from: caret, to: caret });
  }
  if (here.kind !== 'word' && here.kind !== 'quoted') return undefined;
  const condition = conditionAround(all, at);
  const own = all[at + 1];
  if (condition && at > condition.from)
    return value(text, all, condition, { begun: here.text, from: here.at, to: here.end });
  if (here.kind === 'quoted') return undefined;
  const not = here.text.startsWith('-') ? 1 : 0;
  const begun = text.slice(here.at + not, caret).toLowerCase();
  // A key that is there already is exchanged with its colon.
  const to = own?.kind === 'compare' && own.glued ? own.end : here.end;
  if (!Object.keys(FILTER_KEYS).some((key) => key.startsWith(begun))) return undefined;
  return { what: 'key', begun, from: here.at + not, to };
}

interface Piece extends Token {
  readonly end: number;
}

/** Pieces with their ends, also of a text whose last quotation mark is still open. */
function tolerant(text: string): Piece[] {
  const read = (whole: string) => {
    try {
      return tokens(whole);
    } catch {
      return undefined;
    }
  };
  const closed = read(text);
  const pieces = closed ?? read(`${text}"`) ?? [];
  return pieces.map((token, at) => {
    const next = pieces[at + 1]?.at ?? text.length;
    // Space behind a piece is none of it; an open quotation holds all that follows.
    const open = !closed && at === pieces.length - 1;
    return { ...token, end: open ? text.length : token.at + text.slice(token.at, next).trimEnd().length };
  });
}

/** The condition that a piece belongs to: the places of its first and last piece. */
function conditionAround(all: readonly Piece[], at: number): { from: number; to: number; key: FilterKey } | undefined {
  let from = at;
  while (from > 0 && !isStart(all, from)) from -= 1;
  const key = all[from];
  if (key?.kind !== 'word' || all[from + 1]?.kind !== 'compare' || !all[from + 1]?.glued) return undefined;
  const name = key.text.replace(/^-/, '').toLowerCase();
  if (!isKey(name)) return undefined;
  let to = from + 1;
  while (all[to + 1] && !isStart(all, to + 1)) to += 1;
  return at <= to ? { from, to, key: name } : undefined;
}

/** Whether something of its own begins here: no comparison, no comma, and nothing that follows on one of them. */
const isStart = (all: readonly Piece[], at: number): boolean => {
  const kind = all[at]?.kind;
  const before = all[at - 1]?.kind;
  return kind !== 'compare' && kind !== 'comma' && before !== 'compare' && before !== 'comma';
};

function value(
  text: string,
  all: readonly Piece[],
  condition: { from: number; to: number; key: FilterKey },
  place: { begun: string; from: number; to: number },
): Completing {
  const [first, last] = [all[condition.from] as Piece, all[condition.to] as Piece];
  const beside = `${text.slice(0, first.at)} ${text.slice(last.end)}`.replace(/\b(and|or|not)\s*$/i, '').trim();
  return { what: 'value', key: condition.key, ...place, beside: isReadable(beside) ? beside : '' };
}

function isReadable(text: string): boolean {
  try {
    parseFilter(text);
    return true;
  } catch {
    return false;
  }
}
