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
export function explainNetworkError(
  error: unknown,
  { address }: ConnectorInput,
  listens: string,
): SourceProblem | undefined {
  const where = `${address.host}:${address.port}`;
  const { code, message } = error as { code?: string; message: string };
  switch (code) {
    case 'DEPTH_ZERO_SELF_SIGNED_CERT':
    case 'SELF_SIGNED_CERT_IN_CHAIN':
    case 'UNABLE_TO_VERIFY_LEAF_SIGNATURE':
    case 'UNABLE_TO_GET_ISSUER_CERT_LOCALLY':
    case 'HANDSHAKE_SSL_ERROR':
      return new SourceProblem(
        `The certificate of ${where} is vouched for by nobody that this machine knows (${message}).`,
        'Give the certificate of your authority with the source, or choose encryption without a check.',
      );
    case 'ERR_TLS_CERT_ALTNAME_INVALID':
      return new SourceProblem(
        `The certificate of ${where} is that of another server (${message}).`,
        'Give the host by the name that stands in its certificate, or let the certificate be made anew.',
      );
    case 'CERT_HAS_EXPIRED':
      return new SourceProblem(`The certificate of ${where} has expired.`, 'Let whoever runs the server renew it.');
    case 'HANDSHAKE_NO_SSL_SUPPORT':
      return new SourceProblem(
        `${where} does not encrypt.`,
        'Turn encryption on there, or choose none for this source.',
      );
    case 'ENOTFOUND':
    case 'EAI_AGAIN':
      return new SourceProblem(
        `The name ${address.host} is not known to this machine's name service.`,
        'Check the spelling, or give the address in numbers.',
      );
    case 'ECONNREFUSED':
      return new SourceProblem(`Nothing listens at ${where}.`, listens);
    case 'ETIMEDOUT':
    case 'EHOSTUNREACH':
      return new SourceProblem(
        `${where} does not answer.`,
        'A firewall may be between: let this machine reach the port.',
      );
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
export function reachSteps(
  { address }: ConnectorInput,
  words: <T>(work: Promise<T>) => Promise<T>,
): readonly [Step, Step] {
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

/** How a connection is encrypted, as the clients of databases take it; undefined for not at all. */
export const encryptionOf = ({
  address,
}: Pick<ConnectorInput, 'address'>): { rejectUnauthorized: boolean; ca?: string } | undefined =>
  address.tls === 'yes' || address.tls === 'checked'
    ? { rejectUnauthorized: address.tls === 'checked', ...(address.authority ? { ca: String(address.authority) } : {}) }
    : undefined;
