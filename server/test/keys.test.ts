import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { assetKeys, readingsOf } from '../src/catalog/keys.ts';
import { freshDatabase, refused, staffed } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let here: Awaited<ReturnType<typeof staffed>>;
const ids = new Map<string, string>();
const idOf = (path: string): string => ids.get(path) ?? '';

async function put(path: readonly string[], kind: string, native: object = {}, domain = here.domainId): Promise<void> {
  const made = await place.db.one<{ id: string }>(
    `insert into asset (source_id, domain_id, parent_id, kind, name, key, depth, position, native)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9) returning id`,
    [
      here.sourceId,
      domain,
      ids.get(path.slice(0, -1).join('.')) ?? null,
      kind,
      path.at(-1),
      path.join('\u001f'),
      path.length,
      ids.size,
      JSON.stringify(native),
    ],
  );
  ids.set(path.join('.'), made?.id ?? '');
}
async function table(path: readonly string[], columns: Record<string, object>, domain = here.domainId): Promise<void> {
  await put(path, 'table', {}, domain);
  for (const [name, native] of Object.entries(columns)) await put([...path, name], 'column', native, domain);
}
const references = (...to: string[]) => ({ references: to });
const keysOf = (path: string, who = here.who) => assetKeys(place.db, who, idOf(path));

beforeAll(async () => {
  place = await freshDatabase();
  here = await staffed(place.db);
  await put(['db'], 'database');
  await put(['db', 'port'], 'schema');
  await put(['db', 'crew'], 'schema', {}, here.elsewhere);
  await table(['db', 'port', 'berth'], { port_code: { primaryKey: true }, number: { primaryKey: true }, length: {} });
  await table(['db', 'port', 'mooring'], {
    id: { primaryKey: true },
    port_code: references('port.berth.port_code'),
    berth_number: references('port.berth.number'),
    taken_by: references('crew.person.id'),
    earlier_id: references('port.mooring.id'),
  });
  await table(['db', 'port', 'bollard.old'], {
    'berth.no': references('port.berth.number'),
    lost: references('gone.away.id'),
  });
  await table(['db', 'crew', 'person'], { id: { primaryKey: true } }, here.elsewhere);
  await table(['db', 'crew', 'watch'], { berth: references('port.berth.number') }, here.elsewhere);
  await table(['db', 'port', 'tie'], { bollard: references('port.bollard.old.berth.no') });
});
afterAll(() => place?.drop());

describe('keys of a table', () => {
  it('are its primary key, what it refers to and what refers to it, column by column', async () => {
    expect(await keysOf('db.port.berth')).toEqual({
      key: ['port_code', 'number'],
      refersTo: [],
      refersToMore: false,
      referredBy: [
        {
          id: idOf('db.crew.watch'),
          kind: 'table',
          path: 'crew.watch',
          columns: [{ mine: 'number', theirs: 'berth' }],
        },
        {
          id: idOf('db.port.bollard.old'),
          kind: 'table',
          path: 'port.bollard.old',
          columns: [{ mine: 'number', theirs: 'berth.no' }],
        },
        {
          id: idOf('db.port.mooring'),
          kind: 'table',
          path: 'port.mooring',
          columns: [
            { mine: 'port_code', theirs: 'port_code' },
            { mine: 'number', theirs: 'berth_number' },
          ],
        },
      ],
      referredByMore: false,
    });
    expect((await keysOf('db.port.mooring')).refersTo).toEqual([
      {
        id: idOf('db.port.berth'),
        kind: 'table',
        path: 'port.berth',
        columns: [
          { mine: 'port_code', theirs: 'port_code' },
          { mine: 'berth_number', theirs: 'number' },
        ],
      },
      { id: idOf('db.crew.person'), kind: 'table', path: 'crew.person', columns: [{ mine: 'taken_by', theirs: 'id' }] },
      // To itself.
      {
        id: idOf('db.port.mooring'),
        kind: 'table',
        path: 'port.mooring',
        columns: [{ mine: 'earlier_id', theirs: 'id' }],
      },
    ]);
  });

  it('lead nowhere where the person may not look, and do not tell who refers from there', async () => {
    const seen = await keysOf('db.port.mooring', here.reader);
    expect(seen.refersTo[1]).toEqual({
      id: null,
      kind: 'table',
      path: 'crew.person',
      columns: [{ mine: 'taken_by', theirs: 'id' }],
    });
    expect((await keysOf('db.port.berth', here.reader)).referredBy.map(({ path }) => path)).toEqual([
      'port.bollard.old',
      'port.mooring',
    ]);
    expect(await refused(keysOf('db.crew.watch', here.reader))).toMatchObject({ status: 404 });
  });

  it('are found by names that hold dots, and named as the source does where nothing is found', async () => {
    expect((await keysOf('db.port.tie')).refersTo).toMatchObject([
      { id: idOf('db.port.bollard.old'), columns: [{ mine: 'bollard', theirs: 'berth.no' }] },
    ]);
    expect((await keysOf('db.port.bollard.old')).refersTo.at(-1)).toEqual({
      id: null,
      kind: 'table',
      path: 'gone.away',
      columns: [{ mine: 'lost', theirs: 'id' }],
    });
    expect(readingsOf('a.b.c', 2)).toEqual([
      ['a', 'b.c'],
      ['a.b', 'c'],
    ]);
    expect([readingsOf('a', 2), readingsOf('a', 0)]).toEqual([[], []]);
    expect(readingsOf(Array.from({ length: 40 }, String).join('.'), 3)).toHaveLength(60);
  });

  it('of a source that names the table alone are those of the table', async () => {
    await table(['db', 'flag'], { id: { primaryKey: true } });
    await table(['db', 'ship'], { flag_id: references('flag'), sister_id: references('ship.flag_id') });
    expect((await keysOf('db.ship')).refersTo).toMatchObject([
      { id: idOf('db.flag'), path: 'flag', columns: [{ mine: 'flag_id', theirs: null }] },
      { id: idOf('db.ship') },
    ]);
    expect((await keysOf('db.flag')).referredBy).toMatchObject([
      { id: idOf('db.ship'), columns: [{ mine: null, theirs: 'flag_id' }] },
    ]);
  });
});
