import type { Duplex } from 'node:stream';
import type { ClientBase } from 'pg';

/** set_config(text, text, boolean), the same number in every PostgreSQL. */
const SET_CONFIG = 2078;

function message(args: readonly string[]): Buffer {
  const texts = args.map((arg) => Buffer.from(arg, 'utf8'));
  const body = Buffer.alloc(4 + 4 + 2 + 2 + texts.reduce((sum, text) => sum + 4 + text.length, 0) + 2);
  let at = body.writeInt32BE(body.length, 0);
  at = body.writeInt32BE(SET_CONFIG, at);
  at = body.writeInt16BE(0, at); // all arguments as text
  at = body.writeInt16BE(texts.length, at);
  for (const text of texts) {
    at = body.writeInt32BE(text.length, at);
    at += text.copy(body, at);
  }
  body.writeInt16BE(0, at); // the result as text
  return Buffer.concat([Buffer.from('F'), body]);
}

/**
 * Sets a session's setting for the transaction at hand by a function-call message of the protocol (PostgreSQL's documentation, "Function Call"):
 * unlike a statement or a bound parameter, its arguments stand neither in the server's log nor in its list of activities.
 *
 * @throws Error when the server refuses the call or the connection ends
 */
export async function setSecretly(client: ClientBase, setting: string, value: string): Promise<void> {
  const { stream } = (client as unknown as { connection: { stream: Duplex } }).connection;
  const others = stream.listeners('data') as ((chunk: Buffer) => void)[];
  stream.removeAllListeners('data');
  try {
    await new Promise<void>((resolve, reject) => {
      let received = Buffer.alloc(0);
      let refused: Error | undefined;
      const done = (error?: Error) => {
        stream.off('data', take).off('close', ended);
        if (error) reject(error);
        else resolve();
      };
      const ended = () => done(new Error('The source ended the connection.'));
      const take = (chunk: Buffer) => {
        received = Buffer.concat([received, chunk]);
        while (received.length >= 5 && received.length > received.readInt32BE(1)) {
          const kind = String.fromCharCode(received[0] ?? 0);
          received = received.subarray(received.readInt32BE(1) + 1);
          // The text of the error could hold the argument: it is not passed on.
          if (kind === 'E') refused = new Error('The source does not let a setting be made for digests.');
          if (kind === 'Z') return done(refused);
        }
      };
      stream.on('data', take).on('close', ended);
      stream.write(message([setting, value, 't']));
    });
  } finally {
    for (const other of others) stream.on('data', other);
  }
}
