import pg from 'pg';
import { encryptionOf, explainNetworkError } from '../network.ts';
import { type ConnectorInput, SourceProblem } from '../types.ts';

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;

/** Puts an error of connecting into words, with the statement that mends it where there is one. */
export function explainConnectError(error: unknown, input: ConnectorInput): SourceProblem {
  const network = explainNetworkError(
    error,
    input,
    'Start PostgreSQL there, check the port, and see that listen_addresses names this interface.',
  );
  if (network) return network;
  const { address, secret } = input;
  const { code, message } = error as { code?: string; message: string };
  const where = `${address.host}:${address.port}`;
  const role = secret?.username ?? '';
  if (/does not support SSL/.test(message))
    return new SourceProblem(
      `${where} does not encrypt.`,
      'Set ssl = on there with a certificate, or choose no encryption for this source.',
    );
  if (/no encryption|no pg_hba.conf entry/.test(message))
    return new SourceProblem(
      `The server does not let this in (${message}).`,
      'Choose encryption for this source, or add a line for this address to pg_hba.conf there.',
    );
  switch (code) {
    case '28P01':
    case '28000':
      return new SourceProblem(
        `The server does not accept this name and password (${message}).`,
        role ? `ALTER ROLE ${quote(role)} LOGIN PASSWORD 'the password';` : 'Give the source a credential.',
      );
    case '3D000':
      return new SourceProblem(
        `There is no database ${address.database} on ${where}.`,
        'Check the spelling; names with capitals must be written with them.',
      );
    case '42501':
      return new SourceProblem(
        message,
        `GRANT CONNECT ON DATABASE ${quote(String(address.database))} TO ${quote(role)};`,
      );
    case '53300':
      return new SourceProblem(
        'The server has no connection left.',
        'Try again later, or raise max_connections there.',
      );
    default:
      return new SourceProblem(message, 'See the log of the PostgreSQL server for more.');
  }
}

/**
 * What decides how values are written and how statements are read, set for each session: else the defaults of a source's database or role
 * would (a backslash in a text would end it elsewhere, a date would be written otherwise).
 */
export const SESSION: Readonly<Record<string, string>> = {
  search_path: 'pg_catalog',
  standard_conforming_strings: 'on',
  DateStyle: 'ISO,MDY',
  IntervalStyle: 'postgres',
  TimeZone: 'UTC',
  extra_float_digits: '1',
  bytea_output: 'hex',
  xmloption: 'content',
  lc_monetary: 'C',
  lc_numeric: 'C',
  lc_time: 'C',
  transform_null_equals: 'off',
  row_security: 'on',
};

/**
 * Opens a connection that can only read: the session is read-only, each statement has a time limit, names are found in pg_catalog alone.
 * @param options `writes`: the session may write as well
 */
export async function connect(
  input: ConnectorInput,
  options: { readonly statementTimeout: number; readonly writes?: true } = { statementTimeout: 60_000 },
): Promise<pg.Client> {
  const client = new pg.Client({
    host: String(input.address.host),
    port: Number(input.address.port),
    database: String(input.address.database),
    user: input.secret?.username ?? '',
    password: input.secret?.password ?? '',
    connectionTimeoutMillis: 8000,
    ssl: encryptionOf(input) ?? false,
    application_name: 'idrel',
    options: `-c default_transaction_read_only=${options.writes ? 'off' : 'on'} -c statement_timeout=${options.statementTimeout} -c idle_in_transaction_session_timeout=120000 ${Object.entries(
      SESSION,
    )
      .map(([name, value]) => `-c ${name}=${value}`)
      .join(' ')}`,
  });
  client.on('error', () => undefined); // a connection that breaks fails the statement at hand; that one reports it
  try {
    await client.connect();
  } catch (error) {
    throw explainConnectError(error, input);
  }
  return client;
}
