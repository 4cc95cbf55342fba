import { readFileSync } from 'node:fs';
import { createServer, type Server, type Socket } from 'node:net';
import { createSecureContext, type SecureContext, TLSSocket } from 'node:tls';
import { RefusedStatement, rewriteCatalog } from '@idrel/core/access';
import { loadParser } from '@idrel/core/sql';
import { kindsAskedSql } from '../../catalog/index.ts';
import { type Who, whoOfClientKey } from '../../people/index.ts';
import type { Context } from '../../platform/context.ts';
import { ApiProblem } from '../../platform/problems.ts';
import { askedSource } from '../../sources/index.ts';
import { gatewayFor, outcomeOf, tablesOf } from '../asPerson.ts';
import type { Asking } from '../facts.ts';
import type { Prepared } from '../gateway.ts';
import type { SentRows } from '../rowsAsSent.ts';
import { AS_SENT } from '../runQuery.ts';
import { openShare, shareCalled, untilOver } from '../shares/theirs.ts';
import { shownTo } from '../shownCatalog.ts';
import { takeTurn } from '../turns.ts';
import { Incoming, ProtocolError, type Sent, says, type Told } from './messages.ts';
import { purposeStated } from './purpose.ts';
import { type Reading, Session } from './session.ts';

/** So many clients are taken at once, and so long one has to say who it is. */
const [CLIENTS_MOST, OPENING_MS] = [200, 10_000];
/** So many of them may be one person's. */
const ONE_MOST = 50;
/** So much of what a client sends waits while what came before is done. */
const AHEAD_BYTES = 8 << 20;
/** A client that does not close its side is cut off after so long; sooner where nothing may be read any more. */
const [LEAVING_MS, ENDING_MS] = [5000, 500];
const ROWS_MOST = 100_000_000;

const fatal = (code: string, message: string, hint = ''): Buffer =>
  says.error({ severity: 'FATAL', code, message, hint } satisfies Told);

/** Opens the port at which programs read through the gateway by PostgreSQL's protocol. @returns the way to close it */
export async function openClients(
  context: Context,
): Promise<{ readonly server: Server; close(): Promise<void> } | null> {
  const { config, log } = context;
  if (config.clients === null) return null;
  await loadParser();
  const { port, tls } = config.clients;
  const secure = tls && createSecureContext({ cert: readFileSync(tls.certificate), key: readFileSync(tls.key) });
  const sessions = new Map<number, Session>();
  const people = new Map<string, number>();
  const sockets = new Set<Socket>();
  const server = createServer((socket) => {
    socket.on('error', () => undefined); // told by its closing
    if (sockets.size >= CLIENTS_MOST) {
      finish(socket, fatal('53300', 'As many clients are connected as this server takes.', 'Try again in a moment.'));
      return;
    }
    sockets.add(socket);
    socket.once('close', () => sockets.delete(socket));
    socket.setNoDelay(true);
    socket.setKeepAlive(true, 60_000);
    void new Client(context, socket, secure, sessions, people).serve().catch((error: unknown) => {
      log.warn({ err: error }, 'a client of the gateway was ended');
      socket.destroy();
    });
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, config.host, resolve);
  });
  log.info(`programs read through the gateway on ${config.host}:${port}${secure ? ', encrypted' : ''}`);
  return {
    server,
    close: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        for (const session of sessions.values()) session.end();
        for (const socket of sockets) socket.end(fatal('57P01', 'The server is being stopped.'));
        setTimeout(() => {
          for (const socket of sockets) socket.destroy();
        }, 500).unref();
      }),
  };
}

/** Ends a client: one that does not close its side is cut off, so that it holds no place. */
function finish(socket: Socket, message?: Buffer, after = LEAVING_MS): void {
  if (message) socket.end(message);
  else socket.end();
  const cut = setTimeout(() => socket.destroy(), after);
  cut.unref();
  socket.once('close', () => clearTimeout(cut));
}

class Client {
  readonly #context: Context;
  readonly #secure: SecureContext | null;
  readonly #sessions: Map<number, Session>;
  /** How many clients of each person are connected. */
  readonly #people: Map<string, number>;
  readonly #incoming = new Incoming();
  #socket: Socket;
  #news: (() => void) | undefined;
  #gone = false;
  #session: Session | undefined;

  constructor(
    context: Context,
    socket: Socket,
    secure: SecureContext | null,
    sessions: Map<number, Session>,
    people: Map<string, number>,
  ) {
    this.#context = context;
    this.#secure = secure;
    this.#sessions = sessions;
    this.#people = people;
    this.#socket = socket;
    this.#listen(socket);
  }

  #listen(socket: Socket): void {
    socket.on('data', (bytes: Buffer) => {
      this.#incoming.add(bytes);
      if (this.#incoming.waiting > AHEAD_BYTES) socket.pause();
      this.#news?.();
    });
    const gone = () => {
      this.#gone = true;
      this.#news?.();
    };
    socket.on('close', gone);
    socket.on('error', gone); // told by its closing
  }

  /** The next message, or nothing once the client has gone. */
  async #next(): Promise<ReturnType<Incoming['next']>> {
    for (;;) {
      const message = this.#incoming.next();
      if (message || this.#gone) return this.#gone ? undefined : message;
      this.#socket.resume();
      await new Promise<void>((resolve) => {
        this.#news = resolve;
      });
    }
  }

  readonly #write = async (bytes: Buffer): Promise<void> => {
    if (this.#gone) throw new ApiProblem('gone', 'The client has gone.');
    if (this.#socket.write(bytes)) return;
    const socket = this.#socket;
    await new Promise<void>((resolve) => {
      const on = () => {
        socket.off('drain', on);
        socket.off('close', on);
        resolve();
      };
      socket.on('drain', on);
      socket.on('close', on);
    });
  };

  async serve(): Promise<void> {
    const late = setTimeout(() => this.#socket.destroy(), OPENING_MS);
    try {
      const reading = await this.#opened();
      clearTimeout(late);
      if (!reading) {
        finish(this.#socket);
        return;
      }
      await this.#goOn(new Session(reading, this.#write));
    } catch (error) {
      if (this.#gone) return;
      if (!(error instanceof ProtocolError)) throw error;
      finish(this.#socket, fatal('08P01', `The client does not keep to the protocol: ${error.message}.`));
    } finally {
      clearTimeout(late);
    }
  }

  async #goOn(session: Session): Promise<void> {
    this.#sessions.set(session.number, session);
    this.#session = session;
    const gone = () => session.end();
    this.#socket.once('close', gone);
    try {
      await session.begin();
      for (;;) {
        const message = await this.#next();
        if (!message || !(await session.take(message as Sent))) break;
      }
    } finally {
      this.#sessions.delete(session.number);
      session.end();
      finish(this.#socket);
    }
  }

  /** Lets somebody in: encryption, where they ask for it, who they are, and which source they read. @returns nothing for who is not let in */
  async #opened(): Promise<Reading | undefined> {
    for (;;) {
      const message = await this.#next();
      if (message?.kind === 'encrypt') {
        await this.#encrypt(message.how);
        continue;
      }
      if (message?.kind === 'cancel') {
        const session = this.#sessions.get(message.session);
        if (session?.secret === message.secret) session.cancel();
        return undefined;
      }
      if (message?.kind !== 'start') return undefined;
      if (this.#secure && !(this.#socket instanceof TLSSocket)) {
        await this.#write(fatal('28000', 'Keys are taken over encrypted connections alone.', 'Set sslmode=require.'));
        return undefined;
      }
      this.#incoming.open();
      return this.#signIn(message.said);
    }
  }

  async #encrypt(how: 'tls' | 'gss'): Promise<void> {
    if (how === 'gss' || !this.#secure || this.#socket instanceof TLSSocket) return this.#write(says.noEncrypt);
    // What came in the clear before that is none of what is encrypted.
    if (this.#incoming.rest().length > 0) throw new ProtocolError('something was sent before encryption had begun');
    const plain = this.#socket;
    plain.removeAllListeners('data');
    await this.#write(says.yesEncrypt);
    const encrypted = new TLSSocket(plain, { isServer: true, secureContext: this.#secure });
    this.#socket = encrypted;
    this.#listen(encrypted);
  }

  async #signIn(said: ReadonlyMap<string, string>): Promise<Reading | undefined> {
    const { db } = this.#context;
    const email = said.get('user') ?? '';
    const name = said.get('database') ?? email;
    await this.#write(says.givePassword);
    const message = await this.#next();
    if (message?.kind !== 'password') return undefined;
    const given = { email, key: message.text };
    const who = await whoOfClientKey(db, given);
    if (!who) {
      await this.#write(
        fatal(
          '28P01',
          `“${email}” and this key do not belong together, or the key has ended.`,
          'The user is your e-mail address, the password a key that you make in Idrel under Settings.',
        ),
      );
      return undefined;
    }
    const shared = who.partner ? await shareCalled(db, who, name) : undefined;
    if (who.partner && !shared) {
      await this.#write(
        fatal(
          '3D000',
          `Nothing is shared with ${who.partner.name} under the name “${name}”.`,
          'The database is the name under which a share was accepted.',
        ),
      );
      return undefined;
    }
    const source = shared
      ? shared.source
      : await db.one<{ id: string }>(
          `
        select id
        from source s
        where kind in (${kindsAskedSql(undefined)}) and (lower(name) = lower($2) or id::text = $2)
          and (
            domain_id = any($1::uuid[])
            or exists (select from asset a where a.source_id = s.id and a.opened_id = any($3::uuid[]) and a.gone_at is null))
        order by id::text = $2 desc, name = $2 desc, id
        limit 1`,
          [who.domainsAs('reader'), name, who.openedSights()],
        );
    if (!source) {
      await this.#write(
        fatal(
          '3D000',
          `There is no source “${name}” that you may see and that statements can be asked of.`,
          'The database is the name of a source as Idrel shows it.',
        ),
      );
      return undefined;
    }
    const connected = this.#people.get(who.id) ?? 0;
    if (connected >= ONE_MOST) {
      await this.#write(fatal('53300', `${ONE_MOST} programs of yours are connected already.`, 'End one of them.'));
      return undefined;
    }
    this.#people.set(who.id, connected + 1);
    this.#socket.once('close', () => this.#people.set(who.id, (this.#people.get(who.id) ?? 1) - 1));
    if (shared) {
      const stop = untilOver(this.#context.signals, shared, who.id, () => {
        this.#session?.end();
        finish(
          this.#socket,
          fatal('57P01', `What was shared as “${shared.localName}” is not read any more, or was changed.`),
          ENDING_MS,
        );
      });
      this.#socket.once('close', stop);
    }
    return this.#readingOf(
      given,
      shared ? { shareId: shared.id } : { sourceId: source.id },
      purposeStated(said.get('options') ?? ''),
    );
  }

  /** Reading of a source by a key: each statement by the rights that its person has when it begins, and none once the key has ended. */
  #readingOf(
    given: { readonly email: string; readonly key: string },
    of: { readonly sourceId: string } | { readonly shareId: string },
    stated: string | null,
  ): Reading {
    const { db, config } = this.#context;
    const { run, describe, note, asked } = gatewayFor(this.#context);
    const allowed = async () => {
      const who = await whoOfClientKey(db, given);
      if (!who) throw new ApiProblem('not-signed-in', 'The key has ended.', { mend: 'Make another one in Idrel.' });
      if ('sourceId' in of) {
        const { source, seen } = await askedSource(db, who, of.sourceId);
        return { who, source, there: { ...(seen && { seen }) } };
      }
      const share = await openShare(db, who, of.shareId);
      return { who, source: { ...share.source, name: share.localName }, there: { share } };
    };
    const shareId = 'shareId' in of ? of.shareId : null;
    /** What a question about the catalog is answered with; nothing for any other statement. */
    const catalogAsked = async (
      who: Who,
      source: { id: string; name: string },
      sql: string,
      asking: Omit<Asking, 'personId'>,
    ): Promise<Prepared | undefined> => {
      try {
        const text = await rewriteCatalog(sql, async (tables) =>
          tables
            ? shownTo(db, who, source, given.email, asking)
            : { database: source.name, user: given.email, tables: [] },
        );
        return text === null
          ? undefined
          : { sql: text, tables: [], path: ['pg_catalog'], digests: false, organisation: '', laid: [] };
      } catch (error) {
        if (!(error instanceof RefusedStatement)) throw error;
        throw new ApiProblem(`refused-${error.code}`, error.message, { mend: 'Look it up in Idrel.' });
      }
    };
    const bounds = { rows: ROWS_MOST, bytes: config.queryBytes, seconds: config.querySeconds };
    return {
      most: `${config.queryBytes >> 20} MB`,
      purpose: stated,
      describe: async (sql, purpose) => {
        const { who, source, there } = await allowed();
        const turn = takeTurn(who.id);
        const asking = { purpose, ...there };
        try {
          return await describe(who, source, sql, asking, await catalogAsked(who, source, sql, asking));
        } finally {
          turn();
        }
      },
      run: async (sql, purpose, values, take, left, asSent) => {
        const started = performance.now();
        const { who, source, there } = await allowed();
        const turn = takeTurn(who.id);
        try {
          const decided = await catalogAsked(who, source, sql, { purpose, ...there });
          const how = { ...(values ? { values } : {}), ...(decided ? { decided } : {}), purpose, ...there };
          const { prepared, done } = await (asSent
            ? run<SentRows>(who, who.id, source, sql, bounds, take, left, { ...how, reader: AS_SENT })
            : run(who, who.id, source, sql, bounds, take, left, how));
          // What programs ask of a catalog is no use of anything.
          if (decided) return done;
          await note(who, who.id, source.id, sql, 'answered', done.rows, started, purpose, shareId);
          asked({ sourceId: source.id, personId: who.id, sql, tables: tablesOf(prepared) });
          return done;
        } catch (error) {
          await note(who, who.id, source.id, sql, outcomeOf(error), null, started, purpose, shareId);
          throw error;
        } finally {
          turn();
        }
      },
    };
  }
}
