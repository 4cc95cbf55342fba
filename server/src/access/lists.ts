import type { ReadableAnswer, ReadersAnswer } from '@idrel/contract/access';
import type { AssetAnswer } from '@idrel/contract/catalog';
import {
  asShown,
  Engine,
  EVERYBODY,
  isFor,
  loginOf,
  loginsNear,
  type NativeWay,
  type Reason,
  type TableDecision,
  toldAccess,
  waysInto,
} from '@idrel/core/access';
import { getAsset, kindsSql } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { forbidden, notFound } from '../platform/problems.ts';
import { meantTables, policiesInForce, readPeople, readTables, type TableFacts } from './facts.ts';
import { readLogins, readRoles, withGrants } from './native/rights.ts';
import { inDomains, lookingAt } from './past.ts';
import { policiesNamed, policyNames } from './policyNames.ts';
import { unseen } from './sight.ts';

const MOST = 2000;
const SENSITIVE = 3;

/** What somebody reads of one table or of several, counted. */
interface Counted {
  tables: number;
  whole: number;
  plain: number;
  masked: number;
  preview: number;
  sensitive: number;
  limited: boolean;
  readonly policies: Set<string>;
}
const nothing = (): Counted => ({
  tables: 0,
  whole: 0,
  plain: 0,
  masked: 0,
  preview: 0,
  sensitive: 0,
  limited: false,
  policies: new Set(),
});

/** Counts what is read of a table along. @param only of its columns this one, where one is asked for */
function count(
  into: Counted,
  decision: TableDecision,
  levels: Readonly<Record<string, number>>,
  only: string | null,
): void {
  const columns = only === null ? decision.columns : decision.columns.filter(({ id }) => id === only);
  const open = columns.filter(({ access }) => access !== 'refused');
  if (open.length === 0) return;
  into.tables += 1;
  const isLimited = decision.rowLimits.length > 0;
  if (!isLimited && columns.every((column) => toldAccess(column) === 'plain')) into.whole += 1;
  into.limited ||= isLimited;
  const because = (reasons: readonly Reason[]) => {
    for (const { policyId } of reasons) into.policies.add(policyId);
  };
  for (const column of open) {
    const { id, reasons } = column;
    because(reasons);
    const access = toldAccess(column);
    if (access === 'preview') into.preview += 1;
    else if (access === 'masked') into.masked += 1;
    else {
      into.plain += 1;
      if ((levels[id] ?? 0) >= SENSITIVE) into.sensitive += 1;
    }
  }
  because(decision.rowLimits.map(({ reason }) => reason));
}

type AtSource = ReadersAnswer['people'][number]['atSource'];

/** Ways at a source, one for each right, with the tables that it opens. */
class Ways {
  readonly #found = new Map<string, AtSource[number]>();
  add(login: string, ways: readonly NativeWay[]): void {
    for (const { how, holder, through } of ways) {
      const key = JSON.stringify([login, how, holder, through]);
      const known = this.#found.get(key);
      this.#found.set(key, { login, how, holder, through, tables: (known?.tables ?? 0) + 1 });
    }
  }
  get list(): AtSource {
    return [...this.#found.values()];
  }
}

/** Ways that open a column, where one is asked for. */
const opening = (ways: readonly NativeWay[], only: string | null): NativeWay[] =>
  ways.filter(({ columns }) => only === null || columns === null || columns.includes(only));

/** Tables `t` that are an asset ($1), lie in it, or of which it is a column (of $2). */
export const TABLES_OF = `(t.id = $1 or t.id = $2 or t.parent_id = $1 or t.parent_id in (select id from asset where parent_id = $1 and kind = 'schema'))
  and t.kind in (${kindsSql('holdsRows')})`;

/** All who can read an asset and what lies below it, or could at a moment. @param at ISO 8601; null for now @throws 403, 404, 422 */
export async function readersOf(db: Database, who: Who, assetId: string, at: string | null): Promise<ReadersAnswer> {
  const asset = await getAsset(db, who, assetId);
  who.must('policy administrator', asset.domainId);
  return lookingAt(db, at, (then) => readersThen(then, who, asset, at === null));
}

/** @param now whether it is asked of now: roles are not kept as they were */
async function readersThen(db: Db, who: Who, asset: AssetAnswer, now: boolean): Promise<ReadersAnswer> {
  const policies = await policiesInForce(db);
  const only = asset.kind === 'column' ? asset.id : null;
  const tables = await readTables(
    db,
    `${TABLES_OF} and ${inDomains(db, '$3')}`,
    [asset.id, only === null ? null : asset.parentId, who.domainsAs('policy administrator')],
    policies,
    'any',
  );
  const people = await readPeople(db, null);
  const { byPerson, logins } = counted(await openAtSources(db, tables, people, only));
  const names = await policyNames(db, who);
  const engine = new Engine(policies);
  // People for whom the same policies are read the same.
  const known = new Map<string, Counted>();
  const blind = new Set(
    now
      ? (
          await unseen(
            db,
            people.map(({ id }) => ({
              personId: id,
              sourceId: asset.sourceId,
              tableIds: tables.map((table) => table.id),
            })),
            people.length,
          )
        ).map(({ personId }) => personId)
      : [],
  );
  const rows = people.flatMap((person): ReadersAnswer['people'][number][] => {
    const reader = engine.for(asShown(person));
    let read = known.get(reader.key);
    if (!read) {
      read = nothing();
      for (const table of tables) count(read, reader.decide(table), table.levels, only);
      known.set(reader.key, read);
    }
    const ways = byPerson.get(person.id)?.list ?? [];
    if (read.tables === 0 && ways.length === 0) return [];
    return [
      {
        personId: person.id,
        person: person.name,
        access: read.tables === 0 ? 'no' : read.whole === tables.length ? 'yes' : 'partly',
        tables: read.tables,
        plain: read.plain,
        masked: read.masked,
        preview: read.preview,
        limited: read.limited,
        policies: policiesNamed(read.policies, names),
        sees: now ? !blind.has(person.id) : null,
        atSource: ways,
      },
    ];
  });
  return {
    tables: tables.length,
    columns: only === null ? tables.reduce((sum, { columns }) => sum + columns.length, 0) : 1,
    people: rows.slice(0, MOST),
    total: rows.length,
    logins,
  };
}

export const byText = (one: string, other: string): number => (one < other ? -1 : Number(one > other));

const NOBODY = { people: [], program: false };

/** A login that reads a table at its source, and who comes in as it: nobody where nobody said so. */
export interface OpenThere {
  readonly source: { readonly id: string; readonly name: string };
  readonly table: TableFacts;
  readonly login: string;
  readonly people: readonly string[];
  readonly program: boolean;
  readonly ways: readonly NativeWay[];
}

/** All that can be read of tables by rights at their sources. @param only by what opens this column, where one is asked for */
export async function openAtSources(
  db: Db,
  tables: readonly TableFacts[],
  people: Awaited<ReturnType<typeof readPeople>>,
  only: string | null,
): Promise<OpenThere[]> {
  const found: OpenThere[] = [];
  const called = await db.rows<{ id: string; name: string }>('select id, name from source where id = any($1::uuid[])', [
    [...new Set(tables.map(({ sourceId }) => sourceId))],
  ]);
  for (const source of called) {
    const sourceId = source.id;
    const roles = await readRoles(db, sourceId);
    if (roles.size === 0) continue;
    const said = await readLogins(db, sourceId, people);
    const there = await withGrants(
      db,
      tables.filter((table) => table.sourceId === sourceId),
    );
    const logins = [...roles.values()]
      .filter(({ login, scans }) => login && !scans)
      .map(({ name: login }) => ({ ...loginOf(login, roles), ...(said.get(login) ?? NOBODY) }));
    const near = loginsNear(logins);
    for (const table of there)
      for (const login of near(table)) {
        const ways = opening(waysInto(table, login), only);
        if (ways.length === 0) continue;
        const { name, program, people: whose } = login;
        found.push({ source, table, login: name, program, people: whose.map(({ id }) => id), ways });
      }
  }
  return found;
}

/** Who reads tables by rights at their sources: people as far as it was said who comes in, and the logins of others. */
function counted(open: readonly OpenThere[]): { byPerson: Map<string, Ways>; logins: ReadersAnswer['logins'] } {
  const byPerson = new Map<string, Ways>();
  const others = new Map<string, Pick<OpenThere, 'source' | 'program'> & { readonly ways: Ways }>();
  const add = <K>(to: Map<K, Ways>, key: K, { login, ways }: OpenThere) => {
    const mine = to.get(key) ?? new Ways();
    to.set(key, mine);
    mine.add(login, ways);
  };
  for (const one of open) {
    for (const id of one.people) add(byPerson, id, one);
    if (one.people.length > 0) continue;
    const key = JSON.stringify([one.source.id, one.login]);
    const known = others.get(key) ?? { source: one.source, program: one.program, ways: new Ways() };
    others.set(key, known);
    known.ways.add(one.login, one.ways);
  }
  return {
    byPerson,
    logins: [...others.values()]
      .flatMap(({ source, program, ways }) =>
        ways.list.map((way) => ({ ...way, source: source.name, sourceId: source.id, program })),
      )
      .sort((one, other) => byText(one.source, other.source) || byText(one.login, other.login)),
  };
}

/** All that a person can read, or could at a moment, of what who asks may see. @param at ISO 8601; null for now @throws 403, 404, 422 */
export async function readableBy(db: Database, who: Who, personId: string, at: string | null): Promise<ReadableAnswer> {
  if (personId !== who.id && !who.isAnywhere('policy administrator'))
    throw forbidden('policy administrator in at least one domain');
  return lookingAt(db, at, (then) => readableThen(then, who, personId));
}

async function readableThen(db: Db, who: Who, personId: string): Promise<ReadableAnswer> {
  const domains = personId === who.id ? who.domainsAs('reader') : who.domainsAs('policy administrator');
  // More than one where they read by shares: each by itself.
  const people = (await readPeople(db, [personId])).map(asShown);
  const [person] = people;
  if (!person) throw notFound('The person');
  const policies = await policiesInForce(db);
  const engine = new Engine(policies);
  const readers = people.map((one) => engine.for(one));
  const opening = policies.filter((policy) => policy.effect === 'allow' && people.some((one) => isFor(policy, one)));
  const meant = meantTables(opening, 3);
  const sources = await loginsOf(db, person);
  const open = await openThere(db, sources);
  const tables = await readTables(
    db,
    `${inDomains(db, '$1')} and t.kind in (${kindsSql('holdsRows')})
     and (t.source_id = any($2::uuid[]) or t.id = any($5::uuid[]) or ${meant.condition})`,
    [domains, open.whole, ...meant.bind, open.tables],
    policies,
    'any',
  );
  const names = await policyNames(db, who);
  const called = new Map(
    (
      await db.rows<{ id: string; name: string }>('select id, name from source where id = any($1::uuid[])', [
        [...new Set(tables.map(({ sourceId }) => sourceId))],
      ])
    ).map(({ id, name }) => [id, name]),
  );
  const native = new Map<string, Ways>();
  for (const [sourceId, logins] of sources) {
    const roles = await readRoles(db, sourceId);
    const there = await withGrants(
      db,
      tables.filter((table) => table.sourceId === sourceId),
    );
    for (const name of logins) {
      if (!roles.get(name)?.login) continue;
      const login = loginOf(name, roles);
      for (const table of there) {
        const ways = waysInto(table, login);
        if (ways.length === 0) continue;
        const mine = native.get(table.id) ?? new Ways();
        mine.add(name, ways);
        native.set(table.id, mine);
      }
    }
  }
  const all = nothing();
  const each = tables.flatMap((table) => readers.map((reader) => ({ table, reader })));
  const rows = each.flatMap(({ table, reader }): ReadableAnswer['tables'][number][] => {
    const read = nothing();
    const decision = reader.decide(table);
    count(read, decision, table.levels, null);
    count(all, decision, table.levels, null);
    const ways = native.get(table.id)?.list ?? [];
    if (read.tables === 0 && ways.length === 0) return [];
    return [
      {
        tableId: table.id,
        table: table.path,
        source: called.get(table.sourceId) ?? '',
        access: decision.access,
        columns: table.columns.length,
        plain: read.plain,
        masked: read.masked,
        preview: read.preview,
        sensitive: read.sensitive,
        limited: read.limited,
        policies: policiesNamed(read.policies, names),
        atSource: ways,
      },
    ];
  });
  rows.sort((one, other) => other.sensitive - one.sensitive);
  return {
    tables: rows.slice(0, MOST),
    total: rows.length,
    plain: all.plain,
    masked: all.masked,
    sensitive: all.sensitive,
  };
}

/** As which logins of which sources somebody comes in, as far as that was said. */
async function loginsOf(
  db: Db,
  person: { readonly id: string; readonly groups: readonly string[] },
): Promise<Map<string, string[]>> {
  const rows = await db.rows<{ sourceId: string; role: string }>(
    `
      select distinct source_id as "sourceId", role
      from native_match_party
      where person_id = $1 or group_id = any($2::uuid[])
      order by 1, 2`,
    [person.id, person.groups],
  );
  const found = new Map<string, string[]>();
  for (const { sourceId, role } of rows) found.set(sourceId, [...(found.get(sourceId) ?? []), role]);
  return found;
}

/** Tables on which logins, or roles that they can take, hold some right; sources of which they read everything stand whole. */
async function openThere(
  db: Db,
  sources: ReadonlyMap<string, readonly string[]>,
): Promise<{ readonly whole: string[]; readonly tables: string[] }> {
  const whole: string[] = [];
  const tables: string[] = [];
  for (const [sourceId, names] of sources) {
    const roles = await readRoles(db, sourceId);
    const logins = names.filter((name) => roles.has(name)).map((name) => loginOf(name, roles));
    if (logins.some(({ all }) => all.length > 0)) whole.push(sourceId);
    else {
      const holders = [EVERYBODY, ...new Set(logins.flatMap(({ held }) => [...held.keys()]))];
      const rows = await db.rows<{ id: string }>(
        `
          select distinct case when a.kind = 'column' then a.parent_id else a.id end as id
          from asset a
          join native_grant g on g.asset_id = a.id
          where a.source_id = $1 and g.holder = any($2::text[]) and a.kind not in ('database', 'schema')`,
        [sourceId, holders],
      );
      tables.push(...rows.map(({ id }) => id));
    }
  }
  return { whole, tables };
}
