/** The content of a file as base64, as the API takes it. */
export async function toBase64(file: File): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let text = '';
  for (let from = 0; from < bytes.length; from += 8192)
    text += String.fromCharCode(...bytes.subarray(from, from + 8192));
  return btoa(text);
}

/** What files of examples and lists end with. */
export const EXAMPLE_FILES = '.csv,.tsv,.xlsx,.json,.ndjson,.parquet,.avro,.arrow,.feather,.txt,.gz';
