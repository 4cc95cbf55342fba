import { CONNECTORS } from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { differences } from '../src/scanning/compare.ts';
import { inputOf, urlOf, withClient } from './place.ts';

const system = `rights_${process.pid}`;
const [reader, writer] = [`reader_${process.pid}`, `the "writer" ${process.pid}`];
const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`;
const sql = (text: string) => withClient(urlOf(system), (client) => client.query(text));

beforeAll(async () => {
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}; `));
  await withClient(urlOf('postgres'), (client) => client.query(`create role ${reader}; create role ${quoted(writer)}`));
  await sql(`create schema s; create schema mine authorization ${reader};
    create table s.plain (a int); create table s.open_to_all (a int); create table s.parts (a int, email text, note text); create view mine.v as select 1 as x;
    grant select on s.open_to_all to public;
    grant select, insert on s.parts to ${quoted(writer)} with grant option; grant select (a, note) on s.parts to ${reader};
    grant usage on schema s to ${reader}; alter view mine.v owner to ${reader}`);
});
afterAll(async () => {
  await withClient(urlOf('postgres'), (client) => client.query(`drop database ${system} with (force)`));
  await withClient(urlOf('postgres'), (client) => client.query(`drop role ${reader}; drop role ${quoted(writer)}`));
});

const read = async (known?: Parameters<Awaited<ReturnType<typeof CONNECTORS.postgresql.open>>['structure']>[1]) => {
  const reading = await CONNECTORS.postgresql.open(inputOf(system));
  try {
    return await reading.structure(() => undefined, known);
  } finally {
    await reading.close();
  }
};
/** What a structure says of something, but for the parts of a table, which have a test of their own. */
const factsOf = (
  structure: Awaited<ReturnType<typeof read>>,
  ...names: string[]
): Readonly<Record<string, unknown>> => {
  const { details: _, ...facts } =
    structure.assets.find((asset) => asset.key === [system, ...names].join('\u001f'))?.native ?? {};
  return facts;
};

describe('rights at a PostgreSQL source', () => {
  it('are read with owners: on tables, on single columns, on schemas, for everybody', async () => {
    const structure = await read();
    const me = new URL(urlOf(system)).username;
    expect(factsOf(structure, 's', 'plain')).toEqual({ owner: me });
    expect(factsOf(structure, 's', 'open_to_all')).toEqual({ owner: me, rights: { everybody: 'SELECT' } });
    expect(factsOf(structure, 's', 'parts').rights).toEqual({
      [writer]: 'INSERT and pass it on, SELECT and pass it on',
      [reader]: 'SELECT (a, note)',
    });
    expect(factsOf(structure, 'mine', 'v').owner).toBe(reader);
    expect(factsOf(structure, 's')).toEqual({ owner: me, rights: { [reader]: 'USAGE' } });
    expect(factsOf(structure, 'mine').owner).toBe(reader);
  });

  it('are a change when they change, also for a scan of what has changed alone', async () => {
    const before = await read({ marks: new Map(), data: false });
    const again = await read({ marks: before.marks ?? new Map(), data: false });
    expect(again.unchanged?.size).toBe(4);
    await sql(`grant select on s.plain to public; grant update (note) on s.parts to ${reader}`);
    const after = await read({ marks: before.marks ?? new Map(), data: false });
    expect([...(after.unchanged ?? [])].map((key) => key.split('\u001f').at(-1)).sort()).toEqual(['open_to_all', 'v']);
    expect(factsOf(after, 's', 'parts').rights).toMatchObject({ [reader]: 'SELECT (a, note), UPDATE (note)' });
    const asset = (native: Record<string, unknown>) => ({
      key: 'k',
      parentKey: null,
      kind: 'table' as const,
      name: 'n',
      depth: 0,
      position: 0,
      comment: null,
      native,
      stats: {},
    });
    const known = (native: Record<string, unknown>) => ({ ...asset(native), id: 'x', description: null, gone: false });
    expect(differences(known({ owner: 'a' }), asset({ owner: 'a', rights: { everybody: 'SELECT' } }))).toEqual([
      'rights: none → {"everybody":"SELECT"}',
    ]);
    // What an earlier version had not read is no change.
    expect(differences(known({}), asset({ owner: 'a', rights: { everybody: 'SELECT' } }))).toEqual([]);
  });
});
