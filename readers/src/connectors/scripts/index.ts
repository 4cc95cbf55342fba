import { readFile, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { type KnownRelation, readScript, SchemaCatalog } from '@idrel/core/lineage';
import { loadParser } from '@idrel/core/sql';
import { type WalkedFile, walk } from '../../files/index.ts';
import { inFolderWords, reachFolder } from '../folder/index.ts';
import { runSteps } from '../steps.ts';
import { takingTurns } from '../turns.ts';
import {
  type Connector,
  type ConnectorInput,
  type FoundAsset,
  type FoundFlow,
  keyOf,
  OUTLINE_MOST,
  placeOf,
  type Reading,
} from '../types.ts';
import { attempt, toldFlow } from '../written.ts';

/** A folder of SQL scripts: each is a flow between tables of the database at which they run. It holds no values of its own. */
export const scripts: Connector = { test, open };

const isScript = ({ names }: Pick<WalkedFile, 'names'>): boolean => /\.(sql|ddl|pgsql|psql)$/i.test(names.at(-1) ?? '');
/** Longer scripts are dumps: data with a little SQL around it. */
const SCRIPT_BYTES = 8 << 20;
/** So much of a script is kept to be shown. */
const SHOWN = 200_000;

const scriptsIn = async (root: string): Promise<WalkedFile[]> => (await walk(root)).files.filter(isScript);

async function test({ address }: ConnectorInput) {
  const root = String(address.path);
  return runSteps([
    ...reachFolder(root),
    [
      'Rights to read data',
      async () => {
        const found = await scriptsIn(root);
        return `${found.length} scripts lie in it.`;
      },
    ],
  ]);
}

interface Script {
  readonly file: WalkedFile;
  readonly text: string;
  /** Why it was not read. */
  readonly problem?: string;
}

async function readTexts(root: string): Promise<Script[]> {
  const texts: Script[] = [];
  for (const file of await scriptsIn(root)) {
    if (file.bytes > SCRIPT_BYTES)
      texts.push({ file, text: '', problem: `it is longer than ${SCRIPT_BYTES >> 20} MB, and was not read` });
    else
      texts.push(
        await readFile(file.path).then(
          (bytes) => ({ file, text: toText(bytes) }),
          (error: Error) => ({ file, text: '', problem: `it cannot be read: ${error.message}` }),
        ),
      );
  }
  return texts;
}

/** What is no UTF-8 was written where each letter is one byte. */
function toText(bytes: Buffer): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return bytes.toString('latin1');
  }
}

async function open(input: ConnectorInput): Promise<Reading> {
  const root = String(input.address.path);
  await stat(root).catch((error: unknown) => {
    throw inFolderWords(error, root);
  });
  const top = basename(root);
  let stopped = false;
  let texts: Promise<Script[]> | undefined;
  const read = () => {
    texts ??= readTexts(root);
    return texts;
  };
  return {
    async outline() {
      const found = await scriptsIn(root);
      return [
        ...foldersOf(found).map((names) => ({ path: names.join('/'), kind: 'folder' })),
        ...found.map(({ names }) => ({ path: names.join('/'), kind: 'flow' })),
      ].slice(0, OUTLINE_MOST);
    },
    async structure(progress) {
      const list = await read();
      const assets = [
        holder(top, [], { path: root }),
        ...foldersOf(list.map(({ file }) => file)).map((names) => holder(top, names)),
        ...list.map((script) => toAsset(top, script, String(input.address.system))),
      ];
      progress(assets.length, 0);
      return { assets, sampleable: [] };
    },
    sample: async () => ({ values: [] }),
    flows: async () => readFlows(await read(), top, input, () => stopped),
    abort: () => {
      stopped = true;
    },
    close: async () => undefined,
  };
}

/** The folders in which scripts lie, each after the one that holds it. */
function foldersOf(files: readonly WalkedFile[]): string[][] {
  const folders = new Map<string, string[]>();
  for (const { names } of files)
    for (let depth = 1; depth < names.length; depth += 1) {
      const folder = names.slice(0, depth);
      folders.set(folder.join('/'), folder);
    }
  return [...folders.values()];
}

const holder = (top: string, names: readonly string[], native: FoundAsset['native'] = {}): FoundAsset => ({
  key: keyOf(top, ...names),
  parentKey: names.length === 0 ? null : keyOf(top, ...names.slice(0, -1)),
  kind: 'folder',
  name: names.at(-1) ?? top,
  depth: names.length,
  position: 0,
  comment: null,
  native,
  stats: {},
});

function toAsset(top: string, { file, text, problem }: Script, system: string): FoundAsset {
  return {
    ...holder(top, file.names),
    kind: 'flow',
    native: {
      ...(text ? { definition: text.slice(0, SHOWN) } : {}),
      codeLanguage: system === 'mariadb' ? 'SQL (MariaDB)' : 'SQL (PostgreSQL)',
      codeAt: file.names.join('/'),
      ...(problem ? { problem } : {}),
    },
    stats: { bytes: file.bytes },
  };
}

/** What stands in one script may be named in any other: all are learnt before what any of them does is told. */
async function readFlows(
  list: readonly Script[],
  top: string,
  { address, relations = [] }: ConnectorInput,
  isStopped: () => boolean,
): Promise<FoundFlow[]> {
  await loadParser();
  const system = address.system === 'mariadb' ? 'mariadb' : 'postgresql';
  const catalog = catalogOf(system, String(address.schema ?? ''), relations);
  const place = placeOf(system, String(address.host), Number(address.port), String(address.database));
  const flows: FoundFlow[] = [];
  const turn = takingTurns();
  const rest = async () => {
    if (isStopped()) throw new Error('The reading was terminated.');
    await turn();
  };
  for (const { text } of list) {
    attempt(text, SCRIPT_BYTES, () => readScript(text, catalog));
    await rest();
  }
  for (const { file, text, problem } of list) {
    const base = {
      key: keyOf(top, ...file.names),
      kind: 'script',
      origin: 'script' as const,
      statement: text.slice(0, SHOWN),
    };
    const read = problem
      ? { statements: [], unresolved: [{ statement: '', line: 1, reason: problem, lost: true }], read: 1 }
      : attempt(text, SCRIPT_BYTES, () => readScript(text, catalog.within()));
    flows.push(
      toldFlow(base, read, {
        column: ({ schema, relation, column }) => ({ place, names: namesAt(system, schema, relation), column }),
        table: ({ schema, relation }) => ({ place, names: namesAt(system, schema, relation) }),
      }),
    );
    await rest();
  }
  return flows;
}

/** MariaDB has no schemas below a database. */
const MARIA_SCHEMA = 'main';
const namesAt = (system: 'postgresql' | 'mariadb', schema: string, relation: string): string[] =>
  system === 'mariadb' ? [relation] : [schema, relation];

function catalogOf(
  system: 'postgresql' | 'mariadb',
  schema: string,
  relations: readonly KnownRelation[],
): SchemaCatalog {
  const catalog =
    system === 'mariadb'
      ? new SchemaCatalog([MARIA_SCHEMA], 'mariadb')
      : new SchemaCatalog(['pg_catalog', ...(schema ? [schema] : []), 'public']);
  for (const relation of relations)
    catalog.addRelation(system === 'mariadb' ? { ...relation, schema: MARIA_SCHEMA } : relation);
  return catalog;
}
