import type { AddressInfo } from 'node:net';
import { type Response, Router } from 'express';
import { simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import { html, linked, page } from './page.ts';

export interface Mail {
  readonly from: string;
  readonly to: readonly string[];
  readonly subject: string;
  readonly text: string;
  readonly at: string;
}

/** So many are kept; older ones go. */
const KEPT = 200;
const LARGEST = 1 << 20;

/**
 * A mail server that takes mail for everybody and passes on none: whatever came is shown at the path where its router is put, and at `/messages` as JSON.
 * @param port of SMTP on loopback; 0: any free one
 */
export function startMailbox(port: number): Promise<{ router: Router; port: number; close: () => void }> {
  const mails: Mail[] = [];
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    size: LARGEST,
    onData(stream, session, done) {
      simpleParser(stream).then(
        ({ from, subject = '', text = '', date }) => {
          mails.unshift({
            from: from?.text ?? '',
            to: session.envelope.rcptTo.map(({ address }) => address),
            subject,
            text,
            at: (date ?? new Date()).toISOString(),
          });
          mails.length = Math.min(mails.length, KEPT);
          done();
        },
        (error: Error) => done(error),
      );
    },
  });
  const router = Router();
  const of = (to: unknown) =>
    typeof to === 'string' && to !== '' ? mails.filter((mail) => mail.to.includes(to)) : mails;
  router.get('/messages', (request, response: Response) => void response.json(of(request.query.to)));
  router.get('/', (request, response) => {
    const shown = of(request.query.to);
    response.set('cache-control', 'no-store').send(
      page(
        'Mailbox of the demo',
        html`<p>Everything that Idrel writes to anybody arrives here; nothing leaves this machine.</p>
          ${shown.length === 0 ? html`<p>No mail came yet.</p>` : ''}
          ${shown.map(
            (mail) =>
              html`<article>
                <h2>${mail.subject}</h2>
                <p>To ${mail.to.join(', ')}, <time>${mail.at}</time></p>
                <pre>${linked(mail.text)}</pre>
              </article>`,
          )}`,
      ),
    );
  });
  return new Promise((resolve, reject) => {
    server.on('error', reject);
    const listening = server.listen(port, '127.0.0.1', () =>
      resolve({ router, port: (listening.address() as AddressInfo).port, close: () => server.close() }),
    );
  });
}
