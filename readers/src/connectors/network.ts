import { lookup } from 'node:dns/promises';
import { connect as dial } from 'node:net';
import { type ConnectorInput, SourceProblem } from './types.ts';

/** Opens a TCP connection and closes it again. @throws with the system's code when nobody answers within 5 seconds */
const reach = (host: string, port: number): Promise<void> =>
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

/**
 * Puts errors of the network into words; the same for every server that is reached by host and port.
 * @param listens what has to be looked at when nothing listens there
 * @returns undefined when the error is none of the network
 */
export function explainNetworkError(error: unknown, { address }: ConnectorInput, listens: string): SourceProblem | undefined {
  const where = `${address.host}:${address.port}`;
  switch ((error as { code?: string }).code) {
    case 'ENOTFOUND':
    case 'EAI_AGAIN':
      return new SourceProblem(`The name ${address.host} is not known to this machine's name service.`, 'Check the spelling, or give the address in numbers.');
    case 'ECONNREFUSED':
      return new SourceProblem(`Nothing listens at ${where}.`, listens);
    case 'ETIMEDOUT':
    case 'EHOSTUNREACH':
      return new SourceProblem(`${where} does not answer.`, 'A firewall may be between: let this machine reach the port.');
    default:
      return undefined;
  }
}

/** Makes a function that passes a result on and puts an error into words. */
export const inWordsOf =
  (explain: (error: unknown, input: ConnectorInput) => SourceProblem, input: ConnectorInput) =>
  async <T>(work: Promise<T>): Promise<T> => {
    try {
      return await work;
    } catch (error) {
      throw error instanceof SourceProblem ? error : explain(error, input);
    }
  };

type Step = readonly [name: string, run: () => Promise<string>];

/** The first steps of a connection test: is the name known, does somebody answer. */
export function reachSteps({ address }: ConnectorInput, words: <T>(work: Promise<T>) => Promise<T>): readonly [Step, Step] {
  return [
    ['Resolve', async () => `${address.host} is ${(await words(lookup(String(address.host)))).address}.`],
    [
      'Connect',
      async () => {
        await words(reach(String(address.host), Number(address.port)));
        return `${address.host}:${address.port} answers.`;
      },
    ],
  ];
}
