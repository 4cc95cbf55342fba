import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { CONNECTORS, type FoundFlow, KEY_SEPARATOR, type Reading } from '@idrel/readers/connectors';
import sqlite from 'node-sqlite3-wasm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/**
 * Lineage of SQLite's views, held against SQLite itself: each column of each table has a value that no other has, so what a column of a view shows
 * tells where it comes from.
 */
const home = mkdtempSync(join(tmpdir(), 'idrel-sqlite-views-'));
const path = join(home, 'views.sqlite');
const TABLES = `
  create table Crew (Name text, CrewId integer, "order" text, Rank text);
  create table Duty (Port text, CrewId integer, Day text, Rank text);
  create table [Odd Table] ([the name] text, \`user\` text, CrewId integer);
  insert into Crew values ('crew.Name', 1, 'crew.order', 'rank'), ('crew.Name', 3, 'crew.order', 'rank');
  insert into Duty values ('duty.Port', 1, 'duty.Day', 'rank');
  insert into [Odd Table] values ('odd.the name', 'odd.user', 1);`;
/** Only columns of texts are looked at: numbers join. */
const SOURCES: Record<string, string> = {
  'crew.Name': 'Crew.Name',
  'crew.order': 'Crew.order',
  'duty.Port': 'Duty.Port',
  'duty.Day': 'Duty.Day',
  'odd.the name': 'Odd Table.the name',
  'odd.user': 'Odd Table.user',
};
const VIEWS: Record<string, string> = {
  using_star: 'select * from Crew join Duty using (CrewId, Rank)',
  using_left: 'select * from Crew left join Duty using (CrewId)',
  natural_star: 'select * from Crew natural join Duty',
  natural_three: 'select * from Crew natural join Duty natural join [Odd Table]',
  using_alias: 'select d.*, c.* from Crew c join Duty d using (CrewId)',
  capitals: 'SELECT NAME AS n, crew."ORDER" AS o FROM CREW',
  brackets: 'select [the name] as a, `user` as b, [Odd Table].CrewId from [Odd Table]',
  bare_user: 'select user as u, [the name] as n from [Odd Table]',
  limit_comma: 'select Name, "order" from Crew limit 0, 5',
  limit_inner: 'select q.n, q.o from (select Name n, "order" o from Crew limit 1, 2) q',
  postfix: 'select Name from Crew where Rank not null and CrewId is not 99 and Name is not null',
  is_value: "select Name from Crew where Rank is 'rank' and CrewId is not (select 7)",
  globbing: "select Name, Port from Crew, Duty where Name glob 'crew*' and Port like 'd%'",
  equals: 'select c.Name, d.Day from Crew c, Duty d where c.CrewId == d.CrewId',
  indexed: 'select Name from Crew not indexed where CrewId = 1',
  union_all: "select Name as v, 'x' as w from Crew union all select Port, Day from Duty",
  with_names: 'with t(a, b) as (select Name, "order" from Crew) select b, a from t',
  expression: "select upper(Name) || '!' as loud, coalesce(\"order\", 'none') as o from Crew",
  scalar: 'select (select Port from Duty d where d.CrewId = c.CrewId) as port, c.Name from Crew c where c.CrewId = 1',
  columns_named: 'select Name, "order" from Crew',
  comments: 'select /* a; [b */ Name -- as "x"\n, "order" from Crew',
  as: 'select Port, Day from Duty',
};
let reading: Reading;
let flows: FoundFlow[];
let database: InstanceType<typeof sqlite.Database>;

beforeAll(async () => {
  database = new sqlite.Database(path);
  database.exec(TABLES);
  for (const [name, query] of Object.entries(VIEWS))
    database.exec(`create view "${name}"${name === 'columns_named' ? ' (first, second)' : ''} as ${query}`);
  reading = await CONNECTORS.sqlite.open({ name: 'Views', address: { path }, secret: null });
  flows = await reading.flows();
});
afterAll(async () => {
  await reading.close();
  database.close();
  rmSync(home, { recursive: true, force: true });
});

describe('views of SQLite', () => {
  it.each(Object.keys(VIEWS))('%s: each column comes from where its values come from', (name) => {
    const flow = flows.find((entry) => entry.key.endsWith(`${KEY_SEPARATOR}${name}`));
    expect(flow?.problems).toEqual([]);
    const rows = database.all(`select * from "${name}"`) as Record<string, unknown>[];
    expect(rows.length).toBeGreaterThan(0);
    const shown = new Set<string>();
    for (const row of rows)
      for (const [column, value] of Object.entries(row)) {
        const from = Object.keys(SOURCES).filter((mark) => String(value).toLowerCase().includes(mark.toLowerCase()));
        for (const mark of from) shown.add(`${SOURCES[mark]} > ${column}`);
      }
    const marked = new Set(Object.values(SOURCES));
    const told = new Set(
      (flow?.edges ?? [])
        .map((edge) => `${edge.from.split(KEY_SEPARATOR).slice(1).join('.')} > ${edge.to.split(KEY_SEPARATOR).at(-1)}`)
        .filter((edge) => marked.has(edge.split(' > ')[0] ?? '')),
    );
    expect([...told].sort()).toEqual([...shown].sort());
  });
});
