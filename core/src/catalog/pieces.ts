import { type Comparison, type Filter, FilterError, type FilterKey, parseFilter, writeFilter } from './filter.ts';

/** One of what a filter asks for at once, as somebody sees it who does not write filters. */
export type Piece =
  | { readonly what: 'words'; readonly text: string }
  | {
      readonly what: 'condition';
      readonly not: boolean;
      readonly key: FilterKey;
      readonly comparison: Comparison;
      readonly values: readonly string[];
    }
  /** Brackets, alternatives, words that are excluded: kept as they are written. */
  | { readonly what: 'other'; readonly text: string };

function pieceOf(part: Filter): Piece {
  if (part.type === 'word') return { what: 'words', text: writeFilter(part) };
  const not = part.type === 'not';
  const inner = not ? part.of : part;
  if (inner.type !== 'is') return { what: 'other', text: writeFilter(part) };
  const { key, comparison, values } = inner;
  return { what: 'condition', not, key, comparison, values };
}

/** A filter in pieces, words beside each other in one; nothing of one that cannot be read. */
export function piecesOf(text: string): Piece[] | undefined {
  let filter: Filter;
  try {
    filter = parseFilter(text);
  } catch (error) {
    if (error instanceof FilterError) return undefined;
    throw error;
  }
  const pieces: Piece[] = [];
  for (const piece of (filter.type === 'all' ? filter.of : [filter]).map(pieceOf)) {
    const last = pieces.at(-1);
    if (piece.what === 'words' && last?.what === 'words')
      pieces[pieces.length - 1] = { what: 'words', text: `${last.text} ${piece.text}` };
    else pieces.push(piece);
  }
  return pieces;
}

/** A piece as it is written; nothing of one that does not ask for anything yet. */
export function writePiece(piece: Piece): string {
  if (piece.what === 'words') return piece.text.trim();
  if (piece.what === 'other') return piece.text;
  const { key, comparison, not } = piece;
  const values = piece.values.map((value) => value.trim()).filter(Boolean);
  if (values.length === 0) return '';
  const is: Filter = { type: 'is', key, comparison, values };
  return writeFilter(not ? { type: 'not', of: is } : is);
}

/** Pieces as one filter. Alternatives get brackets where they stand beside something else. */
export function writePieces(pieces: readonly Piece[]): string {
  const written = pieces.map((piece) => ({ piece, text: writePiece(piece) })).filter(({ text }) => text !== '');
  return written
    .map(({ piece, text }) => (piece.what === 'other' && written.length > 1 ? `(${text})` : text))
    .join(' ');
}
