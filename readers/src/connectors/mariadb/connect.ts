import { isIP } from 'node:net';
import { type Connection, createConnection, type RowDataPacket } from 'mysql2/promise';
import { encryptionOf, explainNetworkError } from '../network.ts';
import { type ConnectorInput, SourceProblem } from '../types.ts';

/** A name as statements write it. */
export const quoteName = (name: string) => `\`${name.replaceAll('`', '``')}\``;
const quote = (text: string) => `'${text.replaceAll("'", "''")}'`;
const account = (user: string) => `${quote(user)}@'%'`;

/** Statements that make an account that may only read one database. */
export const readingAccount = (user: string, database: string): string =>
  `CREATE USER ${account(user)} IDENTIFIED BY 'the password';\nGRANT SELECT, SHOW VIEW ON ${quoteName(database)}.* TO ${account(user)};`;

/** Puts an error of connecting into words, with the statement that mends it where there is one. */
export function explainMariaError(error: unknown, input: ConnectorInput): SourceProblem {
  const network = explainNetworkError(
    error,
    input,
    'Start the server there, check the port, and see that bind-address names this interface.',
  );
  if (network) return network;
  const { address, secret } = input;
  const { code, message } = error as { code?: string; message: string };
  const where = `${address.host}:${address.port}`;
  const user = secret?.username || 'idrel_reader';
  const database = String(address.database);
  switch (code) {
    case 'ER_ACCESS_DENIED_ERROR':
      return new SourceProblem(
        `The server does not accept this name and password (${message}).`,
        readingAccount(user, database),
      );
    case 'ER_DBACCESS_DENIED_ERROR':
      return new SourceProblem(
        `${user} may not use the database ${database}.`,
        `GRANT SELECT, SHOW VIEW ON ${quoteName(database)}.* TO ${account(user)};`,
      );
    case 'ER_BAD_DB_ERROR':
      return new SourceProblem(
        `There is no database ${database} on ${where}.`,
        'Check the spelling; on most servers capitals count.',
      );
    case 'ER_CON_COUNT_ERROR':
      return new SourceProblem(
        'The server has no connection left.',
        'Try again later, or raise max_connections there.',
      );
    default:
      return new SourceProblem(message, 'See the error log of the server for more.');
  }
}

/** Opens a connection whose transactions can only read; numbers and dates come as they are written. */
export async function connectMaria(input: ConnectorInput): Promise<Connection> {
  const encryption = encryptionOf(input);
  // The client compares a certificate with names alone; without this an address in numbers would pass unchecked.
  if (encryption?.rejectUnauthorized && isIP(String(input.address.host)))
    throw new SourceProblem(
      `${input.address.host} is an address in numbers: it cannot be checked against a certificate.`,
      'Give the host by the name that stands in its certificate.',
    );
  try {
    const connection = await createConnection({
      ...(encryption ? { ssl: { ...encryption, verifyIdentity: encryption.rejectUnauthorized } } : {}),
      host: String(input.address.host),
      port: Number(input.address.port),
      database: String(input.address.database),
      user: input.secret?.username ?? '',
      password: input.secret?.password ?? '',
      connectTimeout: 8000,
      dateStrings: true,
      supportBigNumbers: true,
      bigNumberStrings: true,
      charset: 'utf8mb4',
    });
    await connection.query('set session transaction read only');
    // What is asked from here on counts there as asked of that schema: it is told apart from what others ask of the database.
    await connection.query('use information_schema');
    return connection;
  } catch (error) {
    throw explainMariaError(error, input);
  }
}

/** The rows of a statement whose only parameter is the database. */
export async function rows<T>(connection: Connection, sql: string, database: string): Promise<T[]> {
  const [read] = await connection.query<RowDataPacket[]>(sql, [database]);
  return read as T[];
}
