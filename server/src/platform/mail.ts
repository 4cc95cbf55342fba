import { createTransport } from 'nodemailer';
import type { Config } from './config.ts';

export interface Mail {
  readonly to: string;
  readonly subject: string;
  readonly text: string;
}

/** Sends a mail, as plain text. @throws when the mail server does not take it, or no mail is set up */
export async function sendMail({ mail }: Config, { to, subject, text }: Mail): Promise<void> {
  if (!mail) throw new Error('IDREL_MAIL_URL is not set: no mail can be sent.');
  const transport = createTransport({ url: mail.url, connectionTimeout: 10_000, socketTimeout: 20_000 });
  try {
    // Given as an address and no text: a list of addresses would be read out of a text with commas.
    await transport.sendMail({ from: mail.from, to: { name: '', address: to }, subject, text });
  } finally {
    transport.close();
  }
}
