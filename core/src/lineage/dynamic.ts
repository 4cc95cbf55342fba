import type { FuncCall, Node } from '@pgsql/types';
import { textsOf } from './nodes.ts';

/** A text as far as it is known before it runs: what is not known stands as a mark in it. */
export interface Folded {
  readonly text: string;
  /** Whether nothing in it is a mark. */
  readonly known: boolean;
}

/** What stands for a part of a statement that is known only when it runs: a name that nothing has. */
export const UNKNOWN_PART = '…';
const unknown: Folded = { text: UNKNOWN_PART, known: false };
const whole = (text: string): Folded => ({ text, known: true });
const joined = (parts: readonly Folded[], between = ''): Folded => ({
  text: parts.map(({ text }) => text).join(between),
  known: parts.every(({ known }) => known),
});

const identifier = (text: string): string =>
  /^[a-z_][a-z0-9_$]*$/.test(text) ? text : `"${text.replaceAll('"', '""')}"`;
const literal = (text: string): string => `'${text.replaceAll("'", "''")}'`;
/** A part that is not known stands as a name where a name, as a text where a text is due. */
const asIdentifier = ({ text, known }: Folded): Folded => ({ text: known ? identifier(text) : `"${text}"`, known });
const asLiteral = ({ text, known }: Folded): Folded => ({ text: known ? literal(text) : literal(UNKNOWN_PART), known });
const asIs = ({ text, known }: Folded): Folded => ({ text: known || text.length > 1 ? text : `"${text}"`, known });

/**
 * The text that an expression gives, as far as it can be told without running it: constants, what is put together of them, quoted or filled in by
 * `format` (PostgreSQL's manual, 9.4.1), and names whose value is known.
 *
 * @param meant the text that a name stands for, where it always is the same
 */
export function foldText(node: Node | undefined, meant: (name: string) => string | undefined): Folded {
  if (!node) return unknown;
  const fold = (inner: Node | undefined) => foldText(inner, meant);
  if ('A_Const' in node) {
    const { sval, ival, fval, isnull } = node.A_Const;
    if (isnull) return unknown;
    if (sval) return whole(sval.sval ?? '');
    if (ival) return whole(String(ival.ival ?? 0));
    return fval ? whole(fval.fval ?? '') : unknown;
  }
  if ('TypeCast' in node) return fold(node.TypeCast.arg);
  if ('CollateClause' in node) return fold(node.CollateClause.arg);
  if ('ColumnRef' in node) {
    const value = meant(textsOf(node.ColumnRef.fields).join('.'));
    return value === undefined ? unknown : whole(value);
  }
  if ('A_Expr' in node && textsOf(node.A_Expr.name).at(-1) === '||')
    return joined([fold(node.A_Expr.lexpr), fold(node.A_Expr.rexpr)].map(asIs));
  if ('FuncCall' in node) return foldCall(node.FuncCall, fold);
  return unknown;
}

function foldCall({ funcname, args = [] }: FuncCall, fold: (node: Node | undefined) => Folded): Folded {
  const name = textsOf(funcname).at(-1);
  const [first, ...more] = args;
  if (name === 'quote_ident') return asIdentifier(fold(first));
  if (name === 'quote_literal' || name === 'quote_nullable') return asLiteral(fold(first));
  if (name === 'concat') return joined(args.map(fold).map(asIs));
  if (name === 'concat_ws') {
    const separator = fold(first);
    return separator.known ? joined(more.map(fold).map(asIs), separator.text) : unknown;
  }
  if (name === 'lower' || name === 'upper') {
    const inner = fold(first);
    return { ...inner, text: name === 'lower' ? inner.text.toLowerCase() : inner.text.toUpperCase() };
  }
  if (name === 'format') return filledIn(fold(first), more.map(fold));
  return unknown;
}

/** `format`: %I a name, %L a text, %s as it is, each with its place (`%2$I`) and a width, of which only the place matters here. */
function filledIn(pattern: Folded, values: readonly Folded[]): Folded {
  if (!pattern.known) return unknown;
  const parts: Folded[] = [];
  let next = 0;
  let from = 0;
  for (const found of pattern.text.matchAll(/%(?:(\d+)\$)?-?(?:\d+|\*(?:\d+\$)?)?([sIL%])/g)) {
    parts.push(whole(pattern.text.slice(from, found.index)));
    from = found.index + found[0].length;
    if (found[2] === '%') {
      parts.push(whole('%'));
      continue;
    }
    const place = found[1] === undefined ? next : Number(found[1]) - 1;
    next = place + 1;
    const value = values[place] ?? unknown;
    parts.push(found[2] === 'I' ? asIdentifier(value) : found[2] === 'L' ? asLiteral(value) : asIs(value));
  }
  parts.push(whole(pattern.text.slice(from)));
  return joined(parts);
}
