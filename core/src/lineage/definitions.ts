import type { AlterTableCmd, Node, TypeName } from '@pgsql/types';
import { newRelation } from './made.ts';
import { textOf, textsOf } from './nodes.ts';
import type { SchemaCatalog } from './schema.ts';

/**
 * Applies a statement that defines tables (CREATE TABLE, ALTER TABLE, RENAME, DROP, SET search_path) to what is known.
 *
 * @returns true when the statement was of that sort, so that nothing else has to be read from it
 */
export function applyDefinition(catalog: SchemaCatalog, node: Node): boolean {
  if ('CreateStmt' in node) {
    const { relation, tableElts = [], inhRelations = [] } = node.CreateStmt;
    const inherited = inhRelations.flatMap((parent) =>
      'RangeVar' in parent ? columnsOf(catalog, parent.RangeVar) : [],
    );
    const own = tableElts.flatMap((element) => {
      if ('ColumnDef' in element) return element.ColumnDef.colname ?? [];
      return 'TableLikeClause' in element && element.TableLikeClause.relation
        ? columnsOf(catalog, element.TableLikeClause.relation)
        : [];
    });
    const { schema, relation: name } = newRelation(catalog, relation);
    catalog.addRelation({
      schema,
      name,
      columns: [...new Set([...inherited, ...own])],
      types: Object.fromEntries(
        tableElts.flatMap((element) =>
          'ColumnDef' in element && element.ColumnDef.colname
            ? [[element.ColumnDef.colname, typeText(element.ColumnDef.typeName)]]
            : [],
        ),
      ),
    });
    return true;
  }
  if ('CreateForeignTableStmt' in node)
    return node.CreateForeignTableStmt.base
      ? applyDefinition(catalog, { CreateStmt: node.CreateForeignTableStmt.base })
      : true;
  if ('AlterTableStmt' in node) {
    const { relation, cmds = [] } = node.AlterTableStmt;
    for (const cmd of cmds) if ('AlterTableCmd' in cmd && relation) alter(catalog, relation, cmd.AlterTableCmd);
    return true;
  }
  if ('RenameStmt' in node) {
    const { relation, subname, newname = '', renameType } = node.RenameStmt;
    const known = relation && catalog.relation(relation.schemaname, relation.relname ?? '');
    if (!known) return true;
    if (renameType === 'OBJECT_COLUMN') {
      const { [subname ?? '']: type, ...types } = known.types ?? {};
      catalog.addRelation({
        ...known,
        columns: known.columns.map((column) => (column === subname ? newname : column)),
        types: type === undefined ? types : { ...types, [newname]: type },
      });
    } else {
      catalog.removeRelation(known.schema, known.name);
      catalog.addRelation({ ...known, name: newname });
    }
    return true;
  }
  if ('CompositeTypeStmt' in node) {
    const { typevar, coldeflist = [] } = node.CompositeTypeStmt;
    catalog.addType(
      typevar?.schemaname ?? catalog.defaultSchema,
      typevar?.relname ?? '',
      coldeflist.flatMap((column) =>
        'ColumnDef' in column && column.ColumnDef.colname ? [column.ColumnDef.colname] : [],
      ),
    );
    return true;
  }
  if ('AlterObjectSchemaStmt' in node) {
    const { relation, newschema = '' } = node.AlterObjectSchemaStmt;
    const known = relation && catalog.relation(relation.schemaname, relation.relname ?? '');
    if (!known) return true;
    catalog.removeRelation(known.schema, known.name);
    catalog.addRelation({ ...known, schema: newschema });
    return true;
  }
  if ('VariableSetStmt' in node) {
    const { name, kind, args = [] } = node.VariableSetStmt;
    if (kind === 'VAR_RESET_ALL' || (name === 'search_path' && kind !== 'VAR_SET_VALUE')) catalog.setSearchPath(null);
    else if (name === 'search_path') catalog.setSearchPath(args.flatMap((arg) => schemasIn(constantText(arg) ?? '')));
    return true;
  }
  if ('SelectStmt' in node) return setsSearchPath(catalog, node);
  if ('DropStmt' in node) {
    const { removeType, objects = [] } = node.DropStmt;
    if (!['OBJECT_TABLE', 'OBJECT_VIEW', 'OBJECT_MATVIEW', 'OBJECT_FOREIGN_TABLE'].includes(removeType ?? ''))
      return true;
    for (const object of objects) {
      const names = 'List' in object ? textsOf(object.List.items) : [textOf(object) ?? ''];
      catalog.removeRelation(names.at(-2), names.at(-1) ?? '');
    }
    return true;
  }
  return false;
}

/**
 * Learns what a function gives, from the statement that makes it: columns by RETURNS TABLE or OUT, the row type of a table or of a composite type.
 * What its body does is another matter.
 */
export function learnFunction(catalog: SchemaCatalog, node: Node): void {
  if (!('CreateFunctionStmt' in node)) return;
  const { funcname, parameters = [], returnType } = node.CreateFunctionStmt;
  const names = textsOf(funcname);
  const given = parameters.flatMap((parameter) =>
    'FunctionParameter' in parameter &&
    ['FUNC_PARAM_OUT', 'FUNC_PARAM_INOUT', 'FUNC_PARAM_TABLE'].includes(parameter.FunctionParameter.mode ?? '')
      ? [parameter.FunctionParameter.name ?? '']
      : [],
  );
  const type = textsOf(returnType?.names);
  const composite = catalog.type(type.at(-2), type.at(-1) ?? '');
  const relation = type.length > 0 && !composite ? catalog.relation(type.at(-2), type.at(-1) ?? '') : undefined;
  const columns = given.length > 1 ? given : composite;
  catalog.addFunction({
    schema: names.at(-2) ?? catalog.defaultSchema,
    name: names.at(-1) ?? '',
    aggregate: false,
    ...(columns ? { columns } : {}),
    ...(relation ? { returns: { schema: relation.schema, relation: relation.name } } : {}),
  });
}

const constantText = (node: Node | undefined): string | undefined =>
  node && 'A_Const' in node ? node.A_Const.sval?.sval : undefined;

/** The schemas of a search path as it is written in one text; the one named after the person who runs it is not known. */
const schemasIn = (text: string): string[] =>
  text
    .split(',')
    .map((name) => name.trim().replace(/^"(.*)"$/, '$1'))
    .filter((name) => name !== '' && name !== '$user');

/** `SELECT set_config('search_path', …)`, as dumps write it. */
function setsSearchPath(
  catalog: SchemaCatalog,
  { SelectStmt: select }: Extract<Node, { SelectStmt: unknown }>,
): boolean {
  const [target, ...more] = select.targetList ?? [];
  const call = target && 'ResTarget' in target ? target.ResTarget.val : undefined;
  if (more.length > 0 || select.fromClause || !call || !('FuncCall' in call)) return false;
  const [name, value] = (call.FuncCall.args ?? []).map(constantText);
  if (textsOf(call.FuncCall.funcname).at(-1) !== 'set_config' || name !== 'search_path' || value === undefined)
    return false;
  catalog.setSearchPath(schemasIn(value));
  return true;
}

const columnsOf = (catalog: SchemaCatalog, range: { schemaname?: string; relname?: string }): readonly string[] =>
  catalog.relation(range.schemaname, range.relname ?? '')?.columns ?? [];

function alter(catalog: SchemaCatalog, range: { schemaname?: string; relname?: string }, cmd: AlterTableCmd): void {
  const known = catalog.relation(range.schemaname, range.relname ?? '');
  if (!known) return;
  if (cmd.subtype === 'AT_AddColumn' && cmd.def && 'ColumnDef' in cmd.def && cmd.def.ColumnDef.colname) {
    const { colname, typeName } = cmd.def.ColumnDef;
    catalog.addRelation({
      ...known,
      columns: [...new Set([...known.columns, colname])],
      types: { ...known.types, [colname]: typeText(typeName) },
    });
  }
  if (cmd.subtype === 'AT_AlterColumnType' && cmd.def && 'ColumnDef' in cmd.def && cmd.name)
    catalog.addRelation({ ...known, types: { ...known.types, [cmd.name]: typeText(cmd.def.ColumnDef.typeName) } });
  if (cmd.subtype === 'AT_DropColumn')
    catalog.addRelation({ ...known, columns: known.columns.filter((column) => column !== cmd.name) });
}

/** A type in words, so that equal ones read equal: `numeric(9,2)`, `text[]`. */
function typeText(type: TypeName | undefined): string {
  const name = textsOf(type?.names)
    .filter((part) => part !== 'pg_catalog')
    .join('.');
  const given = (type?.typmods ?? []).map((node) =>
    'A_Const' in node ? String(node.A_Const.ival?.ival ?? node.A_Const.sval?.sval ?? 0) : '…',
  );
  return `${name}${given.length > 0 ? `(${given.join(',')})` : ''}${'[]'.repeat((type?.arrayBounds ?? []).length)}`;
}
