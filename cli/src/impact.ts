import { writeFile } from 'node:fs/promises';
import { changesBetween, madeByScripts, type ScriptChange } from '@idrel/core/lineage';
import { loadParser } from '@idrel/core/sql';
import { asking } from './asker.ts';
import { changedScripts } from './changed.ts';
import { type Affected, MARK, markdownOf } from './impactText.ts';
import { impactOffline } from './offline.ts';
import { CliProblem } from './problem.ts';
import { serverFor } from './servers.ts';

interface Options {
  changed: string;
  repository: string;
  server?: string;
  user?: string;
  catalog?: string;
  source: string;
  dialect: string;
  rule?: string;
  post?: string;
  out?: string;
  json?: boolean;
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
  const { affected, knower } = await affectedBy(taken, options);
  const broken = affected.filter(({ rows }) => rows?.some(({ matches }) => matches));
  const text = markdownOf({
    range: options.changed,
    source: options.source,
    knower,
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

/** What is made of what changes, by a server or by an export of its catalog. */
async function affectedBy(
  taken: readonly ScriptChange[],
  { catalog, server, user, source, rule }: Options,
): Promise<{ affected: readonly Affected[]; knower: string }> {
  if (catalog !== undefined) {
    if (server !== undefined) throw new CliProblem('Both --catalog and --server are given.', 'Leave one of them out.');
    const { at, affected } = await impactOffline(catalog, source, taken, rule);
    return { affected, knower: `the export of ${at}` };
  }
  const { address, key } = await serverFor(server);
  if (user === undefined && !key)
    throw new CliProblem(
      'Nobody is named to ask.',
      'Name a server and who asks it with --server and --user (or a key in IDREL_KEY), or an export of its catalog with --catalog.',
    );
  const affected: Affected[] = [];
  if (taken.length > 0)
    await asking(server, user, async (asker) => {
      for (const change of taken) affected.push({ change, rows: await asker.impactOf(source, change, rule) });
    });
  return { affected, knower: address };
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
