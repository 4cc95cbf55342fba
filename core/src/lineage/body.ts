import type { Node } from '@pgsql/types';
import {
  assignedIn,
  type BodyDatum,
  type BodyExpression,
  type BodyStatement,
  type BodyStatementParts,
  type ParsedBody,
  parseOne,
  parserReason,
  parseScript,
} from '../sql/index.ts';
import { applyDefinition } from './definitions.ts';
import { foldText, UNKNOWN_PART } from './dynamic.ts';
import { readAsInfluence } from './expression.ts';
import { type Made, toLineage } from './made.ts';
import { asInfluence, combine, combineInfluences, nothing, passing } from './provenance.ts';
import { readQuery } from './query.ts';
import { newTrace, readStatement, shorten } from './reading.ts';
import type { RelationName, SchemaCatalog } from './schema.ts';
import { type Derived, relationColumn, Scope, type ScopeColumn, type ScopeItem } from './scope.ts';
import type { Trace } from './trace.ts';
import type { Influence, Influences, Provenance, StatementLineage, Unresolved } from './types.ts';
import { readWithin } from './writes.ts';

/** A variable: what its value, or each column of its row, can be made of. */
interface Variable {
  readonly isRow: boolean;
  provenance: Provenance;
  readonly columns: Map<string, Provenance>;
  /** Its row can have columns that are not known here. */
  open: boolean;
  /** Of `new` and `old`: the table whose row it is. */
  readonly of?: RelationName;
  /** The one text that it can hold; null: several, or none that is known. */
  text?: string | null;
}

/** Where a body runs, as far as that is known. */
export interface Setting {
  /** Function or procedure, by its names. */
  readonly target: RelationName;
  /** Columns of what it gives. */
  readonly gives: readonly string[];
  /** The table on which it runs as a trigger. */
  readonly table?: RelationName;
  /** Parameters that hold a row, with its relation. */
  readonly rows: ReadonlyMap<string, RelationName>;
}

export interface ReadBody {
  readonly statements: StatementLineage[];
  readonly unresolved: Unresolved[];
  /** Statements of SQL in it, lineage or not. */
  readonly read: number;
}

/** In each round variables can come to hold more; what is assigned in a circle settles within a few. */
const ROUNDS_MOST = 8;
type Out = Derived['columns'][number];

/**
 * Reads the body of a function, procedure, trigger or DO block. What a variable holds is all that is ever assigned to it, wherever: the order of
 * statements and which of them run is not asked, so that nothing is missed. What decides whether a statement runs decides its rows.
 */
export function readBody(body: ParsedBody, catalog: SchemaCatalog, setting: Setting): ReadBody {
  return new BodyReader(body, catalog, setting).read();
}

class BodyReader {
  readonly #body: ParsedBody;
  readonly #around: SchemaCatalog;
  readonly #setting: Setting;
  readonly #variables = new Map<string, Variable>();
  readonly #cursors = new Map<string, Derived>();
  readonly #labels = new Set<string>();
  readonly #parsed = new Map<string, Node | Error>();
  #catalog: SchemaCatalog;
  #control: Influences[] = [];
  #result: { columns: Provenance[]; rows: Influences } = { columns: [], rows: nothing.influences };
  #told: { statements: StatementLineage[]; unresolved: Unresolved[]; read: number } = {
    statements: [],
    unresolved: [],
    read: 0,
  };

  constructor(body: ParsedBody, catalog: SchemaCatalog, setting: Setting) {
    this.#body = body;
    this.#around = catalog;
    this.#catalog = catalog.within();
    this.#setting = setting;
    for (const datum of body.datums) this.#declare(datum);
  }

  read(): ReadBody {
    for (let round = 0, before = -1; round < ROUNDS_MOST && before !== this.#weight(); round += 1) {
      before = this.#weight();
      // Each round begins as the body does: with nothing made yet, and nothing told.
      this.#catalog = this.#around.within();
      this.#told = { statements: [], unresolved: [], read: 0 };
      this.#result = { columns: [], rows: nothing.influences };
      for (const datum of this.#body.datums) this.#begin(datum);
      this.#walk([this.#body.action]);
    }
    this.#give();
    return this.#told;
  }

  /** Grows whenever a variable comes to hold more. */
  #weight(): number {
    const of = ({ values, influences }: Provenance) =>
      [...values.values()].reduce((sum, kind) => sum + 1 + passing(kind), 0) +
      [...influences.values()].reduce((sum, kinds) => sum + kinds.size, 0);
    return [...this.#variables.values()].reduce(
      (sum, { provenance, columns, text }) =>
        sum +
        of(provenance) +
        [...columns.values()].reduce((inner, one) => inner + 1 + of(one), 0) +
        (text === undefined ? 0 : text === null ? 2 : 1),
      0,
    );
  }

  // ——— Variables ———

  #declare({ PLpgSQL_var: scalar, PLpgSQL_rec: row }: BodyDatum): void {
    if (scalar && !this.#variables.has(scalar.refname))
      this.#variables.set(scalar.refname, { isRow: false, provenance: nothing, columns: new Map(), open: false });
    if (!row || this.#variables.has(row.refname)) return;
    const { table } = this.#setting;
    const trigger = (row.refname === 'new' || row.refname === 'old') && table ? table : undefined;
    const type = row.datatype?.PLpgSQL_type.typname ?? 'record';
    const names = type === 'record' ? [] : namesIn(type);
    const typed = trigger ?? this.#setting.rows.get(row.refname);
    const known = typed
      ? this.#catalog.relation(typed.schema, typed.relation)
      : names.length > 0
        ? this.#catalog.relation(names.at(-2), names.at(-1) ?? '')
        : undefined;
    const fields =
      known?.columns ?? (names.length > 0 ? this.#catalog.type(names.at(-2), names.at(-1) ?? '') : undefined);
    this.#variables.set(row.refname, {
      isRow: true,
      provenance: nothing,
      columns: new Map(
        (fields ?? []).map((name) => [
          name,
          trigger ? relationColumn(trigger.schema, trigger.relation, name).provenance : nothing,
        ]),
      ),
      open: fields === undefined,
      ...(trigger ? { of: trigger } : {}),
    });
  }

  /** What a variable holds from the beginning, and the query of a cursor. */
  #begin({ PLpgSQL_var: scalar, PLpgSQL_rec: row }: BodyDatum): void {
    const first = scalar?.default_val ?? row?.default_val;
    const name = scalar?.refname ?? row?.refname ?? '';
    if (first)
      this.#assign(
        name,
        this.#evaluate(first.PLpgSQL_expr, scalar?.lineno ?? row?.lineno),
        this.#textOf(first.PLpgSQL_expr),
      );
    if (scalar?.cursor_explicit_expr)
      this.#cursors.set(name, this.#query(scalar.cursor_explicit_expr.PLpgSQL_expr, scalar.lineno));
  }

  #variableAt(varno: number | undefined): { name: string; field?: string } | undefined {
    const datum = this.#body.datums[varno ?? 0];
    if (datum?.PLpgSQL_var) return { name: datum.PLpgSQL_var.refname };
    if (datum?.PLpgSQL_rec) return { name: datum.PLpgSQL_rec.refname };
    if (datum?.PLpgSQL_recfield) {
      const { fieldname, recparentno } = datum.PLpgSQL_recfield;
      const row = this.#variableAt(recparentno);
      return row && { name: row.name, field: fieldname };
    }
    return undefined;
  }

  #add(known: Provenance | undefined, more: Provenance): Provenance {
    return combine([known ?? nothing, more, { values: nothing.values, influences: combineInfluences(this.#control) }]);
  }

  /** Gives a variable what a query gives: its first column, or a whole row. @param text the text that it gives, where it is known */
  #assign(name: string, derived: Derived, text?: string | null): void {
    const variable = this.#variables.get(name);
    if (!variable) return;
    const [first] = derived.columns;
    const inside = { values: nothing.values, influences: derived.rows };
    if (!variable.isRow) {
      variable.provenance = this.#add(variable.provenance, combine([first?.provenance ?? nothing, inside]));
      variable.text = variable.text === undefined || variable.text === text ? (text ?? null) : null;
      return;
    }
    if (variable.of) {
      // The whole row of a trigger is put in another's place.
      for (const column of derived.columns) this.#setField(name, column.name, combine([column.provenance, inside]));
      return;
    }
    // The value of one column can be a row itself: its fields are not known here.
    const names = variable.open ? [] : [...variable.columns.keys()];
    for (const [index, column] of derived.columns.entries()) {
      const field = names.length === derived.columns.length ? (names[index] ?? column.name) : column.name;
      variable.columns.set(field, this.#add(variable.columns.get(field), combine([column.provenance, inside])));
    }
    variable.provenance = this.#add(
      variable.provenance,
      combine([...derived.columns.map((column) => column.provenance), inside]),
    );
  }

  #setField(name: string, field: string, provenance: Provenance, text = '', line?: number): void {
    const variable = this.#variables.get(name);
    if (!variable) return;
    if (variable.of) {
      if (name === 'new')
        this.#emit(
          toLineage(
            newTrace(this.#catalog),
            { columns: [{ name: field, provenance }], rows: nothing.influences },
            'update',
            variable.of,
            [],
          ),
          text,
          line,
        );
      return;
    }
    variable.columns.set(field, this.#add(variable.columns.get(field), provenance));
    variable.provenance = this.#add(variable.provenance, provenance);
  }

  /** Gives what a statement returns to what stands behind INTO, or to what a loop goes over. */
  #into(target: BodyDatum | undefined, derived: Derived, text: string, line?: number): void {
    if (!target) return;
    const one = target.PLpgSQL_rec?.refname ?? target.PLpgSQL_var?.refname;
    if (one !== undefined) {
      this.#assign(one, derived, null);
      return;
    }
    for (const [index, { varno }] of (target.PLpgSQL_row?.fields ?? []).entries()) {
      const found = this.#variableAt(varno);
      const column = derived.columns[index];
      if (found && column) this.#put(found, { columns: [column], rows: derived.rows }, text, line);
    }
  }

  #put(
    { name, field }: { name: string; field?: string },
    derived: Derived,
    text: string,
    line?: number,
    value: string | null = null,
  ): void {
    if (field === undefined) this.#assign(name, derived, value);
    else
      this.#setField(
        name,
        field,
        combine([derived.columns[0]?.provenance ?? nothing, { values: nothing.values, influences: derived.rows }]),
        text,
        line,
      );
  }

  /** The names that statements of the body may use beside those of their own relations. */
  #scope(given: readonly ScopeColumn[] = []): Scope {
    const items: ScopeItem[] = [];
    const scalars: ScopeColumn[] = [...given];
    for (const [name, variable] of this.#variables) {
      if (!variable.isRow) {
        scalars.push({ name, provenance: variable.provenance, base: [] });
        continue;
      }
      items.push({
        alias: name,
        columns: variable.of
          ? [...variable.columns.keys()].map((column) =>
              relationColumn(variable.of?.schema ?? '', variable.of?.relation ?? '', column),
            )
          : [...variable.columns].map(([column, provenance]) => ({ name: column, provenance, base: [] })),
        ...(variable.open
          ? {
              other: (column: string) =>
                variable.of
                  ? relationColumn(variable.of.schema, variable.of.relation, column)
                  : { name: column, provenance: variable.provenance, base: [] },
            }
          : {}),
      });
      // A type that is none of a row, a domain for example, is taken for one by the parser: its value is named alone.
      if (variable.open && !variable.of) scalars.push({ name, provenance: variable.provenance, base: [] });
    }
    for (const alias of [this.#setting.target.relation, ...this.#labels]) items.push({ alias, columns: scalars });
    const scope = new Scope();
    scope.namespace = { items, columns: scalars };
    return scope;
  }

  // ——— Queries and expressions ———

  #say(text: string, line: number | undefined, reason: string, lost = false): void {
    this.#told.unresolved.push({ statement: shorten(text), line: this.#line(line), reason, lost });
  }
  #line(lineno: number | undefined): number {
    return this.#body.firstLine + Math.max(1, lineno ?? 1) - 1;
  }

  #parse(sql: string, line: number | undefined): Node | undefined {
    const known = this.#parsed.get(sql);
    let node = known;
    if (!node) {
      try {
        node = parseOne(sql);
      } catch (error) {
        node = new Error(parserReason(error));
      }
      this.#parsed.set(sql, node);
    }
    if (!(node instanceof Error)) return node;
    this.#say(sql, line, node.message, true);
    return undefined;
  }

  #node(expression: BodyExpression, line: number | undefined): Node | undefined {
    const isStatement = (expression.parseMode ?? 0) === 0;
    return this.#parse(isStatement ? expression.query : `SELECT ${assignedIn(expression)}`, line);
  }

  #tell(trace: Trace, text: string, line: number | undefined): void {
    // What a part means that is known only when it runs is told once, for the whole statement.
    for (const problem of trace.problems) if (!problem.includes(UNKNOWN_PART)) this.#say(text, line, problem);
  }

  /** What a query gives; nothing where it cannot be read. */
  #query(
    expression: BodyExpression,
    line: number | undefined,
    given: readonly ScopeColumn[] = [],
    isUnused = false,
  ): Derived {
    const node = this.#node(expression, line);
    return node
      ? this.#derive(node, expression.query, line, given, isUnused)
      : { columns: [], rows: nothing.influences };
  }

  #derive(
    node: Node,
    text: string,
    line: number | undefined,
    given: readonly ScopeColumn[] = [],
    isUnused = false,
  ): Derived {
    const trace = newTrace(this.#catalog);
    const derived = readQuery(trace, node, this.#scope(given));
    for (const made of trace.written) this.#emit(made, text, line);
    if (!isUnused) this.#tell(trace, text, line);
    return derived;
  }

  /** What an expression gives: a row where it is one. */
  #evaluate(expression: BodyExpression, line: number | undefined): Derived {
    const name = assignedIn(expression).trim().toLowerCase();
    const row = this.#variables.get(name);
    if (row?.isRow && row.columns.size > 0)
      return {
        columns: [...row.columns].map(([column, provenance]): Out => ({ name: column, provenance })),
        rows: nothing.influences,
      };
    return this.#query({ ...expression, parseMode: expression.parseMode ?? 2 }, line);
  }

  /** What a condition looks at. */
  #decides(expression: BodyExpression | undefined, line: number | undefined): Influences {
    if (!expression) return nothing.influences;
    const node = this.#node({ ...expression, parseMode: 2 }, line);
    if (!node) return nothing.influences;
    const trace = newTrace(this.#catalog);
    const influences = readAsInfluence(trace, [node], this.#scope(), 'filter');
    this.#tell(trace, expression.query, line);
    return influences;
  }

  #textOf(expression: BodyExpression): string | null {
    const node = this.#parsed.get(`SELECT ${assignedIn(expression)}`);
    const target = node && !(node instanceof Error) ? onlyTarget(node) : undefined;
    const folded = foldText(target, (name) => this.#constant(name));
    return target && folded.known ? folded.text : null;
  }

  #constant(name: string): string | undefined {
    const { table } = this.#setting;
    if (table && (name === 'tg_table_name' || name === 'tg_relname')) return table.relation;
    if (table && name === 'tg_table_schema') return table.schema;
    return this.#variables.get(name)?.text ?? undefined;
  }

  // ——— Statements ———

  #walk(statements: readonly BodyStatement[] | undefined): void {
    for (const statement of statements ?? [])
      for (const [kind, parts] of Object.entries(statement)) this.#step(kind.replace('PLpgSQL_stmt_', ''), parts);
  }

  /** What stands under a condition: this decides its rows. */
  #under(decided: Influences, statements: readonly BodyStatement[] | undefined): void {
    this.#control.push(decided);
    this.#walk(statements);
    this.#control.pop();
  }

  #step(kind: string, parts: BodyStatementParts): void {
    const { lineno: line } = parts;
    switch (kind) {
      case 'block': {
        const { label } = parts as { label?: string };
        if (label) this.#labels.add(label);
        this.#walk(parts.body);
        for (const { PLpgSQL_exception: handler } of parts.exceptions?.PLpgSQL_exception_block.exc_list ?? [])
          this.#walk(handler.action);
        return;
      }
      case 'assign':
        if (parts.expr) this.#assignment(parts, parts.expr.PLpgSQL_expr);
        return;
      case 'if':
        this.#branches(parts);
        return;
      case 'case':
        this.#cases(parts);
        return;
      case 'loop':
        this.#walk(parts.body);
        return;
      case 'while':
        this.#under(this.#decides(parts.cond?.PLpgSQL_expr, line), parts.body);
        return;
      case 'fori': {
        const ends = [parts.lower, parts.upper, parts.step].flatMap((held) => (held ? [held.PLpgSQL_expr] : []));
        const derived = ends.map((end) => this.#evaluate(end, line));
        const counted = combine(
          derived.flatMap((one) => one.columns.map((column) => column.provenance)),
          'transformed',
        );
        this.#into(parts.var, { columns: [{ name: '', provenance: counted }], rows: nothing.influences }, '', line);
        this.#under(asInfluence(counted, 'filter'), parts.body);
        return;
      }
      case 'fors':
        if (parts.query) this.#loop(parts, this.#query(parts.query.PLpgSQL_expr, line));
        return;
      case 'dynfors':
        if (parts.query) this.#loop(parts, this.#execute(parts.query.PLpgSQL_expr, parts));
        return;
      case 'forc':
        this.#loop(parts, this.#cursorOf(parts.curvar));
        return;
      case 'foreach_a': {
        const derived = parts.expr
          ? this.#evaluate(parts.expr.PLpgSQL_expr, line)
          : { columns: [], rows: nothing.influences };
        const found = this.#variableAt(parts.varno);
        if (found) this.#put(found, derived, '', line);
        this.#under(derived.rows, parts.body);
        return;
      }
      case 'execsql':
        if (parts.sqlstmt) this.#statement(parts.sqlstmt.PLpgSQL_expr, parts);
        return;
      case 'dynexecute':
        if (parts.query)
          this.#into(
            parts.target,
            this.#execute(parts.query.PLpgSQL_expr, parts),
            parts.query.PLpgSQL_expr.query,
            line,
          );
        return;
      case 'perform':
        if (parts.expr) {
          this.#told.read += 1;
          // What it gives goes nowhere: what of that is not known is of no account.
          this.#query(parts.expr.PLpgSQL_expr, line, [], true);
        }
        return;
      case 'open': {
        const name = this.#variableAt(parts.curvar)?.name;
        if (name === undefined) return;
        if (parts.query) this.#cursors.set(name, this.#query(parts.query.PLpgSQL_expr, line));
        else if (parts.dynquery) this.#cursors.set(name, this.#execute(parts.dynquery.PLpgSQL_expr, parts));
        return;
      }
      case 'fetch':
        this.#into(parts.target, this.#cursorOf(parts.curvar), '', line);
        return;
      case 'return':
      case 'return_next':
        this.#return(parts);
        return;
      case 'return_query':
        if (parts.query) this.#gives(this.#query(parts.query.PLpgSQL_expr, line));
        else if (parts.dynquery) this.#gives(this.#execute(parts.dynquery.PLpgSQL_expr, parts));
        return;
      default:
        // What raises, asserts, counts, leaves a loop or ends a transaction moves nothing.
        return;
    }
  }

  #assignment(parts: BodyStatementParts, expression: BodyExpression): void {
    const found = this.#variableAt(parts.varno);
    if (!found) return;
    const derived = this.#evaluate(expression, parts.lineno);
    this.#put(found, derived, expression.query, parts.lineno, this.#textOf(expression));
  }

  #branches(parts: BodyStatementParts): void {
    // Whoever comes to a later branch has been asked all that stands before it.
    const asked: Influences[] = [this.#decides(parts.cond?.PLpgSQL_expr, parts.lineno)];
    this.#under(combineInfluences(asked), parts.then_body);
    for (const { PLpgSQL_if_elsif: branch } of parts.elsif_list ?? []) {
      asked.push(this.#decides(branch.cond?.PLpgSQL_expr, parts.lineno));
      this.#under(combineInfluences(asked), branch.stmts);
    }
    this.#under(combineInfluences(asked), parts.else_body);
  }

  #cases(parts: BodyStatementParts): void {
    const asked: Influences[] = [this.#decides(parts.t_expr?.PLpgSQL_expr, parts.lineno)];
    for (const { PLpgSQL_case_when: branch } of parts.case_when_list ?? []) {
      asked.push(this.#decides(branch.expr?.PLpgSQL_expr, parts.lineno));
      this.#under(combineInfluences(asked), branch.stmts);
    }
    this.#under(combineInfluences(asked), parts.else_stmts);
  }

  #loop(parts: BodyStatementParts, derived: Derived): void {
    this.#into(parts.var, derived, '', parts.lineno);
    this.#under(derived.rows, parts.body);
  }

  #cursorOf(curvar: number | undefined): Derived {
    const name = this.#variableAt(curvar)?.name;
    return (name === undefined ? undefined : this.#cursors.get(name)) ?? { columns: [], rows: nothing.influences };
  }

  /** One statement of SQL as it stands in the body. */
  #statement(expression: BodyExpression, parts: BodyStatementParts): void {
    const node = this.#parse(expression.query, parts.lineno);
    this.#told.read += 1;
    if (node) this.#run(node, expression.query, parts);
  }

  #run(
    node: Node,
    text: string,
    { lineno: line, target }: BodyStatementParts,
    given: readonly ScopeColumn[] = [],
  ): Derived {
    const none: Derived = { columns: [], rows: nothing.influences };
    if ('SelectStmt' in node && !node.SelectStmt.intoClause) {
      const derived = this.#derive(node, text, line, given);
      this.#into(target, derived, text, line);
      return derived;
    }
    const trace = newTrace(this.#catalog);
    if (target || WRITES.some((kind) => kind in node)) {
      const derived = readWithin(trace, node, this.#scope(given));
      for (const made of trace.written) this.#emit(made, text, line);
      this.#tell(trace, text, line);
      this.#into(target, derived ?? none, text, line);
      return derived ?? none;
    }
    const defines = applyDefinition(this.#catalog, node);
    const made =
      defines && !('CreateStmt' in node || 'AlterTableStmt' in node)
        ? undefined
        : readStatement({ trace, catalog: this.#catalog, nextQuery: () => 0 }, node, this.#scope(given));
    for (const one of [...trace.written, ...(made ? [made] : [])]) this.#emit(one, text, line);
    this.#tell(trace, text, line);
    return none;
  }

  /** A statement that is put together when it runs: what of its text is known is read. */
  #execute(expression: BodyExpression, parts: BodyStatementParts): Derived {
    const { lineno: line } = parts;
    const none: Derived = { columns: [], rows: nothing.influences };
    this.#told.read += 1;
    // What EXECUTE gives without INTO goes nowhere; what a loop, a cursor or RETURN runs is used.
    const isExecute = !parts.dynquery && !parts.var;
    const node = this.#parse(`SELECT ${assignedIn(expression)}`, line);
    if (!node) return none;
    const { text, known } = foldText(onlyTarget(node), (name) => this.#constant(name));
    const told = text.length > 1 ? `: of its text is known: ${shorten(text)}` : '';
    if (text === UNKNOWN_PART) {
      this.#say(expression.query, line, 'dynamic SQL: the statement is put together when it runs', true);
      return none;
    }
    const { statements, rejected } = parseScript(text);
    const lost = rejected.filter((piece) => piece.lost);
    if (lost.length > 0 || statements.length === 0) {
      this.#say(expression.query, line, `dynamic SQL: the statement is put together when it runs${told}`, true);
      return none;
    }
    const moves = ({ node: one }: { node: Node }) =>
      MOVES.some((kind) => kind in one) || ('SelectStmt' in one && (!isExecute || Boolean(parts.target)));
    if (!known && statements.some(moves))
      this.#say(
        expression.query,
        line,
        `dynamic SQL: what stands as ${UNKNOWN_PART} is known only when it runs${told}`,
      );
    const given = (parts.params ?? []).map((held, index): ScopeColumn => {
      const derived = this.#evaluate(held.PLpgSQL_expr, line);
      return {
        name: `$${index + 1}`,
        provenance: combine([
          ...derived.columns.map((column) => column.provenance),
          { values: nothing.values, influences: derived.rows },
        ]),
        base: [],
      };
    });
    let last = none;
    for (const statement of statements)
      last = this.#run(withParameters(statement.node) as Node, statement.text, { lineno: line ?? 1 }, given);
    return last;
  }

  #emit(made: Made, text: string, line: number | undefined): void {
    // What names a part that is not known names nothing.
    const isTold = (name: string) => !name.includes(UNKNOWN_PART);
    if (!isTold(made.target.schema) || !isTold(made.target.relation) || made.kind === 'select') return;
    const control = combineInfluences(this.#control);
    const said = new Set(made.influences.map(({ from, kind }) => JSON.stringify([from, kind])));
    const more = toLineage(
      newTrace(this.#catalog),
      { columns: [], rows: control },
      made.kind,
      made.target,
      [],
    ).influences.filter(({ from, kind }) => !said.has(JSON.stringify([from, kind])));
    const isKnown = ({ from }: Pick<Influence, 'from'>) =>
      [from.schema, from.relation, from.column].every((name) => isTold(name));
    this.#told.statements.push({
      ...made,
      columns: made.columns.filter(isTold),
      edges: made.edges.filter((edge) => isKnown(edge) && isTold(edge.to)),
      influences: [...made.influences, ...more].filter(isKnown),
      statement: text.trim(),
      line: this.#line(line),
    });
  }

  // ——— What it gives ———

  #gives(derived: Derived): void {
    for (const [index, column] of derived.columns.entries())
      this.#result.columns[index] = this.#add(this.#result.columns[index], column.provenance);
    this.#result.rows = combineInfluences([this.#result.rows, derived.rows, ...this.#control]);
  }

  #return(parts: BodyStatementParts): void {
    if (this.#setting.table) return;
    if (parts.expr) {
      this.#gives(this.#evaluate(parts.expr.PLpgSQL_expr, parts.lineno));
      return;
    }
    const found = parts.retvarno === undefined ? undefined : this.#variableAt(parts.retvarno);
    const variable = found && this.#variables.get(found.name);
    if (!variable) return;
    this.#gives({
      columns: variable.isRow
        ? [...variable.columns].map(([name, provenance]): Out => ({ name, provenance }))
        : [{ name: '', provenance: variable.provenance }],
      rows: nothing.influences,
    });
  }

  /** What comes back of a function: what it returns, and what its parameters hold that go out. */
  #give(): void {
    const { gives, target, table } = this.#setting;
    if (table) return;
    const names = gives.length > 0 ? gives : [target.relation];
    const columns = names.map((name, index): Out => {
      const out = gives.length > 0 ? this.#variables.get(name) : undefined;
      return {
        name,
        provenance: combine([this.#result.columns[index] ?? nothing, out && !out.isRow ? out.provenance : nothing]),
      };
    });
    const made = toLineage(newTrace(this.#catalog), { columns, rows: this.#result.rows }, 'function', target, names);
    if (made.edges.length > 0 || made.influences.length > 0)
      this.#told.statements.push({ ...made, statement: '', line: this.#body.firstLine });
  }
}

/** Statements that bring rows, or make what others read. */
const MOVES = [
  'InsertStmt',
  'UpdateStmt',
  'DeleteStmt',
  'MergeStmt',
  'CreateTableAsStmt',
  'ViewStmt',
  'CopyStmt',
  'CreateFunctionStmt',
];
const WRITES = ['InsertStmt', 'UpdateStmt', 'DeleteStmt', 'MergeStmt'];

/** The names of a type as it was written: `core.ship`, `"Odd Name"."T"`. */
const namesIn = (type: string): string[] =>
  (type.match(/"(?:[^"]|"")*"|[^."\s]+/g) ?? []).map((name) =>
    name.startsWith('"') ? name.slice(1, -1).replaceAll('""', '"') : name.toLowerCase(),
  );

/** The one expression of `SELECT expression`. */
function onlyTarget(node: Node): Node | undefined {
  const [target] = 'SelectStmt' in node ? (node.SelectStmt.targetList ?? []) : [];
  return target && 'ResTarget' in target ? target.ResTarget.val : undefined;
}

/** Parameters by number as columns of the scope around: `$1` is what stands first behind USING. */
function withParameters(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withParameters);
  if (value === null || typeof value !== 'object') return value;
  if ('ParamRef' in value)
    return {
      ColumnRef: {
        fields: [{ String: { sval: `$${(value as { ParamRef: { number?: number } }).ParamRef.number ?? 0}` } }],
      },
    };
  return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, withParameters(inner)]));
}
