import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import express from 'express';
import { type ChatPartner, chat } from './chat.ts';
import { codeHost } from './codeHost.ts';
import { documents } from './documents.ts';
import { harbour } from './harbour.ts';
import { type IdentityClient, identityProvider } from './identityProvider.ts';
import { listener } from './listener.ts';
import { startMailbox } from './mailbox.ts';
import { objectStore } from './objectStore.ts';
import { orchestratorServer, reportServer } from './services.ts';
import { type TrackerPartner, tracker } from './tracker.ts';

export type { CodeHostData } from './codeHost.ts';
export type { DocumentData } from './documents.ts';
export type { IdentityClient, IdentityData } from './identityProvider.ts';
export type { Mail } from './mailbox.ts';
export type { StoreKey } from './objectStore.ts';
export type { OrchestratorData, ReportServerData } from './services.ts';

/**
 * Starts the stand-ins for outside services on loopback, each below a path of its own: `/store`, `/reports`, `/flows`, `/documents`, `/code`, `/harbour`, `/identity`, `/listener`,
 * which webhooks can be sent to, and `/mail`, which shows what came by SMTP.
 * @param folder what they show; each has a folder of its own in it
 * @param port 0: any free one
 * @param mailPort of SMTP; 0: any free one
 * @param partner with what the chat speaks, at `/chat`; without one there is none
 * @param tickets with what the tracker speaks, at `/tracker`; without one there is none
 * @param client who may ask the identity provider; without one there is none
 */
export async function startStandIns(
  folder: string,
  port: number,
  {
    mailPort = 0,
    client,
    partner,
    tickets,
  }: {
    mailPort?: number;
    client?: IdentityClient | undefined;
    partner?: ChatPartner | undefined;
    tickets?: TrackerPartner | undefined;
  } = {},
): Promise<{ server: Server; port: number; mailPort: number }> {
  const app = express();
  app.disable('x-powered-by');
  app.set('query parser', 'simple');
  app.use('/store', objectStore(join(folder, 'store')));
  app.use('/reports', reportServer(folder));
  app.use('/flows', orchestratorServer(folder));
  app.use('/documents', documents(folder));
  app.use('/code', codeHost(folder));
  app.use('/listener', listener());
  app.use('/harbour', harbour());
  if (partner) app.use('/chat', chat(partner));
  const mailbox = await startMailbox(mailPort);
  app.use('/mail', mailbox.router);
  return new Promise((resolve, reject) => {
    const server = app.listen(port, '127.0.0.1', (error) => {
      if (error) return reject(error);
      const at = (server.address() as AddressInfo).port;
      if (tickets) app.use('/tracker', tracker(tickets, `http://127.0.0.1:${at}/tracker`));
      if (client) app.use('/identity', identityProvider(folder, `http://127.0.0.1:${at}/identity`, client));
      resolve({ server, port: at, mailPort: mailbox.port });
    });
    server.on('close', mailbox.close);
  });
}
