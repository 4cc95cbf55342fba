import type { ClosingPlanAnswer, PlanBody } from '@idrel/contract/access';
import {
  type Bypass,
  backText,
  type ClosingWish,
  closingPlan,
  Engine,
  EVERYBODY,
  loses,
  type NativeTable,
  type Person,
  type Policy,
  planText,
} from '@idrel/core/access';
import { kindsSql } from '../../catalog/index.ts';
import type { Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';
import { invalid } from '../../platform/problems.ts';
import { readTables } from '../facts.ts';
import { findBypass, inForce, mendable, type RightsTable, type SourceRights, sourceRights } from './bypasses.ts';
import { withGrants } from './rights.ts';
import { usesOf } from './uses.ts';

const STEPS_SHOWN = 500;
const NEVER = new Date(0);

/** Tables on which a role holds a right to read, or on a column of them. @param schema only there */
const heldBy = async (db: Db, who: Who, sourceId: string, holder: string, schema: string | null) =>
  withGrants(
    db,
    await readTables(
      db,
      `t.source_id = $1 and t.domain_id = any($2::uuid[]) and t.kind in (${kindsSql('holdsRows')}) and ($4::text is null or split_part(t.key, chr(31), 2) = $4)
       and (exists (select from native_grant g where g.asset_id = t.id and g.how = 'grant' and g.holder = $3)
         or exists (
           select
           from asset c
           join native_grant g on g.asset_id = c.id and g.how = 'grant' and g.holder = $3
           where c.parent_id = t.id and c.kind = 'column'))`,
      [sourceId, who.domainsAs('policy administrator'), holder, schema],
      [],
      'any',
    ),
  );

/** All tables of a source. */
const all = async (db: Db, sourceId: string) =>
  withGrants(
    db,
    await readTables(db, `t.source_id = $1 and t.kind in (${kindsSql('holdsRows')})`, [sourceId], [], 'any'),
  );

/** All other tables of a source, what a role that reads all goes on reading: without their columns, but where it holds rights on some of these. */
async function allOthers(db: Db, sourceId: string, holder: string, but: readonly string[]): Promise<NativeTable[]> {
  const rows = await db.rows<{
    id: string;
    sourceId: string;
    schema: string;
    name: string;
    ancestors: string[];
    inPart: boolean;
  }>(
    `
      select
        t.id, t.source_id as "sourceId", s.name as schema, t.name, array[t.id, s.id, s.parent_id] as ancestors,
        exists (
          select
          from asset c
          join native_grant g on g.asset_id = c.id and g.holder = $3
          where c.parent_id = t.id and c.kind = 'column') as "inPart"
      from asset t
      join asset s on s.id = t.parent_id
      where t.source_id = $1 and t.gone_at is null and t.kind in (${kindsSql('holdsRows')}) and t.id <> all($2::uuid[])
      order by t.key`,
    [sourceId, but, holder],
  );
  const parts = rows.filter(({ inPart }) => inPart).map(({ id }) => id);
  return [
    ...(await withGrants(
      db,
      rows.filter(({ inPart }) => !inPart).map((row) => ({ ...row, columns: [], levels: {} })),
    )),
    ...(parts.length > 0
      ? await withGrants(db, await readTables(db, 't.id = any($1::uuid[])', [parts], [], 'any'))
      : []),
  ];
}

const countUnseen = async (db: Db, who: Who, sourceId: string): Promise<number> =>
  (
    await db.one<{ n: number }>(
      `select count(*)::int as n from asset t
       where t.source_id = $1 and t.gone_at is null and t.kind in (${kindsSql('holdsRows')}) and t.domain_id <> all($2::uuid[])`,
      [sourceId, who.domainsAs('policy administrator')],
    )
  )?.n ?? 0;

/** The tables that are to be closed, and what of them stays open. */
async function meant(
  db: Db,
  who: Who,
  body: PlanBody,
  bypass: Bypass,
  rights: SourceRights,
): Promise<{ tables: RightsTable[]; keep: Map<string, string[]> }> {
  if (body.scope !== 'these') {
    if (body.how === 'reads all' && body.scope === 'schema')
      throw invalid('The right is one over everything, and stands in no schema.', 'Close these tables, or all.', [
        { field: 'scope', message: 'must be these or all' },
      ]);
    const tables =
      body.how === 'reads all'
        ? await all(db, body.sourceId)
        : await heldBy(db, who, body.sourceId, body.holder, body.scope === 'schema' ? body.schema : null);
    return { tables, keep: new Map() };
  }
  const tables = rights.tables.filter(
    ({ id }) => bypass.tables.includes(id) && (body.tableIds.length === 0 || body.tableIds.includes(id)),
  );
  if (!body.keepColumns) return { tables, keep: new Map() };
  const closed = new Set(bypass.columns.map(({ columnId }) => columnId));
  return {
    tables,
    keep: new Map(
      tables.map((table) => {
        const whole =
          body.how !== 'grant' || table.grants.some((grant) => grant.how === 'grant' && grant.holder === body.holder);
        const opened = whole
          ? table.columns.map(({ id }) => id)
          : [...table.columnGrants].flatMap(([id, grants]) =>
              grants.some(({ holder }) => holder === body.holder) ? [id] : [],
            );
        return [table.id, opened.filter((id) => !closed.has(id))];
      }),
    ),
  };
}

const laterOf = (db: Db, sourceId: string, holder: string, schema: string | null) =>
  db.rows<{ maker: string; schema: string | null }>(
    `
      select l.maker, a.name as schema
      from native_later l
      left join asset a on a.id = l.schema_id
      where l.source_id = $1 and l.holder = $2 and ($3::text is null or a.name is null or a.name = $3)
      order by 1, 2`,
    [sourceId, holder, schema],
  );

/** A plan that closes a right at a source. Nothing is run. @throws 403, 404 */
export async function planClosing(db: Db, who: Who, body: PlanBody): Promise<ClosingPlanAnswer> {
  const source = await mendable(db, who, body.sourceId);
  const facts = await inForce(db);
  const rights = await sourceRights(db, who, source.id, facts);
  const bypass = findBypass(rights, body);
  const unseen = await countUnseen(db, who, source.id);
  if (body.how === 'reads all' && unseen > 0)
    return nothing(
      `There are tables in ${source.name} in domains whose policies you do not administer: who ends a right over everything must know all that is read by it.`,
    );
  const { tables, keep } = await meant(db, who, body, bypass, rights);
  const isOverAll = body.how === 'reads all';
  const wish: ClosingWish = {
    how: body.how,
    holder: body.holder,
    through: body.through,
    tables,
    keep,
    others:
      isOverAll && body.scope === 'these'
        ? await allOthers(
            db,
            source.id,
            body.holder,
            tables.map(({ id }) => id),
          )
        : [],
    later:
      body.later && !isOverAll
        ? await laterOf(db, source.id, body.holder, body.scope === 'all' ? null : body.schema)
        : [],
  };
  const plan = closingPlan(wish);
  const title = `${source.name}: ends what ${body.holder === EVERYBODY ? 'everybody' : body.holder} may read beyond the policies`;
  return {
    steps: plan.steps.slice(0, STEPS_SHOWN),
    total: plan.steps.length,
    text: plan.steps.length > 0 ? planText(title, plan) : '',
    back: plan.steps.length > 0 ? backText(`${title}: taken back`, plan) : '',
    cannot: plan.cannot,
    cautions: [
      ...plan.cautions,
      ...(isOverAll
        ? ['Tables that are not in the catalog, and parts of tables by their own names, are closed to it too.']
        : []),
      ...(unseen > 0 && body.scope !== 'these'
        ? ['Tables in domains whose policies you do not administer are left as they are.']
        : []),
    ],
    tables: plan.steps.length > 0 ? tables.length : 0,
    ...(plan.steps.length > 0 ? await lossesOf(db, source.id, wish, rights, facts.policies) : { loses: [], still: [] }),
  };
}

const nothing = (cannot: string): ClosingPlanAnswer => ({
  steps: [],
  total: 0,
  text: '',
  back: '',
  cannot: [cannot],
  cautions: [],
  tables: 0,
  loses: [],
  still: [],
});

/** Who loses what by a plan: how much of it they read through the gateway, and whether they asked for it. */
async function lossesOf(
  db: Db,
  sourceId: string,
  wish: ClosingWish,
  { roles, logins, tables }: SourceRights,
  policies: readonly Policy[],
): Promise<Pick<ClosingPlanAnswer, 'loses' | 'still'>> {
  // A membership that goes closes whatever was read by it; a right that goes, the tables on which it stood.
  const known = new Map([...tables, ...wish.tables].map((table) => [table.id, table]));
  const touched =
    wish.how === 'reads all'
      ? [...known.values(), ...wish.others.filter(({ id }) => !known.has(id))]
      : [...wish.tables];
  const after = loses(wish, { roles, tables: touched });
  const lost = [...new Set(after.flatMap((one) => one.loses.flatMap(({ columnIds }) => columnIds)))];
  const uses = await usesOf(db, sourceId, lost);
  return {
    loses: after.flatMap((one) => {
      if (one.loses.length === 0) return [];
      const who = logins.get(one.login);
      const columns = new Set(one.loses.flatMap(({ columnIds }) => columnIds));
      const mine = uses.filter(({ role, assets }) => role === one.login && assets.some((id) => columns.has(id)));
      return [
        {
          login: one.login,
          people: (who?.people ?? []).map(({ id, name }) => ({ id, name })),
          program: who?.program ?? false,
          tables: one.loses.length,
          columns: columns.size,
          byPolicy: byPolicy(one.loses, known, policies, who?.people ?? []),
          used:
            mine.length === 0
              ? null
              : {
                  times: mine.reduce((sum, { times }) => sum + times, 0),
                  at: mine.reduce((last, { at }) => (at > last ? at : last), NEVER).toISOString(),
                },
        },
      ];
    }),
    still: after.flatMap(({ login, still }) => {
      if (still.length === 0) return [];
      const by = new Map(
        still.flatMap(({ ways }) =>
          ways.map(
            ({ how, holder, through }) => [JSON.stringify([how, holder, through]), { how, holder, through }] as const,
          ),
        ),
      );
      return [{ login, tables: still.length, by: [...by.values()] }];
    }),
  };
}

/** How many of the columns that a login loses somebody who comes in as it reads as they are through the gateway. */
function byPolicy(
  lost: readonly { readonly tableId: string; readonly columnIds: readonly string[] }[],
  tables: ReadonlyMap<string, NativeTable>,
  policies: readonly Policy[],
  people: readonly Person[],
): number {
  const engine = new Engine(policies);
  const readers = people.map((person) => engine.for(person));
  let read = 0;
  for (const { tableId, columnIds } of lost) {
    const table = tables.get(tableId);
    if (!table) continue;
    const plain = new Set<string>();
    for (const reader of readers) {
      const decision = reader.decide(table);
      if (decision.rowLimits.length > 0) continue;
      for (const { id, access } of decision.columns) if (access === 'plain') plain.add(id);
    }
    read += columnIds.filter((id) => plain.has(id)).length;
  }
  return read;
}
