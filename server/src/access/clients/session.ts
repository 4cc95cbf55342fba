import { randomInt } from 'node:crypto';
import { SyntaxProblem } from '@idrel/core/sql';
import { ApiProblem } from '../../platform/problems.ts';
import { SentRows } from '../rowsAsSent.ts';
import type { Described, ShownColumn, TextRow } from '../runQuery.ts';
import { Answer, type SomeRows } from './answer.ts';
import { BINARY } from './binary.ts';
import { type CopyFormat, copied } from './copied.ts';
import { type Meant, meaningsOf } from './meaning.ts';
import { ProtocolError, rowsOf, type Sent, says, type Told, type ToldColumn } from './messages.ts';
import { PURPOSE_SETTING, purposeIn } from './purpose.ts';

/** What a person who has signed in can do: read one source. */
export interface Reading {
  /** @param purpose that the client has stated */
  run(
    sql: string,
    purpose: string | null,
    values: readonly (string | null)[] | undefined,
    take: (columns: readonly ShownColumn[], rows: SomeRows) => Promise<void>,
    left: AbortSignal,
    /** Whether rows are wanted as the source sends them, and not as texts. */
    asSent: boolean,
  ): Promise<{ readonly rows: number; readonly capped: boolean }>;
  describe(sql: string, purpose: string | null): Promise<Described>;
  /** What one answer may hold, in words. */
  readonly most: string;
  /** What was said that is read for when it connected. */
  readonly purpose: string | null;
}

interface Statement {
  readonly meant: Meant;
  readonly types: readonly number[];
  described?: Described;
}
interface Portal {
  readonly meant: Meant;
  readonly values: readonly (string | null)[];
  readonly wanted: readonly boolean[];
  /** Its rows are taken one by one, or in other forms than the source sends them. */
  readonly isTaken?: boolean;
  answer?: Answer;
}

/** What a client may ask about the session by SHOW, and is told at its beginning. */
const SETTINGS: Readonly<Record<string, string>> = {
  server_version: '15.0',
  server_encoding: 'UTF8',
  client_encoding: 'UTF8',
  datestyle: 'ISO, MDY',
  timezone: 'UTC',
  intervalstyle: 'postgres',
  integer_datetimes: 'on',
  standard_conforming_strings: 'on',
  is_superuser: 'off',
  default_transaction_read_only: 'on',
  transaction_read_only: 'on',
  transaction_isolation: 'read committed',
  max_identifier_length: '63',
  extra_float_digits: '1',
  search_path: '',
};
const TOLD_AT_FIRST: readonly (readonly [name: string, setting: string])[] = [
  ['server_version', 'server_version'],
  ['server_encoding', 'server_encoding'],
  ['client_encoding', 'client_encoding'],
  ['DateStyle', 'datestyle'],
  ['TimeZone', 'timezone'],
  ['IntervalStyle', 'intervalstyle'],
  ['integer_datetimes', 'integer_datetimes'],
  ['standard_conforming_strings', 'standard_conforming_strings'],
  ['is_superuser', 'is_superuser'],
];
/** Numbers of types that a source made for itself begin here: clients do not know these. */
const OWN_TYPES = 16_384;
const TEXT = 25;

const told = ({ name, typeId, typeSize, typeModifier }: ShownColumn): ToldColumn =>
  typeId < OWN_TYPES
    ? { name, typeId, typeSize, typeModifier }
    : { name, typeId: TEXT, typeSize: -1, typeModifier: -1 };
const textColumn = (name: string): ToldColumn => ({ name, typeId: TEXT, typeSize: -1, typeModifier: -1 });

/** SQLSTATE of what the gateway says. */
const STATES: Readonly<Record<string, string>> = {
  'refused-syntax': '42601',
  'refused-statement': '0A000',
  'refused-construct': '0A000',
  'refused-function': '42501',
  'refused-type': '0A000',
  'refused-source': '0A000',
  'refused-together': '42501',
  'refused-unknown-table': '42P01',
  'refused-no-access': '42501',
  'refused-column': '42501',
  'query-stopped': '57014',
  'too-many-queries': '53300',
  'row-too-large': '54000',
  'source-error': '58000',
  'not-signed-in': '28000',
  'not-found': '3D000',
  gone: '57014',
  invalid: '22000',
};

/** What a client is told of an error; of one that nobody expected nothing is told but that. */
function toldOf(error: unknown): Told {
  if (error instanceof Refusal) return error.told;
  if (error instanceof SyntaxProblem)
    return {
      severity: 'ERROR',
      code: '42601',
      message: error.message,
      ...(error.position === null ? {} : { position: error.position }),
    };
  if (error instanceof ApiProblem) {
    const state = /\((\w{5})\)/.exec(error.message)?.[1];
    return {
      severity: 'ERROR',
      code: (error.code === 'invalid' && state) || (STATES[error.code] ?? 'XX000'),
      message: error.code === 'gone' ? 'The statement was cancelled.' : error.message,
      hint: error.more.mend ?? '',
    };
  }
  return { severity: 'ERROR', code: 'XX000', message: 'The statement failed.' };
}

/** Why something is not done, in the protocol's own form. */
class Refusal extends Error {
  readonly told: Told;
  constructor(code: string, message: string, hint = '') {
    super(message);
    this.told = { severity: 'ERROR', code, message, hint };
  }
}

/** What a client may send in a block that has failed. */
const ENDS_FAILING: ReadonlySet<string> = new Set(['ROLLBACK', 'COMMIT']);

const ROWS_AT_ONCE = 50_000;
/** So many statements and portals a client may have at once. */
const HELD_MOST = 500;

/** One client from its having signed in to its end: what it sends, in its order, and what it is answered. */
export class Session {
  readonly number = randomInt(1, 2 ** 31);
  readonly secret = randomInt(1, 2 ** 31);
  readonly #reading: Reading;
  readonly #write: (bytes: Buffer) => Promise<void>;
  readonly #statements = new Map<string, Statement>();
  readonly #portals = new Map<string, Portal>();
  #block: 'I' | 'T' | 'E' = 'I';
  /** What the client says that it reads for. */
  #purpose: string | null;
  /** Since an error all is passed over until the client says that it goes on. */
  #skips = false;
  /** What runs at the source now, or is being taken. */
  #runs: Answer | undefined;

  constructor(reading: Reading, write: (bytes: Buffer) => Promise<void>) {
    this.#reading = reading;
    this.#purpose = reading.purpose;
    this.#write = write;
  }

  async begin(): Promise<void> {
    await this.#write(
      Buffer.concat([
        says.signedIn,
        ...TOLD_AT_FIRST.map(([name, setting]) => says.parameter(name, SETTINGS[setting] ?? '')),
        says.cancelKey(this.number, this.secret),
        says.ready(this.#block),
      ]),
    );
  }

  /** Ends the statement that runs now, if any. */
  cancel(): void {
    this.#runs?.close();
  }

  /** Ends all that is under way: the client has gone. */
  end(): void {
    for (const { answer } of this.#portals.values()) answer?.close();
    this.#portals.clear();
    this.cancel();
  }

  /** Does what a message asks. @returns whether the client goes on */
  async take(message: Sent): Promise<boolean> {
    if (message.kind === 'end') return false;
    if (message.kind === 'sync') {
      this.#skips = false;
      if (this.#block === 'I') this.#closePortals();
      await this.#write(says.ready(this.#block));
      return true;
    }
    if (this.#skips) return true;
    try {
      if (message.kind === 'query') await this.#query(message.sql);
      else await this.#extended(message);
    } catch (error) {
      if (error instanceof ProtocolError) throw error;
      await this.#failed(error);
      if (message.kind === 'query') await this.#write(says.ready(this.#block));
      else this.#skips = true;
    }
    return true;
  }

  async #failed(error: unknown): Promise<void> {
    if (this.#block === 'T') this.#block = 'E';
    await this.#write(says.error(toldOf(error)));
  }

  #closePortals(): void {
    for (const { answer } of this.#portals.values()) answer?.close();
    this.#portals.clear();
  }

  async #query(sql: string): Promise<void> {
    for (const meant of meaningsOf(sql)) {
      const portal: Portal = { meant, values: [], wanted: [] };
      try {
        const columns = await this.#columnsOf(portal);
        if (columns) await this.#write(says.columns(columns));
        await this.#execute(portal, 0);
      } finally {
        portal.answer?.close();
      }
    }
    if (this.#block === 'I') this.#closePortals();
    await this.#write(says.ready(this.#block));
  }

  async #extended(message: Exclude<Sent, { kind: 'query' | 'sync' | 'end' }>): Promise<void> {
    switch (message.kind) {
      case 'parse': {
        const all = meaningsOf(message.sql);
        const [meant] = all;
        if (!meant || all.length > 1)
          throw new Refusal('42601', 'A prepared statement is one statement.', 'Send the others by themselves.');
        this.#mayHold(this.#statements, message.name);
        this.#statements.set(message.name, { meant, types: message.types });
        return this.#write(says.parsed);
      }
      case 'bind': {
        const statement = this.#statement(message.statement);
        this.#mayHold(this.#portals, message.portal);
        this.#portals.get(message.portal)?.answer?.close();
        this.#portals.set(message.portal, {
          meant: statement.meant,
          values: await this.#valuesOf(statement, message),
          wanted: message.wanted,
        });
        return this.#write(says.bound);
      }
      case 'describe': {
        if (message.what === 'portal') {
          const portal = this.#portal(message.name);
          const columns = await this.#columnsOf(portal);
          return this.#write(columns ? says.columns(columns, formats(portal.wanted, columns.length)) : says.noColumns);
        }
        const statement = this.#statement(message.name);
        const { parameters, columns } = await this.#describe(statement);
        await this.#write(says.parameterTypes(parameters.map((type) => (type < OWN_TYPES ? type : TEXT))));
        return this.#write(columns.length > 0 ? says.columns(columns.map(told)) : says.noColumns);
      }
      case 'execute':
        return this.#execute(this.#portal(message.portal), message.most);
      case 'close': {
        if (message.what === 'statement') this.#statements.delete(message.name);
        else this.#closePortal(message.name);
        return this.#write(says.closed);
      }
      case 'flush':
        return;
      default:
        throw new ProtocolError(
          `a message ${message.kind === 'other' ? `“${message.letter}”` : message.kind} is not taken`,
        );
    }
  }

  #mayHold(held: ReadonlyMap<string, unknown>, name: string): void {
    if (held.size >= HELD_MOST && !held.has(name))
      throw new Refusal('53400', `${HELD_MOST} are held already.`, 'Close some of them.');
  }

  #statement(name: string): Statement {
    const found = this.#statements.get(name);
    if (!found) throw new Refusal('26000', `There is no prepared statement “${name}”.`);
    return found;
  }

  #portal(name: string): Portal {
    const found = this.#portals.get(name);
    if (!found) throw new Refusal('34000', `There is no cursor “${name}”.`);
    return found;
  }

  #closePortal(name: string): void {
    this.#portals.get(name)?.answer?.close();
    this.#portals.delete(name);
  }

  async #describe(statement: Statement): Promise<Described> {
    const { meant } = statement;
    if (meant.kind !== 'read') {
      const columns = await this.#columnsOf({ meant, values: [], wanted: [] });
      return { parameters: [], columns: columns ?? [] };
    }
    statement.described ??= await this.#reading.describe(meant.sql, this.#purpose);
    return statement.described;
  }

  /** Values as texts; what comes as binary is read by its type. */
  async #valuesOf(
    statement: Statement,
    { values, binary }: Extract<Sent, { kind: 'bind' }>,
  ): Promise<(string | null)[]> {
    const isBinary = formats(binary, values.length);
    const types = isBinary.some(Boolean) ? statement.types : [];
    const asked = isBinary.some((is, at) => is && !types[at]) ? (await this.#describe(statement)).parameters : [];
    return values.map((value, at) => {
      if (value === null) return null;
      if (!isBinary[at]) return value.toString('utf8');
      const read = BINARY.get(types[at] || (asked[at] ?? 0))?.read;
      if (!read)
        throw new Refusal(
          '0A000',
          `Value ${at + 1} comes as binary, which is not read of its type.`,
          'Send it as text.',
        );
      return read(value);
    });
  }

  /** The columns that a portal gives; null where it gives none. What it runs has begun then. */
  async #columnsOf(portal: Portal): Promise<ToldColumn[] | null> {
    const { meant } = portal;
    if (meant.kind === 'show') return [textColumn(meant.name)];
    if (meant.kind === 'fetch') return this.#columnsOf(this.#portal(cursorName(meant.cursor)));
    if (meant.kind !== 'read') return null;
    this.#mustBeWell(meant);
    return (await this.#answerOf(portal, meant.sql).columns).map(told);
  }

  #mustBeWell(meant: Meant): void {
    if (this.#block === 'E' && !ENDS_FAILING.has('tag' in meant ? meant.tag : ''))
      throw new Refusal('25P02', 'The block has failed: nothing more is done in it.', 'Send ROLLBACK.');
  }

  #answerOf(portal: Portal, sql: string): Answer {
    portal.answer ??= new Answer((take, left) =>
      this.#reading.run(
        sql,
        this.#purpose,
        portal.values.length > 0 ? portal.values : undefined,
        take,
        left,
        portal.meant.kind === 'read' && !portal.isTaken && !portal.wanted.some(Boolean),
      ),
    );
    this.#runs = portal.answer;
    return portal.answer;
  }

  async #execute(portal: Portal, most: number): Promise<void> {
    const { meant } = portal;
    this.#mustBeWell(meant);
    switch (meant.kind) {
      case 'nothing':
        return this.#write(says.empty);
      case 'read':
        return this.#rows(portal, this.#answerOf(portal, meant.sql), most, 'SELECT');
      case 'copy':
        return this.#copy(this.#answerOf(portal, meant.sql), meant.format);
      case 'begin':
        this.#block = 'T';
        return this.#write(says.done(meant.tag));
      case 'commit':
      case 'rollback': {
        const tag = this.#block === 'E' ? 'ROLLBACK' : meant.tag;
        this.#block = 'I';
        this.#closePortals();
        return this.#write(says.done(tag));
      }
      case 'within block':
        // Back to where the block was well.
        if (this.#block === 'E') this.#block = 'T';
        return this.#write(says.done(meant.tag));
      case 'set':
        return this.#set(meant);
      case 'show': {
        if (meant.name === PURPOSE_SETTING) {
          await this.#write(rowsOf([[this.#purpose]]));
          return this.#write(says.done('SHOW'));
        }
        const value = Object.hasOwn(SETTINGS, meant.name) ? SETTINGS[meant.name] : undefined;
        if (value === undefined) throw new Refusal('42704', `Nothing is told of the setting “${meant.name}” here.`);
        await this.#write(rowsOf([[value]]));
        return this.#write(says.done('SHOW'));
      }
      case 'forget':
        if (meant.tag === 'DISCARD ALL') this.#purpose = this.#reading.purpose;
        if (meant.name === null) this.#statements.clear();
        else this.#statements.delete(meant.name);
        return this.#write(says.done(meant.tag));
      case 'declare': {
        if (this.#block !== 'T')
          throw new Refusal('25P01', 'A cursor is declared in a block of statements.', 'Send BEGIN before it.');
        const name = cursorName(meant.cursor);
        this.#mayHold(this.#portals, name);
        this.#closePortal(name);
        const cursor: Portal = {
          meant: { kind: 'read', sql: meant.sql },
          values: portal.values,
          wanted: [],
          isTaken: true,
        };
        this.#portals.set(name, cursor);
        await this.#columnsOf(cursor);
        return this.#write(says.done('DECLARE CURSOR'));
      }
      case 'fetch': {
        const cursor = this.#portal(cursorName(meant.cursor));
        if (cursor.meant.kind !== 'read') throw new Refusal('34000', 'This cursor gives no rows.');
        return this.#rows(
          { ...cursor, wanted: portal.wanted },
          this.#answerOf(cursor, cursor.meant.sql),
          meant.most ?? 0,
          'FETCH',
        );
      }
      case 'close cursor':
        if (meant.cursor === null) this.#closePortals();
        else this.#closePortal(cursorName(meant.cursor));
        return this.#write(says.done('CLOSE CURSOR'));
    }
  }

  async #rows({ wanted }: Portal, answer: Answer, most: number, tag: 'SELECT' | 'FETCH'): Promise<void> {
    const columns = (await answer.columns).map(told);
    const write = formats(wanted, columns.length).map((binary, at) => {
      if (!binary) return null;
      const type = columns[at]?.typeId ?? 0;
      const known = BINARY.get(type)?.write;
      if (!known)
        throw new Refusal(
          '0A000',
          `“${columns[at]?.name}” is asked for as binary, which its type is not given as.`,
          'Ask for it as text.',
        );
      return known;
    });
    let given = 0;
    while (most === 0 || given < most) {
      const rows = await answer.next(Math.min(ROWS_AT_ONCE, most === 0 ? ROWS_AT_ONCE : most - given));
      if (rows === null) {
        await this.#mustBeWhole(answer);
        return this.#write(says.done(`${tag} ${given}`));
      }
      given += rows.length;
      await this.#write(rows instanceof SentRows ? rows.bytes : rowsOf(rows, write));
    }
    return this.#write(tag === 'FETCH' ? says.done(`FETCH ${given}`) : says.suspended);
  }

  async #copy(answer: Answer, format: CopyFormat): Promise<void> {
    const names = (await answer.columns).map(({ name }) => name);
    await this.#write(says.copying(names.length));
    if (format.header) await this.#write(says.copied(copied(names, format)));
    let given = 0;
    for (let rows = await answer.next(ROWS_AT_ONCE); rows; rows = await answer.next(ROWS_AT_ONCE)) {
      given += rows.length;
      // What is copied out is read as texts.
      await this.#write(Buffer.concat((rows as TextRow[]).map((row) => says.copied(copied(row, format)))));
    }
    await this.#mustBeWhole(answer);
    await this.#write(Buffer.concat([says.copyDone, says.done(`COPY ${given}`)]));
  }

  /** What was cut is not given as if it were all; what is to be said of the rest is said. */
  async #mustBeWhole(answer: Answer): Promise<void> {
    if (answer.capped)
      throw new Refusal('54000', `The answer is larger than ${this.#reading.most} and was cut.`, 'Read fewer rows.');
    for (const message of answer.notes) await this.#write(says.notice({ severity: 'WARNING', code: '01000', message }));
  }

  /** Settings of a session are taken and not kept: but for the purpose, and those that would change how what is sent is read. */
  async #set({ name, value, tag }: Extract<Meant, { kind: 'set' }>): Promise<void> {
    if (name === PURPOSE_SETTING || name === '')
      this.#purpose = value === null ? this.#reading.purpose : purposeIn(value);
    if (name === 'client_encoding' && value !== null && !/^utf-?8$|^unicode$/i.test(value))
      throw new Refusal('22023', `Texts go over in UTF-8, not in ${value}.`, 'Set client_encoding to UTF8.');
    if (name === 'standard_conforming_strings' && value !== null && !/^(on|true|1|yes)$/i.test(value))
      throw new Refusal('22023', 'Backslashes in texts are plain characters here.', "Write E'…' where they are not.");
    if (value !== null && (name === 'timezone' || name === 'search_path' || name === 'datestyle'))
      await this.#write(
        says.notice({
          severity: 'NOTICE',
          code: '00000',
          message:
            name === 'search_path'
              ? 'Tables are found by their names in all schemas that the catalog has.'
              : 'Times come in UTC, in the form of ISO 8601.',
        }),
      );
    await this.#write(says.done(tag));
  }
}

/** Cursors that are declared are kept apart from portals of the same name. */
const cursorName = (name: string): string => `cursor ${name}`;

/** Formats as the protocol has them: none for all texts, one for all, or one each. */
const formats = (given: readonly boolean[], count: number): boolean[] =>
  Array.from({ length: count }, (_, at) => (given.length === 1 ? given[0] : given[at]) ?? false);
