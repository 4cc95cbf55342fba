import type { PolicyBody, ReachAnswer, ReachRow } from '@idrel/contract/access';
import {
  decideTable,
  Engine,
  isFor,
  isOver,
  type Opens,
  type Policy,
  type RowReachChange,
  reachOf,
  rowReachOf,
} from '@idrel/core/access';
import { kindsSql, PATH } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { CARRIES, meantTables, placeOf, policiesInForce, readPeople, readTables, type TableFacts } from './facts.ts';
import { checkFilter, foundBy } from './matches.ts';
import { type OpenedTo, type Seeing, seeingInForce, seeingOf, sightBetween, unseen } from './sight.ts';

const SHOWN = 1000;
const PASSED_SHOWN = 200;

/** What the filter of a draft finds; with what the policy holds for still, where it is the same filter. */
async function matchedBy(
  db: Db,
  policyId: string | null,
  { filter, effect }: PolicyBody,
  before: readonly Policy[],
): Promise<Set<string> | null> {
  if (filter === null) return null;
  const found = await foundBy(db, filter);
  const same = await db.one('select from policy where id = $1 and filter = $2', [policyId, filter]);
  const held = same && effect !== 'allow' ? before.find(({ id }) => id === policyId)?.matched : null;
  return held ? new Set([...found, ...held]) : found;
}

/** A draft that decides over values: one that only lets be seen does not. */
export type Deciding = PolicyBody & { readonly opens: Opens };
export const isDeciding = (draft: PolicyBody): draft is Deciding => draft.opens !== 'see';

/** A draft as what it changes is computed: as if its hours were now, and its purpose were stated. */
export const asPolicy = async (
  db: Db,
  policyId: string | null,
  draft: Deciding,
  matched: Policy['matched'],
): Promise<Policy> => ({
  id: policyId ?? 'draft',
  name: draft.name,
  effect: draft.effect,
  everyone: draft.everyone,
  groups: draft.groupIds,
  people: draft.personIds,
  exceptGroups: draft.exceptGroupIds,
  assets: draft.assetIds,
  classes: draft.classKeys,
  matched,
  carried: draft.carried,
  columns: draft.columns,
  columnsBut: draft.columnsBut,
  mask: draft.mask,
  rows: draft.rows && {
    ...draft.rows,
    through: draft.rows.through && { ...draft.rows.through, at: await placeOf(db, draft.rows.through.tableId) },
  },
  until: draft.until,
  hours: draft.hours,
  purposes: [],
  share: null,
  opens: draft.opens,
  passesOn: draft.passesOn,
  giver: null,
});

/** The same with what its filter finds now. */
export const drafted = async (
  db: Db,
  policyId: string | null,
  draft: Deciding,
  before: readonly Policy[],
): Promise<Policy> => ({
  ...(await asPolicy(db, policyId, draft, await matchedBy(db, policyId, draft, before))),
  giver: before.find(({ id }) => id === policyId)?.giver ?? null,
});

type People = Awaited<ReturnType<typeof readPeople>>;

/** Who gains or loses what, as rows that can be read, with the figures over them. */
function told(
  changes: ReturnType<typeof reachOf>,
  people: People,
  tables: readonly TableFacts[],
): Omit<ReachAnswer, 'passedOn' | 'otherwise' | 'limited' | 'used' | 'unseen' | 'sight'> {
  const [personName, table] = [
    new Map(people.map((person) => [person.id, person.name])),
    new Map(tables.map((entry) => [entry.id, entry])),
  ];
  const rows = changes.map((change): ReachRow => {
    const at = table.get(change.tableId);
    return {
      personId: change.personId,
      person: personName.get(change.personId) ?? '',
      tableId: change.tableId,
      table: at?.path ?? '',
      column: change.column,
      classes: at?.columns.find((column) => column.id === change.columnId)?.classes ?? [],
      level: at?.levels[change.columnId] ?? null,
      before: change.before,
      after: change.after,
      beforeMask: change.beforeMask,
      afterMask: change.afterMask,
    };
  });
  const distinct = (key: (row: ReachRow) => string) => new Set(rows.map(key)).size;
  return {
    people: distinct((row) => row.personId),
    tables: distinct((row) => row.tableId),
    columns: distinct((row) => `${row.tableId}.${row.column}`),
    sensitive: new Set(rows.filter((row) => (row.level ?? 0) >= 3).map((row) => `${row.tableId}.${row.column}`)).size,
    gains: rows.filter((row) => row.before === 'refused').length,
    losses: rows.filter((row) => row.after === 'refused').length,
    masked: rows.filter((row) => row.after === 'masked').length,
    rows: rows.slice(0, SHOWN),
  };
}

/** Who gets other rows, as rows that can be read. */
function limited(
  limits: readonly RowReachChange[],
  people: People,
  tables: readonly TableFacts[],
): ReachAnswer['limited'] {
  const [personName, path] = [
    new Map(people.map((person) => [person.id, person.name])),
    new Map(tables.map((table) => [table.id, table.path])),
  ];
  return limits.slice(0, SHOWN).map(({ personId, tableId, before, after }) => ({
    personId,
    person: personName.get(personId) ?? '',
    tableId,
    table: path.get(tableId) ?? '',
    before,
    after,
  }));
}

/** How much is told: the more, the more of a value. */
const TOLD = { refused: 0, preview: 1, masked: 2, plain: 3 } as const;
/** Which people lose something of which columns and tables. */
export const lostBy = (
  changes: ReturnType<typeof reachOf>,
  limits: readonly RowReachChange[],
): { personId: string; assetId: string }[] => [
  ...changes
    .filter(({ before, after }) => TOLD[after] < TOLD[before])
    .map(({ personId, columnId }) => ({ personId, assetId: columnId })),
  ...limits
    .filter(({ before, after }) => after.some((limit) => !before.includes(limit)))
    .map(({ personId, tableId }) => ({ personId, assetId: tableId })),
];

/** What of that they asked for in the last 30 days, through the gateway. */
export async function used(
  db: Db,
  lost: readonly { personId: string; assetId: string }[],
  people: People,
  tables: readonly TableFacts[],
): Promise<ReachAnswer['used']> {
  if (lost.length === 0) return [];
  const rows = await db.rows<{ personId: string; assetId: string; at: Date; times: number }>(
    `
      with lost as (select distinct l.person_id, l.asset_id from unnest($1::uuid[], $2::uuid[]) as l(person_id, asset_id))
      select l.person_id as "personId", l.asset_id as "assetId", max(b.moved_at) as at, sum(b.calls)::int as times
      from asked_by b
      join asked_for f on f.statement_id = b.statement_id
      join lost l on l.person_id = b.person_id and l.asset_id = f.asset_id
      where b.person_id is not null and b.moved_at > now() - interval '30 days'
      group by 1, 2
      order by 4 desc, 3 desc
      limit $3`,
    [lost.map(({ personId }) => personId), lost.map(({ assetId }) => assetId), PASSED_SHOWN],
  );
  const personName = new Map(people.map((person) => [person.id, person.name]));
  const place = new Map<string, { tableId: string; table: string; column: string | null }>();
  for (const table of tables) {
    place.set(table.id, { tableId: table.id, table: table.path, column: null });
    for (const { id, name } of table.columns) place.set(id, { tableId: table.id, table: table.path, column: name });
  }
  return rows.flatMap(({ personId, assetId, at, times }) => {
    const where = place.get(assetId);
    return where
      ? [{ personId, person: personName.get(personId) ?? '', ...where, at: new Date(at).toISOString(), times }]
      : [];
  });
}

/** Columns for which a policy that protects or denies decides, among people it is for. */
function guarded(policy: Policy, people: People, tables: readonly TableFacts[]): string[] {
  const alone: Policy[] = [
    policy,
    {
      ...policy,
      id: 'all',
      effect: 'allow',
      everyone: true,
      exceptGroups: [],
      assets: tables.map((table) => table.id),
      classes: [],
      matched: null,
      columns: null,
      columnsBut: false,
      mask: null,
      rows: null,
    },
  ];
  const [person] = people.filter((entry) => isFor(policy, entry));
  if (!person) return [];
  return tables.flatMap((table) => {
    const decision = decideTable(alone, person, table);
    return decision.columns.flatMap((column) =>
      column.access !== 'plain' || decision.rowLimits.length > 0 ? [column.id] : [],
    );
  });
}

/** Where the values that a policy guards can be read all the same, since views and loads carry them on: columns that somebody it is for reads plain. */
async function passedOn(
  db: Db,
  who: Who,
  policy: Policy,
  after: readonly Policy[],
  people: People,
  tables: readonly TableFacts[],
): Promise<ReachAnswer['passedOn']> {
  const sources = guarded(policy, people, tables);
  if (sources.length === 0) return [];
  const ways = await db.rows<{ id: string; tableId: string; from: string }>(
    `
      with recursive down(start, id) as (
        select c, c
        from unnest($1::uuid[]) c
        union
        select down.start, e.to_id
        from down
        join lineage_edge e on e.from_id = down.id
        join asset f on f.id = e.from_id
        join asset o on o.id = e.to_id
        where ${CARRIES}
      )
      select down.id, o.parent_id as "tableId", min(${PATH}) as "from"
      from down
      join asset o on o.id = down.id
      join asset a on a.id = down.start
      join source s on s.id = a.source_id
      where down.id <> all($1::uuid[]) and o.kind = 'column' and o.gone_at is null and ${isSeen('o', '$2')}
      group by 1, 2`,
    [sources, who.domainsAs('reader')],
  );
  const reached = await readTables(
    db,
    't.id = any($1::uuid[])',
    [[...new Set(ways.map((way) => way.tableId))]],
    after,
    'any',
  );
  const concerned = people.filter((person) => isFor(policy, person));
  const open = new Map<string, number>();
  const engine = new Engine(after);
  for (const reader of concerned.map((person) => engine.for(person)))
    for (const table of reached) {
      const decision = reader.decide(table);
      for (const column of decision.columns)
        if (column.access === 'plain' && decision.rowLimits.length === 0)
          open.set(column.id, (open.get(column.id) ?? 0) + 1);
    }
  const names = new Map(
    reached.flatMap((table) =>
      table.columns.map((column) => [column.id, { table: table.path, column: column.name }] as const),
    ),
  );
  return ways
    .flatMap((way) => {
      const [count, name] = [open.get(way.id), names.get(way.id)];
      return count && name ? [{ columnId: way.id, tableId: way.tableId, ...name, from: way.from, people: count }] : [];
    })
    .sort((a, b) => (a.table + a.column < b.table + b.column ? -1 : 1))
    .slice(0, PASSED_SHOWN);
}

/** Columns for which another mask is applied than the one chosen, and why. */
function otherwise(
  policy: Policy,
  after: readonly Policy[],
  people: People,
  tables: readonly TableFacts[],
): ReachAnswer['otherwise'] {
  const [person] = people.filter((entry) => isFor(policy, entry));
  if (!person || policy.mask === null) return [];
  const alone = new Engine([policy, ...after.filter((other) => other.effect === 'allow')]).for(person);
  return tables.flatMap((table) =>
    alone
      .decide(table)
      .columns.filter((column) => column.instead !== null)
      .map((column) => ({
        columnId: column.id,
        tableId: table.id,
        table: table.path,
        column: column.name,
        why: column.instead ?? '',
      })),
  );
}

const NOTHING: Omit<ReachAnswer, 'sight'> = {
  people: 0,
  tables: 0,
  columns: 0,
  sensitive: 0,
  gains: 0,
  losses: 0,
  masked: 0,
  rows: [],
  limited: [],
  used: [],
  unseen: [],
  passedOn: [],
  otherwise: [],
};

/** What a draft would change for everybody, compared with the policies in force; null as draft: what removing the policy would change. */
export async function reach(db: Db, who: Who, policyId: string | null, draft: PolicyBody | null): Promise<ReachAnswer> {
  who.mustAnywhere('policy administrator');
  if (draft?.filter) checkFilter(draft.filter);
  const seeing = await seeingInForce(db);
  const seen = draft ? seeingOf(db, policyId ?? 'draft', draft) : undefined;
  const sight = await sightBetween(db, who, seeing, [
    ...seeing.filter(({ id }) => id !== policyId),
    ...(seen ? [seen] : []),
  ]);
  // What only lets be seen changes nothing of who reads what: the other policies need not be read.
  const decides =
    (draft && isDeciding(draft)) ||
    (policyId !== null && (await db.one("select from policy where id = $1 and opens <> 'see'", [policyId])));
  if (!decides) return { ...NOTHING, sight };
  const before = await policiesInForce(db);
  const share = before.find(({ id }) => id === policyId)?.share ?? null;
  const opened = draft?.enabled && isDeciding(draft) && !isOver(draft, Date.now()) ? draft : null;
  const policy = opened && { ...(await drafted(db, policyId, opened, before)), share };
  const after = [...before.filter((other) => other.id !== policyId), ...(policy ? [policy] : [])];
  const changed = [...before.filter((other) => other.id === policyId), ...(policy ? [policy] : [])];
  const { answer, people, tables } = await between(db, who, before, after, changed);
  const guards = policy && policy.effect !== 'allow' ? policy : null;
  return {
    ...answer,
    sight,
    passedOn: guards ? await passedOn(db, who, guards, after, people, tables) : [],
    otherwise: guards ? otherwise(guards, after, people, tables).slice(0, PASSED_SHOWN) : [],
  };
}

/**
 * What comes of several policies that are changed at once, which they are already.
 * @param touched their ids, as they were or as they are
 * @param seen those by which something was seen before
 */
export async function reachBetween(
  db: Db,
  who: Who,
  before: readonly Policy[],
  after: readonly Policy[],
  touched: ReadonlySet<string>,
  seen: readonly Seeing[],
): Promise<ReachAnswer> {
  const changed = [...before, ...after].filter(({ id }) => touched.has(id));
  const { answer } = await between(db, who, before, after, changed);
  return {
    ...answer,
    passedOn: [],
    otherwise: [],
    sight: await sightBetween(db, who, seen, await seeingInForce(db)),
  };
}

/** Who gains something in which source, each pair once: of a person it can be a hundred thousand columns. */
function gaining(changes: ReturnType<typeof reachOf>, tables: readonly TableFacts[]): OpenedTo[] {
  const places = new Map(tables.map(({ id, sourceId }) => [id, sourceId]));
  const found = new Map<string, { personId: string; sourceId: string; tables: Set<string> }>();
  for (const { personId, tableId, before } of changes) {
    const sourceId = before === 'refused' ? places.get(tableId) : undefined;
    if (sourceId === undefined) continue;
    const pair = `${personId} ${sourceId}`;
    const known = found.get(pair) ?? { personId, sourceId, tables: new Set<string>() };
    known.tables.add(tableId);
    found.set(pair, known);
  }
  return [...found.values()].map(({ tables: gained, ...pair }) => ({ ...pair, tableIds: [...gained] }));
}

/** What changes for everybody from some policies to others, of which some are changed. */
async function between(
  db: Db,
  who: Who,
  before: readonly Policy[],
  after: readonly Policy[],
  changed: readonly Policy[],
): Promise<{
  readonly answer: Omit<ReachAnswer, 'passedOn' | 'otherwise' | 'sight'>;
  readonly people: People;
  readonly tables: TableFacts[];
}> {
  const people = await readPeople(db, null);
  // Only what these policies mean can be read otherwise: what the others mean stays as it is.
  const meant = changed.some(({ carried }) => carried) ? { condition: 'true', bind: [] } : meantTables(changed, 2);
  const tables = await readTables(
    db,
    `${isSeen('t', '$1')} and t.kind in (${kindsSql('holdsRows')}) and (${meant.condition})`,
    [who.domainsAs('reader'), ...meant.bind],
    [...before, ...after],
    'any',
  );
  const changes = reachOf(before, after, people, tables);
  const limits = changed.some(({ rows }) => rows) ? rowReachOf(before, after, people, tables) : [];
  return {
    answer: {
      ...told(changes, people, tables),
      limited: limited(limits, people, tables),
      used: await used(db, lostBy(changes, limits), people, tables),
      unseen: await unseen(db, gaining(changes, tables)),
    },
    people,
    tables,
  };
}
