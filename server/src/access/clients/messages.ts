/**
 * Messages of PostgreSQL's protocol 3.0 (documentation of PostgreSQL, chapters "Message Formats" and "Message Flow"): what a client sends is read, what it is
 * answered is written. Texts are UTF-8, numbers big-endian.
 */

/** What a client says before anything else. */
export type Opening =
  | { readonly kind: 'encrypt'; readonly how: 'tls' | 'gss' }
  | { readonly kind: 'cancel'; readonly session: number; readonly secret: number }
  | { readonly kind: 'start'; readonly said: ReadonlyMap<string, string> };

export type Sent =
  | { readonly kind: 'password'; readonly text: string }
  | { readonly kind: 'query'; readonly sql: string }
  | { readonly kind: 'parse'; readonly name: string; readonly sql: string; readonly types: readonly number[] }
  | {
      readonly kind: 'bind';
      readonly portal: string;
      readonly statement: string;
      /** Whether each value comes as binary; one for all, or none: all are texts. */
      readonly binary: readonly boolean[];
      readonly values: readonly (Buffer | null)[];
      readonly wanted: readonly boolean[];
    }
  | { readonly kind: 'describe' | 'close'; readonly what: 'statement' | 'portal'; readonly name: string }
  /** `most` rows; 0: all. */
  | { readonly kind: 'execute'; readonly portal: string; readonly most: number }
  | { readonly kind: 'sync' }
  | { readonly kind: 'flush' }
  | { readonly kind: 'end' }
  /** A message that this server does not take, by its letter. */
  | { readonly kind: 'other'; readonly letter: string };

/** What a client sent breaks the protocol: there is no way to go on with it. */
export class ProtocolError extends Error {
  constructor(message: string) {
    super(message);
    this.name = 'ProtocolError';
  }
}

/** The largest message before somebody has signed in, and after that, in bytes. */
const OPENING_MOST = 10_000;
const MESSAGE_MOST = 4 << 20;
const [VERSION, CANCEL, TLS, GSS] = [196_608, 80_877_102, 80_877_103, 80_877_104];

/** Reads one message's parts in their order. */
class Reader {
  readonly #bytes: Buffer;
  #at = 0;

  constructor(bytes: Buffer) {
    this.#bytes = bytes;
  }

  #take(length: number): number {
    const at = this.#at;
    if (length < 0 || at + length > this.#bytes.length) throw new ProtocolError('a message is shorter than it says');
    this.#at += length;
    return at;
  }

  int16(): number {
    return this.#bytes.readInt16BE(this.#take(2));
  }

  int32(): number {
    return this.#bytes.readInt32BE(this.#take(4));
  }

  letter(): string {
    return String.fromCharCode(this.#bytes[this.#take(1)] ?? 0);
  }

  text(): string {
    const end = this.#bytes.indexOf(0, this.#at);
    if (end < 0) throw new ProtocolError('a text in a message does not end');
    const text = this.#bytes.toString('utf8', this.#at, end);
    this.#at = end + 1;
    return text;
  }

  bytes(length: number): Buffer {
    const at = this.#take(length);
    return this.#bytes.subarray(at, at + length);
  }

  list<T>(read: () => T): T[] {
    const count = this.int16();
    return Array.from({ length: Math.max(0, count) }, read);
  }
}

function readOpening(reader: Reader): Opening {
  const code = reader.int32();
  if (code === TLS) return { kind: 'encrypt', how: 'tls' };
  if (code === GSS) return { kind: 'encrypt', how: 'gss' };
  if (code === CANCEL) return { kind: 'cancel', session: reader.int32(), secret: reader.int32() };
  if (code >>> 16 !== VERSION >>> 16) throw new ProtocolError(`protocol ${code >>> 16}.${code & 0xffff} is not spoken`);
  const said = new Map<string, string>();
  for (let name = reader.text(); name !== ''; name = reader.text()) said.set(name, reader.text());
  return { kind: 'start', said };
}

const KINDS = { S: 'statement', P: 'portal' } as const;
function named(reader: Reader): { what: 'statement' | 'portal'; name: string } {
  const what = KINDS[reader.letter() as keyof typeof KINDS];
  if (!what) throw new ProtocolError('neither a statement nor a portal is named');
  return { what, name: reader.text() };
}

function readSent(letter: string, reader: Reader): Sent {
  switch (letter) {
    case 'p':
      return { kind: 'password', text: reader.text() };
    case 'Q':
      return { kind: 'query', sql: reader.text() };
    case 'P':
      return { kind: 'parse', name: reader.text(), sql: reader.text(), types: reader.list(() => reader.int32()) };
    case 'B':
      return {
        kind: 'bind',
        portal: reader.text(),
        statement: reader.text(),
        binary: reader.list(() => reader.int16() === 1),
        values: reader.list(() => {
          const length = reader.int32();
          return length < 0 ? null : Buffer.from(reader.bytes(length));
        }),
        wanted: reader.list(() => reader.int16() === 1),
      };
    case 'D':
      return { kind: 'describe', ...named(reader) };
    case 'C':
      return { kind: 'close', ...named(reader) };
    case 'E':
      return { kind: 'execute', portal: reader.text(), most: reader.int32() };
    case 'S':
      return { kind: 'sync' };
    case 'H':
      return { kind: 'flush' };
    case 'X':
      return { kind: 'end' };
    default:
      return { kind: 'other', letter };
  }
}

/** Puts what comes from a client together into messages. */
export class Incoming {
  #bytes: Buffer = Buffer.alloc(0);
  #isOpen = false;

  /** From here on messages have a letter before them. */
  open(): void {
    this.#isOpen = true;
  }

  add(bytes: Buffer): void {
    this.#bytes = this.#bytes.length === 0 ? bytes : Buffer.concat([this.#bytes, bytes]);
  }

  get waiting(): number {
    return this.#bytes.length;
  }

  /** What came so far and is no message yet, for whoever reads on in another way. */
  rest(): Buffer {
    const rest = this.#bytes;
    this.#bytes = Buffer.alloc(0);
    return rest;
  }

  /** The next message; undefined until the whole of it has come. @throws {ProtocolError} */
  next(): Opening | Sent | undefined {
    const before = this.#isOpen ? 1 : 0;
    if (this.#bytes.length < before + 4) return undefined;
    const length = this.#bytes.readInt32BE(before);
    if (length < 4 || length > (this.#isOpen ? MESSAGE_MOST : OPENING_MOST))
      throw new ProtocolError(`a message of ${length} bytes is not taken`);
    if (this.#bytes.length < before + length) return undefined;
    const reader = new Reader(this.#bytes.subarray(before + 4, before + length));
    const letter = this.#isOpen ? String.fromCharCode(this.#bytes[0] ?? 0) : '';
    this.#bytes = this.#bytes.subarray(before + length);
    return letter === '' ? readOpening(reader) : readSent(letter, reader);
  }
}

/** A column as clients are told of it. */
export interface ToldColumn {
  readonly name: string;
  /** The type's number (`pg_type.oid`), of those that every PostgreSQL has. */
  readonly typeId: number;
  readonly typeSize: number;
  readonly typeModifier: number;
}

const withLength = (letter: string, ...parts: readonly Buffer[]): Buffer => {
  const length = parts.reduce((sum, part) => sum + part.length, 4);
  const head = Buffer.alloc(5);
  head.write(letter, 'latin1');
  head.writeInt32BE(length, 1);
  return Buffer.concat([head, ...parts]);
};
const int32 = (value: number): Buffer => {
  const bytes = Buffer.alloc(4);
  bytes.writeInt32BE(value);
  return bytes;
};
const int16 = (value: number): Buffer => {
  const bytes = Buffer.alloc(2);
  bytes.writeInt16BE(value);
  return bytes;
};
/** A text with its end; of one that has an end within it what stands before that. */
const text = (value: string): Buffer => Buffer.from(`${value.split('\0')[0] ?? ''}\0`);

/** What goes wrong, or is worth telling, as the protocol has it. */
export interface Told {
  readonly severity: 'ERROR' | 'FATAL' | 'WARNING' | 'NOTICE';
  /** SQLSTATE */
  readonly code: string;
  readonly message: string;
  readonly hint?: string;
  readonly detail?: string;
  /** In characters of the statement, the first being 1. */
  readonly position?: number;
}
const told = ({ severity, code, message, hint, detail, position }: Told): Buffer[] => [
  ...Object.entries({ S: severity, V: severity, C: code, M: message, H: hint, D: detail, P: position }).flatMap(
    ([field, value]) =>
      value === undefined || value === '' ? [] : [Buffer.from(field, 'latin1'), text(String(value))],
  ),
  Buffer.alloc(1),
];

export const says = {
  yesEncrypt: Buffer.from('S'),
  noEncrypt: Buffer.from('N'),
  givePassword: withLength('R', int32(3)),
  signedIn: withLength('R', int32(0)),
  parameter: (name: string, value: string) => withLength('S', text(name), text(value)),
  cancelKey: (session: number, secret: number) => withLength('K', int32(session), int32(secret)),
  /** @param block I: none; T: in one; E: in one that failed */
  ready: (block: 'I' | 'T' | 'E') => withLength('Z', Buffer.from(block)),
  columns: (columns: readonly ToldColumn[], binary: readonly boolean[] = []) =>
    withLength(
      'T',
      int16(columns.length),
      ...columns.flatMap(({ name, typeId, typeSize, typeModifier }, at) => [
        text(name),
        int32(0),
        int16(0),
        int32(typeId),
        int16(typeSize),
        int32(typeModifier),
        int16(binary[at] ? 1 : 0),
      ]),
    ),
  noColumns: withLength('n'),
  parameterTypes: (types: readonly number[]) => withLength('t', int16(types.length), ...types.map(int32)),
  done: (tag: string) => withLength('C', text(tag)),
  parsed: withLength('1'),
  bound: withLength('2'),
  closed: withLength('3'),
  suspended: withLength('s'),
  /** Rows follow as copied lines of so many columns. */
  copying: (columns: number) =>
    withLength('H', Buffer.alloc(1), int16(columns), ...Array.from({ length: columns }, () => int16(0))),
  copied: (line: string) => withLength('d', Buffer.from(line)),
  copyDone: withLength('c'),
  empty: withLength('I'),
  error: (what: Told) => withLength('E', ...told(what)),
  notice: (what: Told) => withLength('N', ...told(what)),
};

/** Rows as one run of bytes. @param write how a value is written, by its place; null: as text */
export function rowsOf(
  rows: readonly (readonly (string | null)[])[],
  write: readonly (((value: string) => Buffer) | null)[] = [],
): Buffer {
  const asBytes = rows.map((row) => row.map((value, at) => (value === null ? null : (write[at]?.(value) ?? value))));
  const sizeOf = (value: Buffer | string | null): number =>
    value === null ? 0 : typeof value === 'string' ? Buffer.byteLength(value) : value.length;
  let size = 0;
  const sizes = asBytes.map((row) => {
    const own = row.map(sizeOf);
    size += 7 + own.reduce((sum, length) => sum + 4 + length, 0);
    return own;
  });
  const bytes = Buffer.allocUnsafe(size);
  let at = 0;
  asBytes.forEach((row, nth) => {
    const own = sizes[nth] ?? [];
    bytes[at] = 0x44;
    bytes.writeInt32BE(6 + own.reduce((sum, length) => sum + 4 + length, 0), at + 1);
    bytes.writeInt16BE(row.length, at + 5);
    at += 7;
    row.forEach((value, place) => {
      const length = own[place] ?? 0;
      bytes.writeInt32BE(value === null ? -1 : length, at);
      at += 4;
      if (typeof value === 'string') bytes.write(value, at);
      else value?.copy(bytes, at);
      at += length;
    });
  });
  return bytes;
}
