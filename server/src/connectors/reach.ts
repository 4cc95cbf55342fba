import { connect as dial } from 'node:net';

/** Opens a TCP connection and closes it again. @throws with the system's code when nobody answers within 5 seconds */
export const reach = (host: string, port: number): Promise<void> =>
  new Promise<void>((resolve, reject) => {
    const socket = dial({ host, port, timeout: 5000 });
    socket.once('connect', () => {
      socket.destroy();
      resolve();
    });
    socket.once('timeout', () => {
      socket.destroy();
      reject(Object.assign(new Error('timeout'), { code: 'ETIMEDOUT' }));
    });
    socket.once('error', reject);
  });
