import { decideTable } from '@idrel/core/access';
import { factsFor } from '../src/access/facts.ts';
import type { Who } from '../src/people/index.ts';
import { freshDatabase, furnish, personWith } from './place.ts';

/** Days from now, as a moment. */
export const day = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString();

/** A place with guests and fares, and with people who own them, ask for them, and administer policies: Maud owns the guests, nobody the fares. */
export async function salesPlace() {
  const place = await freshDatabase();
  const { db } = place;
  const made = await furnish(db);
  const ids = new Map<string, string>();
  const one = async (sql: string, bind: unknown[] = []) => (await db.one<{ id: string }>(sql, bind))?.id ?? '';
  const id = (name: string): string => {
    const found = ids.get(name);
    if (!found) throw new Error(`no ${name}`);
    return found;
  };
  const asset = async (kind: string, key: string, parent: string | null, level?: number) => {
    const name = key.split('\u001f').at(-1) ?? '';
    ids.set(
      name,
      await one(
        `insert into asset (source_id, domain_id, kind, name, key, depth, parent_id, level, native)
         values ($1, $2, $3, $4, $5, $6, $7, $8, '{"type": "text"}') returning id`,
        [
          made.sourceId,
          made.domainId,
          kind,
          name,
          key,
          key.split('\u001f').length - 1,
          parent && id(parent),
          level ?? null,
        ],
      ),
    );
  };
  const elsewhere = await one("insert into domain (name) values ('Crewing') returning id");
  const reader = (name: string, domainId = made.domainId) => personWith(db, name, 'reader', domainId);
  const [maud, olav, rune] = [await reader('Maud'), await reader('Olav'), await reader('Rune')];
  const sten = await reader('Sten', elsewhere);
  const petra = await personWith(db, 'Petra', 'policy administrator', made.domainId);
  await db.run("update person set email = lower(split_part(name, ' ', 1)) || '@example.org'");
  await asset('database', 'db', null);
  await asset('schema', 'db\u001fsales', 'db');
  await asset('table', 'db\u001fsales\u001fguest', 'sales');
  await asset('column', 'db\u001fsales\u001fguest\u001fguest_id', 'guest');
  await asset('column', 'db\u001fsales\u001fguest\u001femail', 'guest', 3);
  await asset('column', 'db\u001fsales\u001fguest\u001fport', 'guest');
  await asset('table', 'db\u001fsales\u001ffare', 'sales');
  await asset('column', 'db\u001fsales\u001ffare\u001famount', 'fare');
  const owns = (who: Pick<Who, 'id'>, name: string) =>
    db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [id(name), who.id]);
  await owns(maud, 'guest');
  return {
    ...place,
    ...made,
    elsewhere,
    maud,
    olav,
    rune,
    sten,
    petra,
    one,
    id,
    asset,
    owns,
    /** How somebody reads the columns of a table now. */
    async reads(who: Pick<Who, 'id'>, table: string, purpose: string | null = null) {
      const facts = await factsFor(db, { personId: who.id, purpose }, 't.id = $1', [id(table)]);
      const [there] = facts?.tables ?? [];
      if (!facts || !there) throw new Error('nobody, or no table');
      return Object.fromEntries(
        decideTable(facts.policies, facts.person, there).columns.map(({ name, access }) => [name, access]),
      );
    },
    /** Notes that somebody asked for something through the gateway, so many days ago. */
    async asks(who: Who, what: string, daysAgo: number) {
      const statement = await one(
        "insert into asked_statement (id, source_id, print, text) values (gen_random_uuid(), $1, $2, 'select 1') returning id",
        [made.sourceId, `of ${who.name} for ${what}`],
      );
      await db.run('insert into asked_by (statement_id, person_id, calls, moved_at) values ($1, $2, 1, $3)', [
        statement,
        who.id,
        day(-daysAgo),
      ]);
      await db.run('insert into asked_for (statement_id, asset_id, how) values ($1, $2, $3)', [
        statement,
        id(what),
        ['value'],
      ]);
    },
  };
}
