import { clientOver, type Idrel } from '@idrel/client';
import { addressEndpoints } from '@idrel/contract/catalog';
import { ApiClient, Refusal } from '@idrel/contract/http/client';
import { type ImpactRow, lineageEndpoints } from '@idrel/contract/lineage';
import { peopleEndpoints } from '@idrel/contract/people';
import { sourceEndpoints } from '@idrel/contract/sources';
import type { ScriptChange } from '@idrel/core/lineage';
import { CliProblem } from './problem.ts';
import { serverFor } from './servers.ts';

/** Somebody who asks a server, with what they may see. */
export class Asker extends ApiClient {
  /** @param user an e-mail address; on a server of the demo also the name of one of its people */
  async signIn(user: string, password: string | undefined): Promise<void> {
    const { demoPeople } = await this.ask(peopleEndpoints.session);
    const demo = demoPeople.find(({ name }) => name === user);
    if (!demo && !password)
      throw new CliProblem('There is no password to sign in with.', 'Set IDREL_PASSWORD to that of the person.');
    const opened = await this.ask(peopleEndpoints.signIn, {
      body: demo ? { demoPersonId: demo.id } : { email: user, password: password ?? '' },
    });
    this.token = opened.csrf ?? '';
  }

  /** The same caller as a client of all operations. */
  client(): Idrel {
    return clientOver(this);
  }

  /** All that is made of what a change touches; null where the catalog does not have it. */
  async impactOf(source: string, change: ScriptChange, rule: string | undefined): Promise<ImpactRow[] | null> {
    const names = [source, change.schema, change.relation, ...(change.column === null ? [] : [change.column])];
    try {
      const { id } = await this.ask(addressEndpoints.at, {
        query: { address: `/at/${names.map(encodeURIComponent).join('/')}` },
      });
      return [...(await this.ask(lineageEndpoints.impact, { query: { asset: id, ...(rule ? { rule } : {}) } }))];
    } catch (error) {
      if (error instanceof Refusal && error.status === 404) return null;
      throw error;
    }
  }

  /** What is made of a source, as a file. @throws {CliProblem} where there is no such source */
  async exportOf(name: string): Promise<string> {
    const sources = await this.ask(sourceEndpoints.list);
    const source = sources.find((one) => one.name === name);
    if (!source)
      throw new CliProblem(
        `There is no source “${name}”.`,
        `Name one of: ${sources.map((one) => one.name).join(', ') || 'none is yours to see'}.`,
      );
    const { content } = await this.ask(lineageEndpoints.exported, { params: { id: source.id } });
    return Buffer.from(content, 'base64').toString('utf8');
  }
}

/** @throws {CliProblem} where nobody is named */
function mustBeNamed(user: string | undefined): string {
  if (user === undefined) throw new CliProblem('Nobody is named to sign in.', 'Give --user, or a key in IDREL_KEY.');
  return user;
}

/** Asks a server as somebody, or with the key of a program (IDREL_KEY); whatever it refuses, or does not answer, is told with what mends it. */
export async function asking<T>(
  server: string | undefined,
  user: string | undefined,
  work: (asker: Asker, address: string) => Promise<T>,
): Promise<T> {
  const { address, key: there } = await serverFor(server);
  // Whoever names somebody asks as them, and not by a key that is kept.
  const key = user !== undefined && !process.env.IDREL_KEY ? undefined : there;
  const asker = new Asker(address, key);
  try {
    // A key is somebody already.
    if (!key) await asker.signIn(mustBeNamed(user), process.env.IDREL_PASSWORD);
    return await work(asker, address);
  } catch (error) {
    // What is wrong with what was to be sent comes out of the request that sent it.
    const { cause } = error as Error;
    for (const one of [error, cause]) if (one instanceof CliProblem) throw one;
    if (error instanceof Refusal && key && error.status === 401)
      throw new CliProblem(
        `The key ${process.env.IDREL_KEY ? 'in IDREL_KEY' : 'that is kept'} opens nothing.`,
        'Make another one under Settings → Keys for programs.',
      );
    if (error instanceof Refusal)
      throw new CliProblem(error.message, error.mend || 'Check --user, IDREL_PASSWORD and --rule.');
    throw new CliProblem(`${address} cannot be reached: ${(error as Error).message}`, 'Check --server.');
  }
}
