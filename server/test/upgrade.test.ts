import { randomBytes } from 'node:crypto';
import { runMigrations } from 'graphile-worker';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Database, openDatabase } from '../src/platform/database.ts';
import { migrate } from '../src/platform/migrations.ts';
import { furnish, urlOf, withClient } from './place.ts';

// A catalog as the version before kept it, with what people had in it, brought to the newest schema.
const name = `test_upgrade_${randomBytes(6).toString('hex')}`;
const NOBODY = '6e3f0b0e-0000-4000-8000-000000000000';
let db: Database;
let home: Awaited<ReturnType<typeof furnish>>;
const one = async (sql: string, bind: unknown[] = []) => (await db.rows<{ id: string }>(sql, bind))[0]?.id ?? '';
const ids: Record<string, string> = {};

beforeAll(async () => {
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${name}`));
  db = openDatabase(urlOf(name));
  await runMigrations({ connectionString: urlOf(name) });
  await migrate(db.sequelize, '032-feeds.sql');
  home = await furnish(db);
  const asset = (parent: string | null, kind: string, path: string) =>
    one(
      'insert into asset (source_id, parent_id, domain_id, kind, name, key, depth) values ($1, $2, $3, $4, $5, $6, 1) returning id',
      [home.sourceId, parent, home.domainId, kind, path.split('.').at(-1), path],
    );
  ids.table = await asset(null, 'table', 's.person');
  ids.mail = await asset(ids.table, 'column', 's.person.mail');
  ids.view = await asset(null, 'view', 's.contacts');
  ids.contact = await asset(ids.view, 'column', 's.contacts.mail');
  ids.group = await one("insert into person_group (name) values ('Crew') returning id");
  const policy = (title: string, groups: string[], assets: string[], classes: string[]) =>
    one(
      `insert into policy (name, effect, everyone, group_ids, except_group_ids, person_ids, asset_ids, class_keys, mask)
       values ($1, 'protect', false, $2::uuid[], $2::uuid[], $3::uuid[], $4::uuid[], $5::text[], 'blank') returning id`,
      [title, groups, [home.personId], assets, classes],
    );
  ids.whole = await policy('Whole', [ids.group], [ids.table], ['email', 'email']);
  ids.partly = await policy('Partly there', [ids.group, NOBODY], [ids.table, NOBODY], []);
  ids.lost = await policy('Of what is gone', [ids.group], [NOBODY], ['email']);
  ids.classes = await policy('By class', [ids.group], [], ['email']);
  ids.flow = await one(
    "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'query of a view', 'select …') returning id",
    [home.sourceId, ids.view],
  );
  await db.run("insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'copied')", [
    ids.flow,
    ids.mail,
    ids.contact,
  ]);
  await db.run("insert into lineage_influence (flow_id, from_id, kind) values ($1, $2, 'filter')", [
    ids.flow,
    ids.mail,
  ]);
  await db.run(
    `insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence)
     values ($1, 'email', 'email.address', '1', 1, 9, 9, 9, 0.96, 'certain', '{}')`,
    [ids.mail],
  );
  await db.run(
    "insert into finding_decision (asset_id, class_key, decision, decided_by) values ($1, 'phone', 'confirmed', $2)",
    [ids.contact, home.personId],
  );
  for (const [person, roles] of [
    ['Zoe', ['owner', 'steward']],
    ['Ada', ['owner']],
    ['Mia', ['owner', 'custodian']],
  ] as const) {
    const id = await one('insert into person (name, email) values ($1, $1) returning id', [person]);
    for (const role of roles)
      await db.run('insert into asset_person (asset_id, person_id, role) values ($1, $2, $3)', [ids.table, id, role]);
  }
  await db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [
    ids.view,
    home.personId,
  ]);
  await db.run(
    "insert into journal (action, subject_kind, subject_id, subject_name) values ('scanned', 'source', 'x', 'X')",
  );
});
afterAll(async () => {
  await db.close();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${name} with (force)`));
});

describe('an upgrade', () => {
  it('runs what is new, and loses nothing that anybody wrote', async () => {
    const before = await db.rows('select asset_id, class_key from asset_class order by 1, 2');
    expect((await migrate(db.sequelize)).length).toBeGreaterThanOrEqual(4);

    const policies = await db.rows<{
      id: string;
      enabled: boolean;
      subjects: number;
      assets: string[];
      classes: string[];
    }>(
      `select p.id, p.enabled,
              (select count(*)::int from policy_subject s where s.policy_id = p.id) as subjects,
              array(select asset_id from policy_object o where o.policy_id = p.id and asset_id is not null) as assets,
              array(select class_key from policy_object o where o.policy_id = p.id and class_key is not null) as classes
       from policy p`,
    );
    const found = new Map(policies.map((policy) => [policy.id, policy]));
    // A group, the same excepted, and a person.
    expect(found.get(ids.whole ?? '')).toMatchObject({
      enabled: true,
      subjects: 3,
      assets: [ids.table],
      classes: ['email'],
    });
    expect(found.get(ids.partly ?? '')).toMatchObject({ enabled: true, subjects: 3, assets: [ids.table], classes: [] });
    // It held for a class within what is gone; without that it would hold for the class everywhere.
    expect(found.get(ids.lost ?? '')).toMatchObject({ enabled: false, assets: [], classes: ['email'] });
    expect(found.get(ids.classes ?? '')).toMatchObject({ enabled: true, assets: [], classes: ['email'] });

    expect(await db.rows('select key, origin from flow')).toEqual([{ key: 's.contacts', origin: 'view' }]);
    expect(await db.rows('select from_id, to_id, kind from lineage_influence')).toEqual([
      { from_id: ids.mail, to_id: ids.view, kind: 'filter' },
    ]);
    expect(await db.rows('select from_id, to_id from lineage_feed')).toEqual([{ from_id: ids.table, to_id: ids.view }]);
    expect(
      await db.rows(
        `select distinct c.asset_id, c.class_key
         from carried c
         join carried k on k.asset_id = c.from_id and k.class_key = c.class_key and k.via = 'itself'
         where c.via <> 'lineage'
         order by 1, 2`,
      ),
    ).toEqual(before);
    // By an edge that was there before, what is carried goes on from now on.
    expect(await db.rows("select class_key, distance from carried where via = 'lineage'")).toEqual([
      { class_key: 'email', distance: 1 },
    ]);
    expect(before).toHaveLength(4);
    expect(await db.rows('select class_key from class_hold where asset_id = $1', [ids.mail])).toEqual([
      { class_key: 'email' },
    ]);
    expect(await db.rows('select principal_kind, principal from journal')).toEqual([
      { principal_kind: 'service', principal: 'Idrel' },
    ]);
  });

  it('is done once', async () => {
    expect(await migrate(db.sequelize)).toEqual([]);
  });

  it('leaves one owner, the first by name; the others look after it', async () => {
    const roles = (asset: string | undefined) =>
      db.rows<{ role: string; name: string }>(
        'select ap.role, p.name from asset_person ap join person p on p.id = ap.person_id where ap.asset_id = $1 order by 1, 2',
        [asset],
      );
    expect(await roles(ids.table)).toEqual([
      { role: 'custodian', name: 'Mia' },
      { role: 'owner', name: 'Ada' },
      { role: 'steward', name: 'Mia' },
      { role: 'steward', name: 'Zoe' },
    ]);
    expect(await roles(ids.view)).toEqual([{ role: 'owner', name: 'Nils Test' }]);
  });
});
