/// <reference path="./lz4js.d.ts" />
import { open } from 'node:fs/promises';
import { CompressionType, compressionRegistry, DataType, RecordBatchReader } from 'apache-arrow';
import { decompress as unpackZstd } from 'fzstd';
import { decompressBound, decompress as unpackLz4 } from 'lz4js';

/** One column of one batch, unpacked. */
const MOST_UNPACKED = 256 * 1024 * 1024;

const within = (bytes: number): void => {
  if (bytes > MOST_UNPACKED)
    throw new Error(`A column grows to more than ${MOST_UNPACKED / 1024 / 1024} MB when unpacked.`);
};
compressionRegistry.set(CompressionType.LZ4_FRAME, {
  decode: (bytes) => {
    within(decompressBound(bytes));
    return Uint8Array.from(unpackLz4(bytes));
  },
});
compressionRegistry.set(CompressionType.ZSTD, {
  decode: (bytes) => {
    const unpacked = unpackZstd(bytes);
    within(unpacked.length);
    return unpacked;
  },
});

/** Words of 32 bits, the lowest first, in two's complement, as a number with so many digits behind the point. */
function decimal(words: Uint32Array, scale: number): string {
  let whole = 0n;
  for (let at = words.length - 1; at >= 0; at -= 1) whole = (whole << 32n) | BigInt(words[at] ?? 0);
  if ((words.at(-1) ?? 0) >= 2 ** 31) whole -= 1n << BigInt(32 * words.length);
  const digits = (whole < 0n ? -whole : whole).toString().padStart(scale + 1, '0');
  return `${whole < 0n ? '-' : ''}${digits.slice(0, digits.length - scale)}${scale > 0 ? `.${digits.slice(digits.length - scale)}` : ''}`;
}

const PER_SECOND = [1, 1000, 1_000_000, 1_000_000_000];
/** A time of the day, in the units that its type says. */
const clock = (value: number | bigint, unit: number) =>
  new Date((Number(value) / (PER_SECOND[unit] ?? 1000)) * 1000)
    .toISOString()
    .slice(11, -1)
    .replace(/\.000$/, '');

/** A value as JSON has it: times as ISO 8601 writes them, lists and structures within. Bytes are not shown. */
function plain(value: unknown, type: DataType): unknown {
  if (
    value === null ||
    value === undefined ||
    DataType.isBinary(type) ||
    DataType.isLargeBinary(type) ||
    DataType.isFixedSizeBinary(type)
  )
    return null;
  if (DataType.isDictionary(type)) return plain(value, type.dictionary);
  if (DataType.isDate(type)) return new Date(Number(value)).toISOString().slice(0, 10);
  if (DataType.isTimestamp(type)) return new Date(Number(value)).toISOString().replace(/\.000Z$/, 'Z');
  if (DataType.isTime(type)) return clock(value as number | bigint, type.unit);
  if (DataType.isDecimal(type)) return decimal(value as Uint32Array, type.scale);
  if (DataType.isList(type) || DataType.isFixedSizeList(type))
    return [...(value as Iterable<unknown>)].map((item) => plain(item, type.children[0]?.type as DataType));
  if (DataType.isMap(type)) {
    const held = type.children[0]?.type.children[1]?.type as DataType;
    return Object.fromEntries(
      [...(value as Iterable<[unknown, unknown]>)].map(([key, item]) => [String(key), plain(item, held)]),
    );
  }
  if (DataType.isStruct(type)) {
    const row = value as Record<string, unknown>;
    return Object.fromEntries(
      type.children.map((field) => [field.name, plain(row[field.name], field.type as DataType)]),
    );
  }
  return value;
}

/**
 * Rows of an Arrow file or stream, which is what Feather writes since its second version (Apache Arrow, “IPC format”); batch by batch.
 * @throws when it is none, or packed in a way that is not read
 */
export async function* arrowRows(path: string): AsyncGenerator<Record<string, unknown>> {
  const file = await open(path);
  // The reader closes its own when it comes to the end, which it need not.
  const read = await open(path);
  try {
    const begin = Buffer.alloc(4);
    await file.read(begin, 0, 4, 0);
    if (begin.toString('latin1') === 'FEA1')
      throw new Error(
        'It is Feather of the first version, which is not read. Write it anew as Arrow or Feather 2, or as Parquet.',
      );
    const reader = await RecordBatchReader.from(read);
    await reader.open().catch((error: Error) => {
      throw new Error(`It is no Arrow file, or is cut off: ${error.message}`);
    });
    if (!reader.schema) throw new Error('It is no Arrow file, or ends before its schema does.');
    const taken = new Set<string>();
    const names = reader.schema.fields.map(({ name }, index) => {
      // Several columns may have one name, and a row of JSON has each once.
      const own = taken.has(name) ? `${name} (${index + 1})` : name || `column ${index + 1}`;
      taken.add(own);
      return own;
    });
    for await (const batch of reader)
      for (let row = 0; row < batch.numRows; row += 1)
        yield Object.fromEntries(
          batch.schema.fields.map((field, index) => [
            names[index] ?? '',
            plain(batch.getChildAt(index)?.get(row), field.type as DataType),
          ]),
        );
  } finally {
    await file.close();
    await read.close().catch(() => undefined);
  }
}
