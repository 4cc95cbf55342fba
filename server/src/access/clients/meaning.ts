import { quoteIdentifier } from '@idrel/core/access';
import { SyntaxProblem, statementsOf } from '@idrel/core/sql';
import type { CopyStmt, Node } from '@pgsql/types';
import { ApiProblem } from '../../platform/problems.ts';
import { LONG_STATEMENT } from '../asPerson.ts';
import type { CopyFormat } from './copied.ts';

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
  /** Rows of a query as lines of text. */
  | { readonly kind: 'copy'; readonly sql: string; readonly format: CopyFormat }
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

/** What is copied out to the client. @throws for what is not given so */
function copyOf({ query, relation, attlist = [], options = [] }: CopyStmt, sql: string): Meant {
  let format: CopyFormat = { csv: false, header: false };
  for (const option of options) {
    if (!('DefElem' in option)) continue;
    const { defname, arg } = option.DefElem;
    const value =
      arg && 'String' in arg
        ? arg.String.sval
        : arg && 'Boolean' in arg
          ? String(arg.Boolean.boolval ?? false)
          : 'true';
    if (defname === 'format' && (value === 'csv' || value === 'text')) format = { ...format, csv: value === 'csv' };
    else if (defname === 'header' && /^(true|on|1|false|off|0)$/.test(value ?? ''))
      format = { ...format, header: /^(true|on|1)$/.test(value ?? '') };
    else
      throw new ApiProblem(
        'refused-construct',
        `COPY with ${defname} ${value ?? ''} is not given through the gateway.`,
        {
          mend: 'Copy as text or as CSV, with or without a header.',
        },
      );
  }
  if (query) {
    const inner = /^\s*copy\s*\(([\s\S]*)\)\s*to\s+stdout/i.exec(sql)?.[1]?.trim() ?? '';
    return { kind: 'copy', sql: inner, format };
  }
  const columns = attlist.flatMap((one) => ('String' in one ? [quoteIdentifier(one.String.sval ?? '')] : []));
  const table = [relation?.schemaname, relation?.relname]
    .flatMap((name) => (name ? [quoteIdentifier(name)] : []))
    .join('.');
  return { kind: 'copy', sql: `select ${columns.join(', ') || '*'} from ${table}`, format };
}

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
  if ('CopyStmt' in node && !node.CopyStmt.is_from && !node.CopyStmt.filename) return copyOf(node.CopyStmt, sql);
  if ('ClosePortalStmt' in node) return { kind: 'close cursor', cursor: node.ClosePortalStmt.portalname ?? null };
  return { kind: 'read', sql };
}

/** The longest text that is taken at all, in characters. */
const LONGEST = 100_000;

/** What the statements of a text ask for, in their order. @throws {SyntaxProblem} */
export function meaningsOf(sql: string): Meant[] {
  if (sql.length > LONGEST)
    throw new SyntaxProblem(`a text of more than ${LONGEST.toLocaleString('en')} characters is not taken`, null);
  // Looked at in a thread, as one query: none of what is answered here is as long.
  if (sql.length > LONG_STATEMENT) return [{ kind: 'read', sql }];
  const found = statementsOf(sql).map(({ node, text }) => meantBy(node, text));
  return found.length === 0 ? [{ kind: 'nothing' }] : found;
}
