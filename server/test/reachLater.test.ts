import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { reachLater } from '../src/access/reachLater.ts';
import { addPolicy, policyBody, refused } from './place.ts';
import { salesPlace } from './sales.ts';

let place: Awaited<ReturnType<typeof salesPlace>>;
let analysts: string;
beforeAll(async () => {
  place = await salesPlace();
  const { db, one, olav, rune, id } = place;
  analysts = await one("insert into person_group (name) values ('Analysts') returning id");
  await db.run('insert into group_member (group_id, person_id) values ($1, $2), ($1, $3)', [
    analysts,
    olav.id,
    rune.id,
  ]);
  await addPolicy(db, {
    name: 'E-mail addresses are hidden',
    effect: 'protect',
    everyone: true,
    classKeys: ['email'],
    mask: { kind: 'blank' },
  });
  await addPolicy(db, { name: 'Rune reads sales', assetIds: [id('sales')], personIds: [rune.id] });
});
afterAll(() => place.drop());

const later = (
  draft: Parameters<typeof policyBody>[0],
  table: { name?: string; tags?: string[]; columns?: { name: string; classKeys: string[] }[]; parent?: string } = {},
) =>
  reachLater(place.db, place.petra, {
    policyId: null,
    draft: policyBody({ effect: 'allow', everyone: false, groupIds: [analysts], ...draft }),
    table: {
      parentId: place.id(table.parent ?? 'sales'),
      name: table.name ?? 'made_tomorrow',
      tags: table.tags ?? [],
      columns: table.columns ?? [
        { name: 'anything_else', classKeys: [] },
        { name: 'email', classKeys: ['email'] },
      ],
    },
  });
const told = async (...args: Parameters<typeof later>) =>
  (await later(...args)).rows
    .map(({ person, column, before, after }) => `${person} ${column}: ${before} → ${after}`)
    .sort();

describe('a draft, and a table that is not there yet', () => {
  it('says who would read it by what it is tagged, beside what others allow and mask', async () => {
    // Rune reads all of the schema by another policy.
    expect(await told({ filter: 'tag:personal' }, { tags: ['personal'] })).toEqual([
      'Olav anything_else: refused → plain',
      'Olav email: refused → masked',
    ]);
    expect(await told({ filter: 'tag:"retention/5 years"' }, { tags: ['retention/5 years'] })).toHaveLength(2);
    expect(await told({ filter: 'tag:retention' }, { tags: ['retention/5 years'] })).toHaveLength(2);
    expect(await told({ filter: 'tag:personal' }, { tags: ['other'] })).toEqual([]);
    expect(await later({ filter: 'tag:personal' }, { tags: ['personal'] })).toMatchObject({
      people: 1,
      gains: 2,
      sensitive: 0,
    });
  });

  it('counts what would be read of guarded classes as it is', async () => {
    const card = [{ name: 'card', classKeys: ['payment-card'] }];
    expect(await later({ filter: 'tag:personal' }, { tags: ['personal'], columns: card })).toMatchObject({
      people: 1,
      sensitive: 1,
      rows: [{ column: 'card', level: 4 }],
    });
  });

  it('means it by what it lies in: what is listed, and what a filter finds above it', async () => {
    expect(await told({ assetIds: [place.id('db')] })).toHaveLength(2);
    expect(await told({ assetIds: [place.id('guest')] })).toEqual([]);
    expect(await told({ filter: 'kind:schema name:sales' })).toHaveLength(2);
    expect(await told({ filter: 'kind:schema name:other' })).toEqual([]);
  });

  it('says what a policy that protects or denies takes, and what one that is off does', async () => {
    expect(await told({ effect: 'deny', filter: 'level>=guarded' })).toEqual(['Rune email: masked → refused']);
    expect(await told({ filter: 'tag:personal', enabled: false }, { tags: ['personal'] })).toEqual([]);
  });

  it('says what is wrong with it', async () => {
    const bad: [() => Promise<unknown>, object][] = [
      [() => later({ filter: 'tag:' }), { code: 'invalid' }],
      [() => later({}, { columns: [{ name: 'x', classKeys: ['nothing'] }] }), { code: 'invalid' }],
      [() => later({}, { parent: 'guest' }), { code: 'invalid', detail: 'No table lies in a table.' }],
      [
        () =>
          reachLater(place.db, place.olav, {
            policyId: null,
            draft: policyBody({}),
            table: { parentId: place.id('sales'), name: 'x', tags: [], columns: [{ name: 'x', classKeys: [] }] },
          }),
        { code: 'forbidden' },
      ],
    ];
    for (const [work, how] of bad) expect(await refused(work())).toMatchObject(how);
  });
});
