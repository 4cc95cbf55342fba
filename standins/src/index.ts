import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import express from 'express';
import { objectStore } from './objectStore.ts';
import { orchestratorServer, reportServer } from './services.ts';

export type { StoreKey } from './objectStore.ts';
export type { OrchestratorData, ReportServerData } from './services.ts';

/**
 * Starts the stand-ins for outside services on loopback, each below a path of its own: `/store`, `/reports`, `/flows`.
 * @param folder what they show; each has a folder of its own in it
 * @param port 0: any free one
 */
export function startStandIns(folder: string, port: number): Promise<{ server: Server; port: number }> {
  const app = express();
  app.disable('x-powered-by');
  app.set('query parser', 'simple');
  app.use('/store', objectStore(join(folder, 'store')));
  app.use('/reports', reportServer(folder));
  app.use('/flows', orchestratorServer(folder));
  return new Promise((resolve, reject) => {
    const server = app.listen(port, '127.0.0.1', (error) =>
      error ? reject(error) : resolve({ server, port: (server.address() as AddressInfo).port }),
    );
  });
}
