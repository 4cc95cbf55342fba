import { decideTable } from '@idrel/core/access';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { policiesInForce, readPeople, readTables } from '../src/access/facts.ts';
import { letGo, letGoEffect, listHeld } from '../src/access/held.ts';
import { createPolicy, listPolicies } from '../src/access/policies.ts';
import { reach } from '../src/access/reach.ts';
import { seenProfiles } from '../src/access/seenProfiles.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { removeThreshold, setThreshold } from '../src/recognition/certainty.ts';
import { decideFindings } from '../src/recognition/service.ts';
import { freshDatabase, furnish, policyBody as policy } from './place.ts';

/** What one person sets never weakens what another's policy protects; what a person may not read, nothing of theirs is made from. */
let place: Awaited<ReturnType<typeof freshDatabase>>;
let admin: Who;
let steward: Who;
let reader: Who;
let stranger: Who;
const ids: Record<string, string> = {};
const NOBODY = '6e3f0b0e-0000-4000-8000-000000000000';
beforeAll(async () => {
  place = await freshDatabase();
  const { db } = place;
  const home = await furnish(db);
  const one = async (sql: string, bind: unknown[] = []) =>
    ((await db.rows<{ id: string }>(sql, bind))[0] as { id: string }).id;
  const elsewhere = await one("insert into domain (name) values ('People') returning id");
  const person = async (name: string, role: string, domain: string | null) => {
    const id = await one('insert into person (name, email) values ($1, $1) returning id', [name]);
    await db.run('insert into role_grant (person_id, role, domain_id) values ($1, $2, $3)', [id, role, domain]);
    return (await loadWho(db, id)) as Who;
  };
  admin = (await loadWho(db, home.personId)) as Who;
  steward = await person('Steward', 'steward', home.domainId);
  reader = await person('Reader', 'reader', home.domainId);
  stranger = await person('Stranger', 'steward', elsewhere);
  const asset = async (parent: string | null, kind: string, names: string[], type = 'text') => {
    const id = await one(
      'insert into asset (source_id, parent_id, domain_id, kind, name, key, depth, native) values ($1, $2, $3, $4, $5, $6, $7, $8) returning id',
      [
        home.sourceId,
        parent,
        home.domainId,
        kind,
        names.at(-1),
        ['db', ...names].join('\u001f'),
        names.length,
        JSON.stringify({ type }),
      ],
    );
    ids[names.slice(1).join('.') || (names[0] ?? '')] = id;
    return id;
  };
  const schema = await asset(null, 'schema', ['s']);
  const person_ = await asset(schema, 'table', ['s', 'person']);
  const mail = await asset(person_, 'column', ['s', 'person', 'mail']);
  await asset(person_, 'column', ['s', 'person', 'town']);
  const view = await asset(schema, 'view', ['s', 'contacts']);
  const contact = await asset(view, 'column', ['s', 'contacts', 'contact']);
  const count = await asset(view, 'column', ['s', 'contacts', 'n'], 'bigint');
  const flow = await one(
    "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'query of a view', '') returning id",
    [home.sourceId, view],
  );
  await db.run(
    "insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'transformed'), ($1, $2, $4, 'aggregated')",
    [flow, mail, contact, count],
  );
  // Most of what follows is about the column itself.
  await db.run(
    "insert into data_class (key, own, label, theme, level, meaning, travels) select key, false, key, 'contact', 3, '', '{}' from unnest(array['email', 'iban']) key",
  );
  const claim = (id: string) =>
    db.run(
      "insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence) values ($1, 'email', 'email.address', '1', 1, 9, 9, 9, 0.9, 'certain', '{}')",
      [id],
    );
  await claim(mail);
  const profile = {
    measure: 'text',
    rows: 3,
    whole: true,
    nulls: 0,
    distinct: 3,
    length: null,
    patterns: [['a@a', 3]],
    guarded: false,
    first: 'SECRETfirst',
    last: 'SECRETlast',
    span: null,
    quantiles: null,
    frequent: [['SECREToften', 2]],
    histogram: null,
  };
  for (const id of [mail, ids['person.town']])
    await db.run('insert into column_profile (asset_id, facts) values ($1, $2)', [id, JSON.stringify(profile)]);
  await db.transaction((tx) => createPolicy(tx, admin, policy({ name: 'reads', effect: 'allow', assetIds: [schema] })));
  await db.transaction((tx) =>
    createPolicy(
      tx,
      admin,
      policy({ name: 'masks mail', classKeys: ['email'], mask: { kind: 'digest', keyed: 'installation' } }),
    ),
  );
});
afterAll(() => place.drop());

/** How the reader reads a column now. */
async function access(table: string, column: string): Promise<string> {
  const policies = await policiesInForce(place.db);
  const [facts] = await readTables(place.db, 't.id = $1', [ids[table]], policies);
  const [person] = await readPeople(place.db, [reader.id]);
  if (!facts || !person) throw new Error('not there');
  return decideTable(policies, person, facts).columns.find((entry) => entry.name === column)?.access ?? '';
}

describe('a class on which a policy rests', () => {
  it('protects on when thresholds hide it, also when another domain’s steward moved them', async () => {
    expect(await access('person', 'mail')).toBe('masked');
    await place.db.transaction((tx) => setThreshold(tx, stranger, 'email', 0, { certain: 1, settle: 0.99 }));
    expect(await access('person', 'mail')).toBe('masked');
    expect(await listHeld(place.db, admin)).toMatchObject([
      { assetId: ids['person.mail'], classKey: 'email', mayLetGo: true, policies: [{ name: 'masks mail' }] },
    ]);
    await place.db.transaction((tx) => removeThreshold(tx, admin, 'email'));
    expect(await listHeld(place.db, admin)).toEqual([]);
  });

  it('protects on when a scan finds it no more, or somebody dismisses it', async () => {
    await place.db.transaction((tx) =>
      decideFindings(tx, steward, [
        {
          assetId: ids['person.mail'] ?? '',
          classKey: 'email',
          decision: 'dismissed',
          reason: 'no address',
          remember: false,
        },
      ] as never),
    );
    expect(await access('person', 'mail')).toBe('masked');
    await place.db.run('delete from claim where asset_id = $1', [ids['person.mail']]);
    expect(await access('person', 'mail')).toBe('masked');
  });

  it('is let go only by who may change the policy, with its effect seen and the journal told', async () => {
    const [asset, key] = [ids['person.mail'] ?? '', 'email'];
    await expect(place.db.transaction((tx) => letGo(tx, steward, asset, { class: key }))).rejects.toMatchObject({
      status: 403,
    });
    const effect = await letGoEffect(place.db, admin, asset, { class: key });
    expect(effect.rows).toContainEqual({
      personId: reader.id,
      person: 'Reader',
      table: 's.person',
      column: 'mail',
      before: 'masked',
      after: 'plain',
      beforeMask: { kind: 'digest', keyed: 'installation' },
      afterMask: null,
    });
    expect(await access('person', 'mail')).toBe('masked');
    await place.db.transaction((tx) => letGo(tx, admin, asset, { class: key }));
    expect(await access('person', 'mail')).toBe('plain');
    const told = await place.db.one<{ action: string; subject_name: string }>(
      'select action, subject_name from journal order by id desc limit 1',
    );
    expect(told).toMatchObject({ action: 'let go', subject_name: expect.stringContaining('mail') });
    await expect(place.db.transaction((tx) => letGo(tx, admin, asset, { class: key }))).rejects.toMatchObject({
      status: 404,
    });
  });

  it('holds again as soon as it is found again, or a policy begins to rest on it', async () => {
    await place.db.run('delete from finding_decision where asset_id = $1', [ids['person.mail']]);
    await place.db.run(
      "insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence) values ($1, 'email', 'email.address', '1', 1, 9, 9, 9, 0.9, 'certain', '{}'), ($1, 'iban', 'x', '1', 1, 9, 9, 9, 0.9, 'certain', '{}')",
      [ids['person.mail']],
    );
    const held = async () =>
      (await place.db.rows<{ key: string }>('select class_key as key from class_hold order by 1')).map(
        (row) => row.key,
      );
    expect(await held()).toEqual(['email']);
    await place.db.transaction((tx) =>
      createPolicy(tx, admin, policy({ name: 'no accounts', effect: 'deny', classKeys: ['iban'], exceptGroupIds: [] })),
    );
    expect(await held()).toEqual(['email', 'iban']);
    await place.db.run("delete from policy where name = 'no accounts'");
  });
});

describe('what carries the values on', () => {
  it('is named in the reach of a policy, and covered when the policy is extended', async () => {
    const draft = policy({ name: 'masks mail', classKeys: ['email'], mask: { kind: 'digest', keyed: 'installation' } });
    const [own] = (await listPolicies(place.db, admin)).filter((entry) => entry.name === 'masks mail');
    const { passedOn } = await reach(place.db, admin, own?.id ?? null, draft);
    expect(passedOn.map((row) => [row.table, row.column, row.from])).toEqual([
      ['s.contacts', 'contact', 's.person.mail'],
    ]);
    const extended = await reach(place.db, admin, own?.id ?? null, { ...draft, carried: true });
    expect(extended.passedOn).toEqual([]);
    expect(extended.rows.map((row) => `${row.table}.${row.column} ${row.after}`)).toContain(
      's.contacts.contact masked',
    );
    expect(extended.rows.map((row) => row.column)).not.toContain('n');
  });
});

describe('a class that travels', () => {
  const travels = (kinds: string[]) => place.db.run("update data_class set travels = $1 where key = 'email'", [kinds]);

  it('is protected where it arrives, and stays so when somebody ends its way', async () => {
    expect(await access('contacts', 'contact')).toBe('plain');
    await travels(['copied', 'transformed']);
    expect([await access('contacts', 'contact'), await access('contacts', 'n')]).toEqual(['masked', 'plain']);
    await travels([]);
    expect(await access('contacts', 'contact')).toBe('masked');
    expect(
      (await listHeld(place.db, admin)).map(
        ({ assetId, classKey }) => `${classKey} ${assetId === ids['contacts.contact']}`,
      ),
    ).toEqual(['email true']);
    await place.db.transaction((tx) => letGo(tx, admin, ids['contacts.contact'] ?? '', { class: 'email' }));
    expect(await access('contacts', 'contact')).toBe('plain');
  });
});

describe('a policy', () => {
  it.each([
    [{ assetIds: [NOBODY] }, 'assetIds'],
    [{ assetIds: ['schema'], groupIds: [NOBODY], everyone: false }, 'groupIds'],
    [{ assetIds: ['schema'], exceptGroupIds: [NOBODY] }, 'exceptGroupIds'],
    [{ assetIds: ['schema'], personIds: [NOBODY], everyone: false }, 'personIds'],
    [{ classKeys: ['no-such-class'] }, 'classKeys'],
  ])('that names what is not there is refused: %j', async (names, field) => {
    const body = policy({ name: 'names nothing', effect: 'deny', ...names });
    const known = { ...body, assetIds: body.assetIds.map((id) => (id === 'schema' ? (ids.s ?? '') : id)) };
    for (const who of [admin, reader])
      await expect(place.db.transaction((tx) => createPolicy(tx, who, known))).rejects.toMatchObject({
        status: 422,
        more: { fields: [expect.objectContaining({ field })] },
      });
  });

  it('of assets that somebody may not see is not shown to them, nor are its rows', async () => {
    await place.db.transaction((tx) =>
      createPolicy(
        tx,
        admin,
        policy({
          name: 'some rows',
          assetIds: [ids.person ?? ''],
          rows: { column: 'town', values: ['SECRETtown'], attribute: null, through: null },
        }),
      ),
    );
    expect(JSON.stringify(await listPolicies(place.db, reader))).toContain('SECRETtown');
    const seen = await listPolicies(place.db, stranger);
    expect(JSON.stringify(seen)).not.toContain('SECRETtown');
    expect(seen.map((entry) => entry.name)).toEqual(['masks mail']);
    await place.db.run("delete from policy where name = 'some rows'");
  });
});

describe('a profile', () => {
  const text = async (who: Who, name: string) => JSON.stringify(await seenProfiles(place.db, who, ids[name] ?? ''));

  it('shows no values of what a person reads masked, and nothing of what they may not read', async () => {
    expect(await text(reader, 'person.town')).toContain('SECRETfirst');
    const masked = await text(reader, 'person.mail');
    expect([masked.includes('SECRET'), masked.includes('"distinct":3')]).toEqual([false, true]);
    await place.db.transaction((tx) =>
      createPolicy(tx, admin, policy({ name: 'no towns', effect: 'deny', assetIds: [ids['person.town'] ?? ''] })),
    );
    for (const who of [reader, steward, admin]) expect(await text(who, 'person.town'), who.name).toBe('[]');
    await place.db.run("delete from policy where name = 'no towns'");
    await place.db.run("delete from policy where name = 'reads'");
    expect(await text(reader, 'person.town')).toBe('[]');
    expect(await text(steward, 'person.town')).toContain('SECRETfirst');
  });

  it('of a table of which one reads some rows tells nothing of the others', async () => {
    await place.db.transaction((tx) =>
      createPolicy(
        tx,
        admin,
        policy({
          name: 'some rows',
          assetIds: [ids.person ?? ''],
          rows: { column: 'town', values: ['Ulvey'], attribute: null, through: null },
        }),
      ),
    );
    expect(await text(steward, 'person.town')).toBe('[]');
  });
});
