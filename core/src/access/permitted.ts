/**
 * What a statement may be made of. Everything is refused that does not stand here: kinds of syntax nodes with the fields each may have,
 * types. A new kind of node of a later PostgreSQL is thereby refused until somebody has thought about it.
 */
const fields = (text: string) => new Set(text.split(/\s+/).filter(Boolean));

/** Node kinds → the fields that may be set in them. */
export const PERMITTED_NODES: ReadonlyMap<string, ReadonlySet<string>> = new Map(
  Object.entries({
    SelectStmt:
      'distinctClause targetList fromClause whereClause groupClause groupDistinct havingClause windowClause valuesLists sortClause limitOffset limitCount limitOption withClause op all larg rarg',
    WithClause: 'ctes recursive location',
    CommonTableExpr: 'ctename aliascolnames ctematerialized ctequery location cterecursive search_clause cycle_clause',
    CTESearchClause: 'search_col_list search_breadth_first search_seq_column location',
    CTECycleClause: 'cycle_col_list cycle_mark_column cycle_mark_value cycle_mark_default cycle_path_column location',
    ResTarget: 'name val location',
    ColumnRef: 'fields location',
    A_Star: '',
    A_Const: 'isnull ival fval boolval sval bsval val location',
    A_Expr: 'kind name lexpr rexpr location rexpr_list_start rexpr_list_end',
    BoolExpr: 'boolop args location',
    NullTest: 'arg nulltesttype argisrow location',
    BooleanTest: 'arg booltesttype location',
    CaseExpr: 'arg args defresult location',
    CaseWhen: 'expr result location',
    CoalesceExpr: 'args location',
    MinMaxExpr: 'op args location',
    FuncCall:
      'funcname args agg_order agg_filter over agg_within_group agg_star agg_distinct func_variadic funcformat location',
    NamedArgExpr: 'arg name argnumber location',
    WindowDef: 'name refname partitionClause orderClause frameOptions startOffset endOffset location',
    SortBy: 'node sortby_dir sortby_nulls useOp location',
    SubLink: 'subLinkType testexpr operName subselect location',
    TypeCast: 'arg typeName location',
    TypeName: 'names typmods typemod arrayBounds location',
    A_ArrayExpr: 'elements location list_start list_end',
    RowExpr: 'args row_format location',
    A_Indirection: 'arg indirection',
    A_Indices: 'is_slice lidx uidx',
    CollateClause: 'arg collname location',
    GroupingSet: 'kind content location',
    GroupingFunc: 'args location',
    SQLValueFunction: 'op typmod location',
    RangeVar: 'schemaname relname inh relpersistence alias location',
    RangeSubselect: 'lateral subquery alias',
    RangeFunction: 'lateral ordinality is_rowsfrom functions alias coldeflist',
    ColumnDef: 'colname typeName is_local collClause location',
    RangeTableSample: 'relation method args repeatable location',
    JsonIsPredicate: 'expr format item_type unique_keys location',
    JsonFormat: 'format_type encoding location',
    JoinExpr: 'jointype isNatural larg rarg usingClause join_using_alias quals alias rtindex',
    Alias: 'aliasname colnames',
    List: 'items',
    String: 'sval',
    Integer: 'ival',
    Float: 'fval',
    Boolean: 'boolval',
    BitString: 'bsval',
  }).map(([kind, names]) => [kind, fields(names)]),
);

/** Fields whose value is a node written without its kind, and what kind that is. */
export const UNWRAPPED: Readonly<Record<string, string>> = {
  withClause: 'WithClause',
  alias: 'Alias',
  join_using_alias: 'Alias',
  typeName: 'TypeName',
  collClause: 'CollateClause',
  search_clause: 'CTESearchClause',
  cycle_clause: 'CTECycleClause',
  format: 'JsonFormat',
  over: 'WindowDef',
  ival: 'Integer',
  fval: 'Float',
  boolval: 'Boolean',
  sval: 'String',
  bsval: 'BitString',
};

/** Types a value may be turned into. Those that look a name up in the catalog (regclass, regrole …) do not stand here. */
export const PERMITTED_TYPES: ReadonlySet<string> = fields(`
  text varchar bpchar char name int2 int4 int8 smallint integer bigint numeric decimal float4 float8 real bool boolean date time timetz timestamp timestamptz interval
  uuid json jsonb jsonpath bytea bit varbit inet cidr macaddr macaddr8 money tsvector tsquery regconfig regdictionary oid point line lseg box path polygon circle
  int4range int8range numrange daterange tsrange tstzrange int4multirange int8multirange nummultirange datemultirange tsmultirange tstzmultirange`);

/** Values that SQL gives without brackets: only those that tell the time. */
export const PERMITTED_VALUE_FUNCTIONS: ReadonlySet<string> = fields(`
  SVFOP_CURRENT_DATE SVFOP_CURRENT_TIME SVFOP_CURRENT_TIME_N SVFOP_CURRENT_TIMESTAMP SVFOP_CURRENT_TIMESTAMP_N SVFOP_LOCALTIME SVFOP_LOCALTIME_N SVFOP_LOCALTIMESTAMP SVFOP_LOCALTIMESTAMP_N`);
