import { writeFile } from 'node:fs/promises';
import { addressEndpoints } from '@idrel/contract/catalog';
import { ApiClient, Refusal } from '@idrel/contract/http/client';
import { type ImpactRow, lineageEndpoints } from '@idrel/contract/lineage';
import { peopleEndpoints } from '@idrel/contract/people';
import { changesBetween, madeByScripts, type ScriptChange } from '@idrel/core/lineage';
import { loadParser } from '@idrel/core/sql';
import { changedScripts } from './changed.ts';
import { type Affected, MARK, markdownOf } from './impactText.ts';
import { CliProblem } from './problem.ts';

interface Options {
  changed: string;
  repository: string;
  server: string;
  user: string;
  source: string;
  dialect: string;
  rule?: string;
  post?: string;
  out?: string;
  json?: boolean;
}

/** Somebody who asks a server, with what they may see. */
class Asker extends ApiClient {
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
}

/**
 * `idrel impact`: what a change of scripts does to all that is made of what they make, as Markdown; said in a merge request where one is named. Exit
 * status 4: the rule holds for something that the change takes away or makes otherwise.
 */
export async function impact(options: Options): Promise<void> {
  if (options.dialect !== 'postgresql' && options.dialect !== 'mariadb')
    throw new CliProblem(
      `--dialect ${options.dialect}: it is none that is read.`,
      'Use --dialect postgresql or --dialect mariadb.',
    );
  await loadParser();
  const { before, after, touched } = await changedScripts(options.repository, options.changed);
  const [was, now] = [before, after].map((files) =>
    madeByScripts(files, options.dialect === 'mariadb' ? 'mariadb' : 'postgresql'),
  );
  const changes = was && now ? changesBetween(was, now) : [];
  const lost = (now?.unresolved ?? []).filter((one) => one.lost && touched.includes(one.path));
  // What comes anew has nothing made of it yet.
  const taken = changes.filter(({ what }) => what !== 'added');
  const affected: Affected[] = [];
  if (taken.length > 0) {
    const asker = new Asker(options.server);
    try {
      await asker.signIn(options.user, process.env.IDREL_PASSWORD);
      for (const change of taken)
        affected.push({ change, rows: await asker.impactOf(options.source, change, options.rule) });
    } catch (error) {
      if (error instanceof CliProblem) throw error;
      if (error instanceof Refusal)
        throw new CliProblem(error.message, error.mend || 'Check --user, IDREL_PASSWORD and --rule.');
      throw new CliProblem(`${options.server} cannot be reached: ${(error as Error).message}`, 'Check --server.');
    }
  }
  const broken = affected.filter(({ rows }) => rows?.some(({ matches }) => matches));
  const text = markdownOf({
    range: options.changed,
    source: options.source,
    server: options.server,
    touched,
    affected,
    added: changes.filter(({ what }) => what === 'added'),
    lost,
    rule: options.rule,
  });
  if (options.json)
    process.stdout.write(
      `${JSON.stringify({ touched, changes, affected, lost, breaksRule: broken.length > 0 }, null, 1)}\n`,
    );
  else process.stdout.write(`${text}\n`);
  if (options.out) await writeFile(options.out, `${text}\n`);
  if (options.post) await post(options.post, text);
  if (broken.length > 0) process.exitCode = 4;
}

/** Says it in a merge request: in the comment that was written before, where there is one. @param url of its comments */
async function post(url: string, text: string): Promise<void> {
  const ask = async (method: string, at: string, body?: object): Promise<unknown> => {
    const response = await fetch(at, {
      method,
      headers: {
        'content-type': 'application/json',
        authorization: `Bearer ${process.env.IDREL_CODE_TOKEN ?? ''}`,
      },
      ...(body ? { body: JSON.stringify(body) } : {}),
    }).catch((error: Error) => {
      throw new CliProblem(`${at} cannot be reached: ${error.message}`, 'Check --post.');
    });
    if (!response.ok)
      throw new CliProblem(
        `${method} ${at} was answered ${response.status}: ${(await response.text()).slice(0, 300)}`,
        'Check --post, and the token in IDREL_CODE_TOKEN.',
      );
    return response.json();
  };
  const comments = (await ask('GET', url)) as { id: number | string; body: string }[];
  const own = comments.find(({ body }) => body.includes(MARK));
  await (own ? ask('PUT', `${url}/${own.id}`, { body: text }) : ask('POST', url, { body: text }));
  process.stderr.write(own ? 'The comment was brought up to date.\n' : 'The comment was written.\n');
}
