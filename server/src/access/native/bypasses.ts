import type { AcceptBody, BypassAnswer, BypassesAnswer, WhichBypass } from '@idrel/contract/access';
import { type Bypass, bypassesOf, isAgainst, type NativeRole, type Policy, rightInWords } from '@idrel/core/access';
import { kindsSql } from '../../catalog/index.ts';
import { say } from '../../journal/index.ts';
import type { Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';
import { notFound } from '../../platform/problems.ts';
import { meantTables, policiesInForce, readPeople, readTables, type TableFacts } from '../facts.ts';
import { type PolicyNames, policiesNamed, policyName, policyNames } from '../policyNames.ts';
import { readLogins, readRoles, type SaidLogin, withGrants } from './rights.ts';
import { type Use, usesOf } from './uses.ts';

const MOST = 200;
const SHOWN = 200;

type People = Awaited<ReturnType<typeof readPeople>>;
export type RightsTable = Awaited<ReturnType<typeof withGrants<TableFacts>>>[number];

/** A source of which rights were read, as whoever asks may see it. */
export interface RightsSource {
  readonly id: string;
  readonly name: string;
  readonly domainId: string;
  readonly readAt: Date;
  /** Whether it holds the policies itself as they are; null where it was not made to. */
  readonly holds: boolean | null;
}

/** All that bypasses of one source are worked out from, and they. */
export interface SourceRights {
  readonly roles: ReadonlyMap<string, NativeRole>;
  readonly logins: ReadonlyMap<string, SaidLogin<People[number]>>;
  readonly tables: readonly RightsTable[];
  readonly bypasses: readonly Bypass[];
}

/** Sources that somebody may see and of which rights were read. @param id only this one */
export const rightsSources = (db: Db, who: Who, id?: string): Promise<RightsSource[]> =>
  db.rows(
    `
      select
        s.id, s.name, s.domain_id as "domainId", r.read_at as "readAt",
        not (
          (e.found ->> 'outdated')::boolean or e.found ->> 'problem' is not null
          or jsonb_array_length(e.found -> 'drift') > 0 or jsonb_array_length(e.found -> 'differences') > 0) as holds
      from source s
      join native_read r on r.source_id = s.id
      left join enforcement e on e.source_id = s.id and e.made_at is not null
      where s.domain_id = any($1::uuid[]) and ($2::uuid is null or s.id = $2)
      order by s.name`,
    [who.domainsAs('reader'), id ?? null],
  );

/** A sensitive column, or one that a policy may keep from somebody. */
const KEPT = `exists (select from asset c where c.parent_id = t.id and c.kind = 'column' and c.gone_at is null and c.level >= 3)`;

/** Works out what rights of a source give beyond the policies, over the tables of domains in which somebody administers policies. */
export async function sourceRights(
  db: Db,
  who: Who,
  sourceId: string,
  { policies, people }: { readonly policies: readonly Policy[]; readonly people: People },
): Promise<SourceRights> {
  const restricting = policies.filter(({ effect }) => effect !== 'allow');
  const meant = restricting.some(({ carried }) => carried)
    ? { condition: 'true', bind: [] }
    : meantTables(restricting, 3);
  const tables = await withGrants(
    db,
    await readTables(
      db,
      `t.source_id = $1 and t.domain_id = any($2::uuid[]) and t.kind in (${kindsSql('holdsRows')}) and (${KEPT} or ${meant.condition})`,
      [sourceId, who.domainsAs('policy administrator'), ...meant.bind],
      policies,
      'any',
    ),
  );
  const roles = await readRoles(db, sourceId);
  const logins = await readLogins(db, sourceId, people);
  return { roles, logins, tables, bypasses: bypassesOf(roles, logins, policies, tables) };
}

/** What decides over all sources: read once. */
export const inForce = async (db: Db) => ({ policies: await policiesInForce(db), people: await readPeople(db, null) });

interface Accepted {
  id: string;
  holder: string;
  how: string;
  through: string | null;
  schema: string | null;
  columns: string[];
  reason: string;
  by: string | null;
  at: Date;
  until: Date | null;
}

const acceptedOf = (db: Db, sourceId: string): Promise<Accepted[]> =>
  db.rows(
    `
      select a.id, a.holder, a.how, a.through, a.schema, a.columns, a.reason, p.name as by, a.said_at as at, a.until
      from native_accepted a
      left join person p on p.id = a.said_by
      where a.source_id = $1 and (a.until is null or a.until > now())`,
    [sourceId],
  );

/** How much of a schema each role holds, and what it opens that is made later. */
const widthsOf = async (db: Db, sourceId: string) => ({
  held: await db.rows<{ schema: string; holder: string; tables: number; of: number }>(
    `
      with relation as (
        select t.id, split_part(t.key, chr(31), 2) as schema
        from asset t
        where t.source_id = $1 and t.gone_at is null and t.kind in (${kindsSql('holdsRows')})
      ),
      size as (select schema, count(*)::int as of from relation group by 1)
      select r.schema, g.holder, count(distinct r.id)::int as tables, s.of
      from native_grant g
      join relation r on r.id = g.asset_id
      join size s on s.schema = r.schema
      where g.how = 'grant'
      group by 1, 2, 4`,
    [sourceId],
  ),
  later: await db.rows<{ schema: string | null; holder: string }>(
    `
      select distinct a.name as schema, l.holder
      from native_later l
      left join asset a on a.id = l.schema_id
      where l.source_id = $1`,
    [sourceId],
  ),
});

const isThe = (
  one: Pick<WhichBypass, 'how' | 'holder' | 'through' | 'schema'>,
  other: Pick<WhichBypass, 'how' | 'holder' | 'through' | 'schema'> | Accepted,
): boolean =>
  one.how === other.how && one.holder === other.holder && one.through === other.through && one.schema === other.schema;

/** @throws 404 when there is no such right any more, or it opens nothing that it should not */
export function findBypass(rights: SourceRights, which: WhichBypass): Bypass {
  const bypass = rights.bypasses.find((one) => isThe(one, which));
  if (!bypass) throw notFound('A right of this kind that gives more than the policies do');
  return bypass;
}

/** A bypass with only the columns that count: those of a policy, of some tables. */
function narrowed(
  bypass: Bypass,
  policyId: string | undefined,
  tables: ReadonlySet<string> | null,
): Bypass | undefined {
  const columns = bypass.columns.filter(
    (column) =>
      (policyId === undefined || column.reasons.some((reason) => reason.policyId === policyId)) &&
      (tables === null || tables.has(column.tableId)),
  );
  return columns.length === 0
    ? undefined
    : { ...bypass, columns, tables: [...new Set(columns.map(({ tableId }) => tableId))] };
}

export async function listBypasses(
  db: Db,
  who: Who,
  { source, policy, asset }: { source?: string | undefined; policy?: string | undefined; asset?: string | undefined },
): Promise<BypassesAnswer> {
  who.mustAnywhere('policy administrator');
  const sources = await rightsSources(db, who, source);
  if (source !== undefined && sources.length === 0) throw notFound('A source of which rights were read');
  const seen = await policyNames(db, who);
  if (policy !== undefined && !seen.has(policy)) throw notFound('The policy');
  const facts = await inForce(db);
  const items: BypassAnswer[] = [];
  for (const one of sources) {
    const rights = await sourceRights(db, who, one.id, facts);
    const below =
      asset === undefined
        ? null
        : new Set(rights.tables.filter(({ ancestors }) => ancestors.includes(asset)).map(({ id }) => id));
    const found = rights.bypasses.flatMap((bypass) => narrowed(bypass, policy, below) ?? []);
    if (found.length === 0) continue;
    const rest = {
      source: one,
      rights,
      accepted: await acceptedOf(db, one.id),
      widths: await widthsOf(db, one.id),
      uses: await usesOf(db, one.id, [
        ...new Set(found.flatMap(({ columns }) => columns.map(({ columnId }) => columnId))),
      ]),
      seen,
      people: new Map(facts.people.map(({ id, name }) => [id, name])),
      mayMend: who.is('policy administrator', one.domainId),
    };
    items.push(...found.map((bypass) => toAnswer(bypass, rest)));
  }
  items.sort(
    (one, other) =>
      Number(one.accepted !== null) - Number(other.accepted !== null) || Number(other.against) - Number(one.against),
  );
  return {
    items: items.slice(0, MOST),
    sources: sources.map(({ id, name, readAt, holds }) => ({ id, name, readAt: readAt.toISOString(), holds })),
  };
}

interface Rest {
  readonly source: RightsSource;
  readonly rights: SourceRights;
  readonly accepted: readonly Accepted[];
  readonly widths: Awaited<ReturnType<typeof widthsOf>>;
  readonly uses: readonly Use[];
  readonly seen: PolicyNames;
  readonly people: ReadonlyMap<string, string>;
  readonly mayMend: boolean;
}

function toAnswer(
  bypass: Bypass,
  { source, rights, accepted, widths, uses, seen, people, mayMend }: Rest,
): BypassAnswer {
  const { how, holder, through, schema, since } = bypass;
  const place = new Map(rights.tables.map((table) => [table.id, table]));
  const shown = bypass.columns
    .map((column) => {
      const table = place.get(column.tableId);
      return {
        tableId: column.tableId,
        table: table?.path ?? '',
        column: column.column,
        level: table?.levels[column.columnId] ?? null,
        told: column.told,
        policies: column.reasons.map(({ policyId }) => policyName(policyId, seen)),
      };
    })
    .sort(
      (one, other) =>
        (other.level ?? 0) - (one.level ?? 0) || (one.table + one.column < other.table + other.column ? -1 : 1),
    );
  const reasons = bypass.columns.flatMap((column) => column.reasons.map(({ policyId }) => policyId));
  const everything = how === 'superuser' || how === 'reads all';
  const width = widths.held.find((one) => one.holder === holder && one.schema === schema);
  const as = new Set(bypass.logins.flatMap(({ chain }) => chain));
  const columns = new Set(bypass.columns.map(({ columnId }) => columnId));
  const mine = uses.filter(({ role, assets }) => as.has(role) && assets.some((id) => columns.has(id)));
  const settled = accepted.find((one) => isThe(bypass, one));
  return {
    sourceId: source.id,
    source: source.name,
    how,
    holder,
    through,
    schema,
    since,
    against: isAgainst(bypass),
    logins: bypass.logins.map((login) => ({
      ...login,
      people: login.people.map((id) => ({ id, name: people.get(id) ?? '' })),
    })),
    policies: policiesNamed(reasons, seen),
    tables: bypass.tables.length,
    columns: bypass.columns.length,
    level: shown[0]?.level ?? null,
    shown: shown.slice(0, SHOWN),
    whole: everything || (how === 'grant' && width !== undefined && width.tables === width.of && width.of > 1),
    later:
      everything ||
      (how === 'grant' &&
        widths.later.some((one) => one.holder === holder && (one.schema === null || one.schema === schema))),
    used:
      mine.length === 0
        ? null
        : {
            times: mine.reduce((sum, { times }) => sum + times, 0),
            at: new Date(Math.max(...mine.map(({ at }) => at.getTime()))).toISOString(),
          },
    accepted: settled
      ? {
          id: settled.id,
          reason: settled.reason,
          by: settled.by,
          at: settled.at.toISOString(),
          until: settled.until?.toISOString() ?? null,
          // A superuser reads whatever there is: who accepts one knows that more will come.
          more:
            how === 'superuser'
              ? 0
              : bypass.columns.filter(({ columnId }) => !settled.columns.includes(columnId)).length,
        }
      : null,
    mayMend,
  };
}

/** @throws 403 without the right in the domain of the source; 404 when it is not there or was never read */
export async function mendable(db: Db, who: Who, sourceId: string): Promise<RightsSource> {
  const [source] = await rightsSources(db, who, sourceId);
  if (!source) throw notFound('A source of which rights were read');
  who.must('policy administrator', source.domainId);
  return source;
}

/** Accepts a right that gives more than the policies do, as it stands now. @throws 403, 404 */
export async function acceptBypass(tx: Db, who: Who, body: AcceptBody): Promise<void> {
  const source = await mendable(tx, who, body.sourceId);
  const bypass = findBypass(await sourceRights(tx, who, source.id, await inForce(tx)), body);
  await say(tx, who, {
    action: 'accepted',
    held: async () => (await acceptedOf(tx, source.id)).find((one) => isThe(body, one)),
    may: () => undefined,
    async write(before) {
      await tx.run(
        `
          insert into native_accepted (source_id, holder, how, through, schema, columns, reason, until, said_by)
          values ($1, $2, $3, $4, $5, $6, $7, $8, $9)
          on conflict (source_id, holder, how, schema, through) do update
          set columns = excluded.columns, reason = excluded.reason, until = excluded.until, said_by = excluded.said_by,
            said_at = now()`,
        [
          source.id,
          body.holder,
          body.how,
          body.through,
          body.schema,
          bypass.columns.map(({ columnId }) => columnId),
          body.reason,
          body.until,
          who.id,
        ],
      );
      return [
        before ? { reason: before.reason } : null,
        { reason: body.reason, until: body.until, columns: bypass.columns.length },
      ];
    },
    about: () => ({
      kind: 'native right',
      id: source.id,
      name: `${source.name}: ${rightInWords(body)}`,
      domainId: null,
      domainIds: [source.domainId],
    }),
  });
}

/** @throws 403, 404 */
export async function forgetAccepted(tx: Db, who: Who, id: string): Promise<void> {
  await say(tx, who, {
    action: 'accepted no longer',
    async held() {
      const row = await tx.one<WhichBypass & { reason: string }>(
        'select source_id as "sourceId", holder, how, through, schema, reason from native_accepted where id = $1 for update',
        [id],
      );
      if (!row) throw notFound('What was accepted');
      return { ...row, source: await mendable(tx, who, row.sourceId) };
    },
    may: () => undefined,
    async write({ reason }) {
      await tx.run('delete from native_accepted where id = $1', [id]);
      return [{ reason }, null];
    },
    about: (row) => ({
      kind: 'native right',
      id: row.source.id,
      name: `${row.source.name}: ${rightInWords(row)}`,
      domainId: null,
      domainIds: [row.source.domainId],
    }),
  });
}
