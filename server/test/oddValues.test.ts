import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { executeRun } from '../src/scanning/index.ts';
import { freshDatabase, furnish, postgresSource, testConfig, urlOf, withClient } from './place.ts';

/** One odd value must not fail a whole scan: it is kept readable, marked, told of, and the scan goes on. */
let place: Awaited<ReturnType<typeof freshDatabase>>;
let domainId: string;
const root = mkdtempSync(join(tmpdir(), 'idrel-odd-'));
const system = `odd_${process.pid}`;
const config = testConfig();

beforeAll(async () => {
  place = await freshDatabase();
  domainId = (await furnish(place.db)).domainId;
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) =>
    client.query(`
      create schema ${String.raw`U&"odd\001fschema"`};
      create table ${String.raw`U&"odd\001fschema"`}.plain (id int, note text);
      create table public.honest (id int, town text);
      insert into public.honest values (1, 'Ulvey');
      comment on table public.honest is '${'w'.repeat(3000)} is a word';
      comment on column public.honest.town is E'a\tb\u0001c';`),
  );
  writeFileSync(join(root, 'nul.csv'), `id,no\0te,${'w'.repeat(5000)}\n1,a\0b,x\n2,c,y\n`);
  writeFileSync(
    join(root, 'nul.json'),
    '[{"k\\u0000ey": "v\\u0000alue", "plain": 1}, {"k\\u0000ey": "v\\u0000alue", "plain": 2}]',
  );
  writeFileSync(join(root, 'honest.csv'), 'id,town\n1,Ulvey\n');
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
  rmSync(root, { recursive: true, force: true });
});

async function scanned(sourceId: string): Promise<{ state: string; log: string; names: string[] }> {
  const { db } = place;
  const [run] = await db.rows<{ id: string }>(
    "insert into scan_run (source_id, state) values ($1, 'waiting') returning id",
    [sourceId],
  );
  await executeRun(db, config, run?.id ?? '');
  const after = await db.one<{ state: string }>('select state from scan_run where id = $1', [run?.id]);
  const log = await db.rows<{ text: string }>('select text from scan_log where run_id = $1 order by id', [run?.id]);
  const names = await db.rows<{ name: string }>('select name from asset where source_id = $1 order by key', [sourceId]);
  return {
    state: after?.state ?? '',
    log: log.map((line) => line.text).join('\n'),
    names: names.map((row) => row.name),
  };
}

describe('odd values', () => {
  it('of files are kept readable, and told of', async () => {
    const rows = await place.db.rows<{ id: string }>(
      "insert into source (name, kind, address, domain_id) values ('Odd files', 'folder', $1, $2) returning id",
      [JSON.stringify({ path: root }), domainId],
    );
    const { state, log, names } = await scanned(rows[0]?.id ?? '');
    expect(['done', 'partly done'], log).toContain(state);
    expect(names).toEqual(expect.arrayContaining(['honest.csv', 'town', 'nul.csv', 'nul.json']));
    expect(
      names.some((name) => name.startsWith('wwww') && name.length === 300 && name.includes('…')),
      names.join(' '),
    ).toBe(true);
    expect(log).toContain('holds what cannot be kept');
    expect(JSON.stringify(names)).not.toContain('\\u0000');
  });

  it('of a database neither part its keys nor fill its index', async () => {
    const source = await postgresSource(place.db, {
      name: 'Odd database',
      domainId,
      database: system,
      key: config.key,
    });
    const { state, log, names } = await scanned(source);
    expect(state, log).toBe('done');
    expect(names).toEqual(expect.arrayContaining(['odd␟schema', 'plain', 'note', 'honest', 'town']));
    const [facts] = await place.db.rows<{ there: string }>(
      "select native ->> 'nameThere' as there from asset where name = 'odd␟schema'",
    );
    expect(facts?.there).toBe('odd\\u001fschema');
    const found = await place.db.rows<{ name: string }>(
      "select name from asset where name <> 'nul.csv' and words @@ $1::tsquery",
      [`'${'w'.repeat(200)}'`],
    );
    expect(found.map((row) => row.name)).toEqual(['honest']);
  });
});
