import { SMTPServer } from 'smtp-server';
import type { Config } from '../src/platform/config.ts';
import { testConfig } from './place.ts';

/** A mail server on this machine that keeps what it is sent, and a configuration that sends to it. */
export async function mailbox() {
  const mails: { to: string; text: string }[] = [];
  const state = { refusing: false };
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    onRcptTo: (_address, _session, done) => done(state.refusing ? new Error('The mailbox is full') : null),
    onData(stream, session, done) {
      let text = '';
      stream.setEncoding('utf8').on('data', (part: string) => {
        text += part;
      });
      stream.on('end', () => {
        mails.push({
          to: session.envelope.rcptTo[0]?.address ?? '',
          text: text.replaceAll('=\r\n', '').replaceAll('\r\n', '\n'),
        });
        done();
      });
    },
  });
  const port = await new Promise<number>((resolve) => {
    const listening = server.listen(0, '127.0.0.1', () => resolve((listening.address() as { port: number }).port));
  });
  const config: Config = {
    ...testConfig(),
    address: 'https://idrel.example',
    mail: { url: `smtp://127.0.0.1:${port}`, from: 'Idrel <idrel@example.org>' },
  };
  return { mails, state, config, close: () => new Promise<void>((resolve) => server.close(resolve)) };
}
