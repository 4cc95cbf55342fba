/**
 * What a statement may be made of. Everything is refused that does not stand here: kinds of syntax nodes with the fields each may have,
 * functions, types. A new kind of node of a later PostgreSQL is thereby refused until somebody has thought about it.
 */
const fields = (text: string) => new Set(text.split(/\s+/).filter(Boolean));

/** Node kinds → the fields that may be set in them. */
export const PERMITTED_NODES: ReadonlyMap<string, ReadonlySet<string>> = new Map(
  Object.entries({
    SelectStmt:
      'distinctClause targetList fromClause whereClause groupClause groupDistinct havingClause windowClause valuesLists sortClause limitOffset limitCount limitOption withClause op all larg rarg',
    WithClause: 'ctes recursive location',
    CommonTableExpr: 'ctename aliascolnames ctematerialized ctequery location cterecursive',
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
    FuncCall: 'funcname args agg_order agg_filter over agg_within_group agg_star agg_distinct func_variadic funcformat location',
    WindowDef: 'name refname partitionClause orderClause frameOptions startOffset endOffset location',
    SortBy: 'node sortby_dir sortby_nulls location',
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
    RangeFunction: 'lateral ordinality functions alias',
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
  over: 'WindowDef',
  ival: 'Integer',
  fval: 'Float',
  boolval: 'Boolean',
  sval: 'String',
  bsval: 'BitString',
};

/** Functions of PostgreSQL that compute from their arguments alone: no catalog, no settings, no files, no other statements. */
export const PERMITTED_FUNCTIONS: ReadonlySet<string> = fields(`
  count sum avg min max any_value array_agg string_agg bool_and bool_or every bit_and bit_or stddev stddev_pop stddev_samp variance var_pop var_samp
  corr covar_pop covar_samp regr_slope regr_intercept regr_r2 regr_count mode percentile_cont percentile_disc json_agg jsonb_agg json_object_agg jsonb_object_agg
  row_number rank dense_rank percent_rank cume_dist ntile lag lead first_value last_value nth_value
  abs ceil ceiling floor round trunc sqrt cbrt power exp ln log mod sign div gcd lcm degrees radians sin cos tan asin acos atan atan2 pi random width_bucket greatest least
  lower upper initcap length char_length character_length octet_length bit_length trim btrim ltrim rtrim left right substr substring position strpos overlay replace translate
  concat concat_ws repeat reverse split_part lpad rpad ascii chr starts_with format md5 regexp_replace regexp_match regexp_matches regexp_split_to_array regexp_split_to_table
  regexp_count regexp_like regexp_substr regexp_instr string_to_array string_to_table array_to_string quote_literal quote_ident quote_nullable to_hex encode decode sha256 sha512 unaccent
  to_char to_date to_timestamp to_number date_trunc date_part extract age now make_date make_time make_timestamp make_interval justify_days justify_hours justify_interval
  isfinite timezone date_bin clock_timestamp statement_timestamp transaction_timestamp overlaps
  array_length array_position array_positions array_append array_prepend array_cat array_remove array_replace array_dims array_lower array_upper cardinality unnest generate_series generate_subscripts
  to_json to_jsonb row_to_json json_build_object jsonb_build_object json_build_array jsonb_build_array json_array_length jsonb_array_length json_typeof jsonb_typeof
  json_extract_path json_extract_path_text jsonb_extract_path jsonb_extract_path_text json_array_elements jsonb_array_elements json_array_elements_text jsonb_array_elements_text
  json_each jsonb_each json_each_text jsonb_each_text json_object_keys jsonb_object_keys jsonb_pretty jsonb_set jsonb_strip_nulls json_strip_nulls array_to_json json_object jsonb_object
  coalesce nullif num_nulls num_nonnulls like_escape hashtext text numeric int4 int8 int2 float8 float4 bool date varchar bpchar timestamp timestamptz interval
  grouping lower_inc upper_inc isempty bit_count like notlike ilike similar_to_escape`);

/** Types a value may be turned into. Those that look a name up in the catalog (regclass, regrole …) do not stand here. */
export const PERMITTED_TYPES: ReadonlySet<string> = fields(`
  text varchar bpchar char name int2 int4 int8 smallint integer bigint numeric decimal float4 float8 real bool boolean date time timetz timestamp timestamptz interval
  uuid json jsonb bytea bit varbit inet cidr macaddr money int4range int8range numrange daterange tsrange tstzrange`);

/** Values that SQL gives without brackets: only those that tell the time. */
export const PERMITTED_VALUE_FUNCTIONS: ReadonlySet<string> = fields(`
  SVFOP_CURRENT_DATE SVFOP_CURRENT_TIME SVFOP_CURRENT_TIME_N SVFOP_CURRENT_TIMESTAMP SVFOP_CURRENT_TIMESTAMP_N SVFOP_LOCALTIME SVFOP_LOCALTIME_N SVFOP_LOCALTIMESTAMP SVFOP_LOCALTIMESTAMP_N`);
