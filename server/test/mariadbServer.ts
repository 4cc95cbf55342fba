import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { type Connection, createConnection } from 'mysql2/promise';

const freePort = () =>
  new Promise<number>((resolve, reject) => {
    const probe = createServer();
    probe.once('error', reject);
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });

export interface MariaServer {
  readonly port: number;
  /** Signed in as the account that may do everything. */
  readonly admin: Connection;
  stop(): Promise<void>;
}

/** Starts a MariaDB of its own on loopback, with an empty data folder; the system's server is not touched. */
export async function startMariaDb(...more: string[]): Promise<MariaServer> {
  const home = mkdtempSync(join(tmpdir(), 'idrel-mariadb-'));
  const data = join(home, 'data');
  const user = userInfo().username;
  execFileSync(
    'mariadb-install-db',
    [
      `--datadir=${data}`,
      '--auth-root-authentication-method=normal',
      `--user=${user}`,
      '--skip-test-db',
      '--skip-name-resolve',
    ],
    { stdio: 'ignore' },
  );
  const port = await freePort();
  const options = [
    '--no-defaults',
    `--datadir=${data}`,
    `--socket=${join(home, 's')}`,
    `--port=${port}`,
    '--bind-address=127.0.0.1',
    `--user=${user}`,
    '--skip-name-resolve',
    '--skip-log-bin',
    '--innodb-flush-method=fsync',
    ...more,
  ];
  const child: ChildProcess = spawn('mariadbd', options, { stdio: 'ignore' });
  let ended = false;
  child.once('exit', () => {
    ended = true;
  });
  for (;;) {
    if (ended) throw new Error('MariaDB ended before it answered.');
    const admin = await createConnection({ host: '127.0.0.1', port, user: 'root', multipleStatements: true }).catch(
      () => undefined,
    );
    if (!admin) {
      await new Promise((resolve) => setTimeout(resolve, 200));
      continue;
    }
    return {
      port,
      admin,
      async stop() {
        await admin.end().catch(() => undefined);
        const exit = new Promise((resolve) => child.once('exit', resolve));
        child.kill('SIGTERM');
        await exit;
        rmSync(home, { recursive: true, force: true });
      },
    };
  }
}
