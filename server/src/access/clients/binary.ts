/** Days and microseconds from 1970 to 2000, from where PostgreSQL counts. */
const EPOCH_DAYS = 10_957;
const EPOCH_MICROS = 946_684_800_000_000n;

const sized = (length: number, write: (bytes: Buffer) => void): Buffer => {
  const bytes = Buffer.alloc(length);
  write(bytes);
  return bytes;
};
/** Microseconds since 2000 of a moment as PostgreSQL writes it in UTC. */
function micros(value: string): bigint {
  const [, moment = '', fraction = ''] = /^(.*?)(?:\.(\d{1,6}))?(?:[+-]00(?::?00)?)?$/.exec(value) ?? [];
  return (
    BigInt(Date.parse(`${moment.replace(' ', 'T')}Z`)) * 1000n - EPOCH_MICROS + BigInt(fraction.padEnd(6, '0') || '0')
  );
}
const text = (value: string): Buffer => Buffer.from(value);

/** How values of types go over as binary, by the type's number (documentation of PostgreSQL; `*send` of each type). */
export const BINARY: ReadonlyMap<
  number,
  { readonly write: (value: string) => Buffer; readonly read: (bytes: Buffer) => string }
> = new Map([
  [16, { write: (value) => Buffer.from([value === 't' ? 1 : 0]), read: (bytes) => (bytes[0] ? 't' : 'f') }],
  [
    17,
    {
      write: (value) => Buffer.from(value.replace(/^\\x/, ''), 'hex'),
      read: (bytes) => `\\x${bytes.toString('hex')}`,
    },
  ],
  [
    20,
    {
      write: (value) => sized(8, (to) => to.writeBigInt64BE(BigInt(value))),
      read: (bytes) => String(bytes.readBigInt64BE()),
    },
  ],
  [
    21,
    {
      write: (value) => sized(2, (to) => to.writeInt16BE(Number(value))),
      read: (bytes) => String(bytes.readInt16BE()),
    },
  ],
  [
    23,
    {
      write: (value) => sized(4, (to) => to.writeInt32BE(Number(value))),
      read: (bytes) => String(bytes.readInt32BE()),
    },
  ],
  [
    26,
    {
      write: (value) => sized(4, (to) => to.writeUInt32BE(Number(value))),
      read: (bytes) => String(bytes.readUInt32BE()),
    },
  ],
  [
    700,
    {
      write: (value) => sized(4, (to) => to.writeFloatBE(Number(value))),
      read: (bytes) => String(bytes.readFloatBE()),
    },
  ],
  [
    701,
    {
      write: (value) => sized(8, (to) => to.writeDoubleBE(Number(value))),
      read: (bytes) => String(bytes.readDoubleBE()),
    },
  ],
  ...[18, 19, 25, 114, 705, 1042, 1043].map(
    (id) => [id, { write: text, read: (bytes: Buffer) => bytes.toString('utf8') }] as const,
  ),
  [
    1082,
    {
      write: (value: string) =>
        sized(4, (to) => to.writeInt32BE(Date.parse(`${value}T00:00:00Z`) / 86_400_000 - EPOCH_DAYS)),
      read: (bytes: Buffer) => new Date((bytes.readInt32BE() + EPOCH_DAYS) * 86_400_000).toISOString().slice(0, 10),
    },
  ],
  ...[1114, 1184].map(
    (id) =>
      [
        id,
        {
          write: (value: string) => sized(8, (to) => to.writeBigInt64BE(micros(value))),
          read: (bytes: Buffer) => {
            const all = bytes.readBigInt64BE() + EPOCH_MICROS;
            const [whole, part] = [all / 1000n, all % 1000n];
            return `${new Date(Number(whole)).toISOString().slice(0, -1)}${String(part).padStart(3, '0')}${id === 1184 ? '+00' : ''}`;
          },
        },
      ] as const,
  ),
  [
    2950,
    {
      write: (value: string) => Buffer.from(value.replaceAll('-', ''), 'hex'),
      read: (bytes: Buffer) => bytes.toString('hex').replace(/^(.{8})(.{4})(.{4})(.{4})/, '$1-$2-$3-$4-'),
    },
  ],
]);
