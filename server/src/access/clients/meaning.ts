import { SyntaxProblem, statementsOf } from '@idrel/core/sql';
import type { Node } from '@pgsql/types';

/** What a statement of a client asks for, as far as it is not left to the gateway. */
export type Meant =
  | { readonly kind: 'nothing' }
  /** Left to the gateway: a query, or what it refuses with words of its own. */
  | { readonly kind: 'read'; readonly sql: string }
  | { readonly kind: 'begin' | 'commit' | 'rollback' | 'within block'; readonly tag: string }
  | { readonly kind: 'set'; readonly name: string; readonly value: string | null; readonly tag: string }
  | { readonly kind: 'show'; readonly name: string }
  /** Forgets statements that were prepared: one, or all. */
  | { readonly kind: 'forget'; readonly name: string | null; readonly tag: string }
  | { readonly kind: 'declare'; readonly cursor: string; readonly sql: string }
  /** Rows of a cursor; null: all that are left. */
  | { readonly kind: 'fetch'; readonly cursor: string; readonly most: number | null }
  | { readonly kind: 'close cursor'; readonly cursor: string | null };

const BLOCKS: Readonly<Record<string, ['begin' | 'commit' | 'rollback' | 'within block', string]>> = {
  TRANS_STMT_BEGIN: ['begin', 'BEGIN'],
  TRANS_STMT_START: ['begin', 'START TRANSACTION'],
  TRANS_STMT_COMMIT: ['commit', 'COMMIT'],
  TRANS_STMT_ROLLBACK: ['rollback', 'ROLLBACK'],
  TRANS_STMT_SAVEPOINT: ['within block', 'SAVEPOINT'],
  TRANS_STMT_RELEASE: ['within block', 'RELEASE'],
  TRANS_STMT_ROLLBACK_TO: ['within block', 'ROLLBACK'],
};

const valueIn = (args: readonly Node[] | undefined): string | null => {
  const texts = (args ?? []).map((arg) => {
    if (!('A_Const' in arg)) return '';
    const { sval, ival, fval, boolval } = arg.A_Const as Record<string, Record<string, unknown> | undefined>;
    return String(sval?.sval ?? ival?.ival ?? fval?.fval ?? boolval?.boolval ?? (ival ? 0 : ''));
  });
  return texts.length === 0 ? null : texts.join(', ');
};

function meantBy(node: Node, sql: string): Meant {
  if ('TransactionStmt' in node) {
    const [kind, tag] = BLOCKS[String(node.TransactionStmt.kind)] ?? [];
    return kind && tag ? { kind, tag } : { kind: 'read', sql };
  }
  if ('VariableSetStmt' in node) {
    const { kind, name = '', args } = node.VariableSetStmt;
    if (kind === 'VAR_SET_MULTI') return { kind: 'within block', tag: 'SET' };
    const value = kind === 'VAR_SET_VALUE' ? valueIn(args) : null;
    return { kind: 'set', name: name.toLowerCase(), value, tag: kind?.startsWith('VAR_RESET') ? 'RESET' : 'SET' };
  }
  if ('VariableShowStmt' in node) return { kind: 'show', name: (node.VariableShowStmt.name ?? '').toLowerCase() };
  if ('DiscardStmt' in node) return { kind: 'forget', name: null, tag: 'DISCARD ALL' };
  if ('DeallocateStmt' in node) {
    const { name, isall } = node.DeallocateStmt;
    return { kind: 'forget', name: isall ? null : (name ?? null), tag: isall ? 'DEALLOCATE ALL' : 'DEALLOCATE' };
  }
  if ('DeclareCursorStmt' in node) {
    const { portalname = '' } = node.DeclareCursorStmt;
    // What stands behind FOR is the query, letter by letter.
    const query = /\bfor\b([\s\S]*)$/i.exec(sql)?.[1]?.trim() ?? '';
    return { kind: 'declare', cursor: portalname, sql: query };
  }
  if ('FetchStmt' in node) {
    const { direction, howMany = 0, portalname = '', ismove } = node.FetchStmt;
    if (direction !== 'FETCH_FORWARD' || ismove) return { kind: 'read', sql };
    const count = Number(howMany);
    return { kind: 'fetch', cursor: portalname, most: count >= Number.MAX_SAFE_INTEGER || count < 0 ? null : count };
  }
  if ('ClosePortalStmt' in node) return { kind: 'close cursor', cursor: node.ClosePortalStmt.portalname ?? null };
  return { kind: 'read', sql };
}

/** Longer texts are looked at in a thread, as one query: none of what is answered here is as long. */
const LONG = 4000;

/** The longest text that is taken at all, in characters. */
export const LONGEST = 100_000;

/** What the statements of a text ask for, in their order. @throws {SyntaxProblem} */
export function meaningsOf(sql: string): Meant[] {
  if (sql.length > LONGEST)
    throw new SyntaxProblem(`a text of more than ${LONGEST.toLocaleString('en')} characters is not taken`, null);
  if (sql.length > LONG) return [{ kind: 'read', sql }];
  const found = statementsOf(sql).map(({ node, text }) => meantBy(node, text));
  return found.length === 0 ? [{ kind: 'nothing' }] : found;
}
