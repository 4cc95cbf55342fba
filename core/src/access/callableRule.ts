import type { FunctionFact } from './callables.ts';

/**
 * The rule by which functions of PostgreSQL's own schema are decided on. It proposes; what it proposed, and a person then read, stands in
 * data/callables.json, and only that file is asked when a statement is looked at. So a function of a later server is refused until somebody
 * has run the rule on it and read the outcome.
 */
const words = (text: string) => new Set(text.split(/\s+/).filter(Boolean));

/** Types that only the server's own machinery, its catalog or other sessions deal in. */
const MACHINERY =
  words(`internal cstring trigger event_trigger language_handler fdw_handler index_am_handler table_am_handler tsm_handler refcursor aclitem _aclitem
  regclass regcollation regnamespace regoper regoperator regproc regprocedure regrole regtype _regtype pg_snapshot txid_snapshot pg_ddl_command pg_node_tree pg_mcv_list
  pg_ndistinct pg_dependencies pg_brin_bloom_summary pg_brin_minmax_multi_summary gtsvector xml _xml unknown`);

/** Whether a function deals in machinery: such are refused wherever they stand, and not listed. */
export const isMachinery = (fact: Pick<FunctionFact, 'args' | 'result'>): boolean =>
  [...fact.args.split(','), fact.result].some(
    (type) => ['internal', 'cstring'].includes(type) || /_handler$|^(event_)?trigger$/.test(type),
  );

/** Immutable, and yet not a computation over its arguments alone, or one that nobody needs in a question about data. */
const IMMUTABLE_REFUSED = words(
  'satisfies_hash_partition pg_indexam_progress_phasename pg_encoding_max_length pg_walfile_name pg_walfile_name_offset postgresql_fdw_validator ts_parse ts_token_type',
);

/** Stable or volatile, and yet a computation: over the arguments, the time, chance, or the text-search configuration that is named. */
const STABLE_ALLOWED =
  words(`now clock_timestamp statement_timestamp transaction_timestamp timeofday random gen_random_uuid age date_part date_trunc extract timezone overlaps generate_series in_range
  make_timestamptz to_char to_date to_timestamp to_number date time timetz timestamp timestamptz money numeric
  array_to_json array_to_string array_agg concat concat_ws format quote_literal quote_nullable textanycat anytextcat convert convert_from convert_to length
  enum_first enum_last enum_range to_json to_jsonb row_to_json json_agg jsonb_agg json_object_agg jsonb_object_agg json_build_array json_build_object jsonb_build_array jsonb_build_object
  json_populate_record json_populate_recordset json_to_record json_to_recordset jsonb_populate_record jsonb_populate_recordset jsonb_to_record jsonb_to_recordset
  jsonb_path_exists_tz jsonb_path_match_tz jsonb_path_query_tz jsonb_path_query_array_tz jsonb_path_query_first_tz
  to_tsvector to_tsquery plainto_tsquery phraseto_tsquery websearch_to_tsquery json_to_tsvector jsonb_to_tsvector ts_headline ts_match_tq ts_match_tt pg_typeof pg_column_size`);

/** Allowed, though one of its types is machinery: the name of a type is told, or an XML value as it is written. */
const HARMLESS = words('pg_typeof(any) text(xml)');

/**
 * @param behindOperator whether an operator of PostgreSQL's own schema stands for the function: those compare and compute, also over types of machinery
 */
export function proposed(fact: FunctionFact, behindOperator: boolean): 'allowed' | 'refused' {
  if (isMachinery(fact)) return 'refused';
  if (fact.volatility !== 'v' && behindOperator) return 'allowed';
  if (HARMLESS.has(`${fact.name}(${fact.args})`)) return 'allowed';
  if ([...fact.args.split(','), fact.result].some((type) => MACHINERY.has(type))) return 'refused';
  if (fact.volatility === 'i') return IMMUTABLE_REFUSED.has(fact.name) ? 'refused' : 'allowed';
  return STABLE_ALLOWED.has(fact.name) ? 'allowed' : 'refused';
}
