import type { Node } from '@pgsql/types';
import { readMariaScript } from './mariadb.ts';
import { parseOne, parseScript } from './parse.ts';
import { queryOfSqliteView } from './sqlite.ts';

/** Whose way of writing a check is written in. */
export type CheckDialect = 'postgresql' | 'sqlite' | 'mariadb';

/** What a check leaves to one column. */
export interface Permits {
  /** The column's name; of a domain `value`. */
  readonly column: string;
  readonly values: readonly string[];
}

/** Longer conditions are no lists that somebody wrote to be read. */
const LONGEST = 100_000;

/**
 * The values that a check permits, where it lists them: `x in ('a', 'b')`, `x = any (array['a', 'b'])`, `x = 'a' or x = 'b'`, also beside other conditions
 * (which can only forbid more) and beside `x is null`. Needs the parser to be loaded.
 *
 * @param definition the constraint as PostgreSQL writes it (`CHECK (…)`), or the condition alone as SQLite and MariaDB keep it
 * @returns one entry for each column whose values are listed; none for any other check, and none for one that cannot be read
 */
export function permittedByCheck(definition: string, dialect: CheckDialect): Permits[] {
  if (definition.length > LONGEST || !/\bin\b|\bany\b|=/i.test(definition)) return [];
  try {
    return listsOf(conditionOf(definition, dialect));
  } catch {
    return [];
  }
}

function conditionOf(definition: string, dialect: CheckDialect): Node | undefined {
  if (dialect === 'postgresql') {
    const node = parseOne(`alter table t add constraint c ${definition}`);
    const command = 'AlterTableStmt' in node ? node.AlterTableStmt.cmds?.[0] : undefined;
    const constraint = command && 'AlterTableCmd' in command ? command.AlterTableCmd.def : undefined;
    return constraint && 'Constraint' in constraint ? constraint.Constraint.raw_expr : undefined;
  }
  const query = `select 1 where ${definition}`;
  const node =
    dialect === 'sqlite'
      ? parseOne(queryOfSqliteView(`create view v as ${query}`))
      : parseScript(query, readMariaScript).statements[0]?.node;
  return node && 'SelectStmt' in node ? node.SelectStmt.whereClause : undefined;
}

/** Lists in a condition that holds only where all of them hold. */
function listsOf(node: Node | undefined): Permits[] {
  if (!node) return [];
  if ('BoolExpr' in node && node.BoolExpr.boolop === 'AND_EXPR') {
    // Where two conditions list the same column, both hold: what the first lists and the second does not is forbidden.
    const found = new Map<string, Permits>();
    for (const list of (node.BoolExpr.args ?? []).flatMap(listsOf)) {
      const known = found.get(list.column);
      found.set(
        list.column,
        known ? { ...known, values: known.values.filter((value) => list.values.includes(value)) } : list,
      );
    }
    return [...found.values()];
  }
  const list = listIn(node);
  return list && list.values.length > 0 ? [list] : [];
}

function listIn(node: Node): Permits | undefined {
  if ('BoolExpr' in node && node.BoolExpr.boolop === 'OR_EXPR') {
    const parts = (node.BoolExpr.args ?? []).map((arg) => nullTested(arg) ?? listIn(arg));
    const column = parts[0]?.column;
    if (column === undefined || parts.some((part) => part?.column !== column)) return undefined;
    return { column, values: [...new Set(parts.flatMap((part) => part?.values ?? []))] };
  }
  if (!('A_Expr' in node) || node.A_Expr.name?.length !== 1) return undefined;
  const { kind, name, lexpr, rexpr } = node.A_Expr;
  const [operator] = name;
  if (!operator || !('String' in operator) || operator.String.sval !== '=') return undefined;
  const column = columnIn(lexpr);
  if (column !== undefined)
    return withValues(
      column,
      kind === 'AEXPR_OP'
        ? [constantIn(rexpr)]
        : kind === 'AEXPR_IN' || kind === 'AEXPR_OP_ANY'
          ? constantsIn(rexpr)
          : undefined,
    );
  const turned = kind === 'AEXPR_OP' ? columnIn(rexpr) : undefined;
  return turned === undefined ? undefined : withValues(turned, [constantIn(lexpr)]);
}

const withValues = (column: string, values: readonly (string | undefined)[] | undefined): Permits | undefined =>
  values?.every((value) => value !== undefined) ? { column, values: [...new Set(values)] } : undefined;

const nullTested = (node: Node): Permits | undefined => {
  const column =
    'NullTest' in node && node.NullTest.nulltesttype === 'IS_NULL' ? columnIn(node.NullTest.arg) : undefined;
  return column === undefined ? undefined : { column, values: [] };
};

/** A column alone, also told to be text; nothing where something is done to its value. */
function columnIn(node: Node | undefined): string | undefined {
  if (node && 'TypeCast' in node) return columnIn(node.TypeCast.arg);
  const fields = node && 'ColumnRef' in node ? (node.ColumnRef.fields ?? []) : [];
  const last = fields.at(-1);
  return last && 'String' in last ? last.String.sval : undefined;
}

function constantsIn(node: Node | undefined): (string | undefined)[] | undefined {
  if (!node) return undefined;
  if ('TypeCast' in node) return constantsIn(node.TypeCast.arg);
  if ('List' in node) return (node.List.items ?? []).map(constantIn);
  return 'A_ArrayExpr' in node ? (node.A_ArrayExpr.elements ?? []).map(constantIn) : undefined;
}

function constantIn(node: Node | undefined): string | undefined {
  if (!node) return undefined;
  if ('TypeCast' in node) return constantIn(node.TypeCast.arg);
  if ('A_Expr' in node && node.A_Expr.kind === 'AEXPR_OP' && !node.A_Expr.lexpr) {
    const [sign] = node.A_Expr.name ?? [];
    const number = sign && 'String' in sign && sign.String.sval === '-' ? constantIn(node.A_Expr.rexpr) : undefined;
    return number === undefined ? undefined : `-${number}`;
  }
  if (!('A_Const' in node) || node.A_Const.isnull) return undefined;
  const { sval, ival, fval } = node.A_Const;
  if (sval) return sval.sval ?? '';
  if (ival) return String(ival.ival ?? 0);
  return fval?.fval;
}
