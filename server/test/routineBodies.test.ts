import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { impactList } from '../src/lineage/impact.ts';
import { lineagePicture } from '../src/lineage/picture.ts';
import { edgesOf } from '../src/lineage/said.ts';
import { statementsOf } from '../src/lineage/statements.ts';
import { executeRun } from '../src/scanning/index.ts';
import { freshDatabase, postgresSource, refused, staffed, testConfig, urlOf, withClient } from './place.ts';

const system = `bodies_${process.pid}`;
const config = testConfig();
let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof staffed>>;
let sourceId: string;

const sql = (text: string) => withClient(urlOf(system), (client) => client.query(text));
const scan = async () => {
  const run = await place.db.one<{ id: string }>(
    'insert into scan_run (source_id, options) values ($1, \'{"sample": false}\') returning id',
    [sourceId],
  );
  await executeRun(place.db, config, run?.id ?? '');
  return place.db.one<{ state: string }>('select state from scan_run where id = $1', [run?.id ?? '']);
};
const idOf = async (path: string) =>
  (
    await place.db.one<{ id: string }>('select id from asset where key = $1', [
      [system, ...path.split('/')].join('\u001f'),
    ])
  )?.id ?? '';
/** Edges of the catalog in short form, with the flow and the line that say them. */
const edges = async () =>
  (
    await place.db.rows<{ told: string }>(
      `select f.name || ' ' || coalesce(e.line::text, '-') || ': ' || a.key || ' > ' || b.key || ' ' || e.kind as told
       from lineage_edge e
       join flow l on l.id = e.flow_id
       join asset f on f.id = l.asset_id
       join asset a on a.id = e.from_id
       join asset b on b.id = e.to_id
       where l.source_id = $1`,
      [sourceId],
    )
  )
    .map(({ told }) => told.replaceAll(`${system}\u001f`, '').replaceAll('\u001f', '.'))
    .sort();

beforeAll(async () => {
  place = await freshDatabase();
  home = await staffed(place.db);
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await sql(`
    create schema s; create schema other;
    create table s.passenger (id int, email text, born date);
    create table s.mail (address text, subject text);
    create table s.log (what text, of_row int);
    create table s.old (id int, email text);
    create table other.passenger (email text);
    create type s.pair as (a text, b text);
    create function s.send(of_year int) returns void language plpgsql as $$
declare
  p s.passenger%rowtype;
begin
  create temporary table chosen on commit drop as select * from s.passenger where extract(year from born) = of_year;
  for p in select * from chosen loop
    insert into s.mail (address) values (lower(p.email));
  end loop;
end $$;
    create procedure s.guess(t text) language plpgsql as $$
begin
  execute format('insert into s.%I select email from s.passenger', t);
  execute t;
end $$;
    create function s.keep() returns trigger language plpgsql as $$
begin
  insert into s.log (what, of_row) values (tg_op, new.id);
  return new;
end $$;
    create trigger kept after insert on s.passenger for each row execute function s.keep();
    create trigger kept_old after insert on s.old for each row execute function s.keep();
    create function other.take() returns void language sql set search_path to other as 'insert into s.mail (address) select email from passenger';
    create function s.unread() returns int language internal as 'int4um';
    create rule put_away as on delete to s.passenger do also insert into s.old values (old.id, old.email);
    create view s.seen as select address from s.mail;`);
  sourceId = await postgresSource(place.db, {
    name: 'Bodies',
    domainId: home.domainId,
    database: system,
    key: config.key,
  });
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database ${system} with (force)`));
});

describe('bodies of functions, procedures, triggers and rules of a source', () => {
  it('are flows through which values go, each with the line that says so', async () => {
    expect(await scan()).toEqual({ state: 'done' });
    expect(await edges()).toEqual([
      'keep() 6: s.old.id > s.log.of_row copied',
      'keep() 6: s.passenger.id > s.log.of_row copied',
      'passenger 1: s.passenger.email > s.old.email copied',
      'passenger 1: s.passenger.id > s.old.id copied',
      'seen -: s.mail.address > s.seen.address copied',
      'send(integer) 10: s.passenger.email > s.mail.address transformed',
      'take() 5: other.passenger.email > s.mail.address copied',
    ]);
    const decided = await place.db.rows(
      `select c.name as column, t.name as table, i.kind
       from lineage_influence i
       join flow l on l.id = i.flow_id
       join asset f on f.id = l.asset_id
       join asset c on c.id = i.from_id
       join asset t on t.id = i.to_id
       where f.name = 'send(integer)' and i.kind <> 'unused'`,
    );
    expect(decided).toEqual([{ column: 'born', table: 'mail', kind: 'filter' }]);
  });

  it('are followed: in the picture between their tables, and in the list of what is concerned', async () => {
    const picture = await lineagePicture(place.db, home.reader, await idOf('s/passenger'), {
      upstream: 1,
      downstream: 1,
    });
    const send = picture.flows.find(({ name }) => name === 'send(integer)');
    expect(send).toMatchObject({ kind: 'function', from: [await idOf('s/passenger')], to: [await idOf('s/mail')] });
    expect(send?.statement).toContain('create temporary table chosen');
    const impact = await impactList(place.db, home.reader, await idOf('s/passenger/email'), 'downstream');
    expect(impact.map(({ path }) => path).sort()).toEqual(
      ['s.mail.address', 's.old.email', 's.seen.address'].map((path) => path),
    );
    const { items } = await edgesOf(place.db, home.reader, await idOf('s/mail/address'), 'upstream', {
      ended: false,
      limit: 50,
    });
    expect(items.map(({ from, flow, line }) => [from.path, flow?.name, line]).sort()).toEqual([
      ['other.passenger.email', 'take()', 5],
      ['s.passenger.email', 'send(integer)', 10],
    ]);
    // A function is what it stands between: what it reads and what it writes.
    const around = await lineagePicture(place.db, home.reader, await idOf('s/send(integer)'), {
      upstream: 1,
      downstream: 1,
    });
    expect(around.nodes.map(({ path }) => path).sort()).toEqual(['s.mail', 's.passenger']);
  });

  it('that are not understood are listed with their reason, line and share', async () => {
    const told = await statementsOf(place.db, home.reader, sourceId, { lost: false, offset: 0, limit: 50 });
    expect(told).toMatchObject({ flows: 7, lost: 2, partly: 1, total: 3 });
    expect(told.items.map(({ asset, line, reason, lost }) => [asset.path, line, lost, reason])).toEqual([
      ['s.guess(text)', 6, true, 'dynamic SQL: the statement is put together when it runs'],
      ['s.unread()', 1, true, 'the body of a function in this language (internal) is not read'],
      [
        's.guess(text)',
        5,
        false,
        'dynamic SQL: what stands as … is known only when it runs: of its text is known: insert into s."…" select email from s.passenger',
      ],
    ]);
    const lost = await statementsOf(place.db, home.reader, sourceId, { lost: true, offset: 1, limit: 1 });
    expect([lost.total, lost.items.map(({ asset }) => asset.path)]).toEqual([2, ['s.unread()']]);
  });

  it('are shown to nobody who may not see the source', async () => {
    expect(
      await refused(statementsOf(place.db, home.stranger, sourceId, { lost: false, offset: 0, limit: 50 })),
    ).toMatchObject({ status: 404 });
  });

  it('change with them: what a body no longer does is no edge, and what nobody calls by that name is gone', async () => {
    await sql(`
      create or replace function s.send(of_year int) returns void language plpgsql as $$ begin insert into s.mail (subject) select email from s.passenger; end $$;
      drop function other.take();`);
    expect(await scan()).toEqual({ state: 'done' });
    expect((await edges()).filter((edge) => /mail\./.test(edge))).toEqual([
      'seen -: s.mail.address > s.seen.address copied',
      'send(integer) 4: s.passenger.email > s.mail.subject copied',
    ]);
  });
});
