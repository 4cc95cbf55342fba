/** What files of examples and lists end with. */
export const EXAMPLE_FILES = '.csv,.tsv,.xlsx,.json,.ndjson,.parquet,.avro,.arrow,.feather,.txt,.gz';
