import { inflateRaw } from 'node:zlib';
import avro from 'avsc';

/** One block of an Avro file, unpacked. */
const AVRO_BLOCK = 64 * 1024 * 1024;

/** Numbers that say a time, as the Avro specification calls them (section “Logical Types”). */
const time = (perSecond: number) =>
  class extends avro.types.LogicalType {
    override _fromValue(value: number) {
      return new Date((value / perSecond) * 1000)
        .toISOString()
        .replace(perSecond === 1 / 86_400 ? /T.*$/ : /\.000Z$/, '');
    }
    override _toValue(): undefined {
      return undefined; // nothing is written
    }
    override _resolve(): undefined {
      return undefined;
    }
  };
const LOGICAL = {
  date: time(1 / 86_400),
  'timestamp-millis': time(1000),
  'timestamp-micros': time(1_000_000),
  'local-timestamp-millis': time(1000),
  'local-timestamp-micros': time(1_000_000),
};

/** Rows of an Avro object container file; a value that is no record stands in a column of its own. */
export async function* avroRows(path: string): AsyncGenerator<Record<string, unknown>> {
  const inflate = (bytes: Buffer, done: (error: Error | null, unpacked: Buffer) => void) =>
    inflateRaw(bytes, { maxOutputLength: AVRO_BLOCK }, done);
  const decoder = avro.createFileDecoder(path, {
    codecs: { deflate: inflate },
    parseHook: (schema: avro.Schema) => avro.Type.forSchema(schema, { logicalTypes: LOGICAL }),
  } as never);
  let known = false;
  decoder.on('metadata', () => {
    known = true;
  });
  for await (const value of decoder as AsyncIterable<unknown>) {
    yield value !== null && typeof value === 'object' && !Buffer.isBuffer(value)
      ? (value as Record<string, unknown>)
      : { value };
  }
  if (!known) throw new Error('It is no Avro file, or ends before its schema does.');
}
