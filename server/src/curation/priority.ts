import type { PriorityPreview, PriorityRule, PriorityRuleBody, priorityEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { type Filter, PRIORITIES } from '@idrel/core/catalog';
import { Binder, FROM, PATH, PRIORITY, pathOf, priorityOf, readFilter, whereVisible } from '../catalog/index.ts';
import { change, create, type Kept, remove } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import { asIf, type Database, type Db } from '../platform/database.ts';
import { follow } from '../platform/jobs.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { PRIORITY_RULE, type PriorityRuleRow } from './models.ts';

const SHOWN = 100;

/** Whoever reads everything: a rule says what matters in the whole organisation, whoever made it. */
async function everything(db: Db): Promise<Pick<Who, 'domainsAs'>> {
  const domains = (await db.rows<{ id: string }>('select id from domain')).map(({ id }) => id);
  return { domainsAs: () => domains };
}

function asksForPriority(filter: Filter): boolean {
  switch (filter.type) {
    case 'all':
    case 'any':
      return filter.of.some(asksForPriority);
    case 'not':
      return asksForPriority(filter.of);
    default:
      return filter.type === 'is' && filter.key === 'priority';
  }
}

/** @throws 422 when its filter cannot be read, or asks for what the rule itself makes */
function check({ filter }: PriorityRuleBody): void {
  if (asksForPriority(readFilter(filter)))
    throw invalid(
      'A rule of priority cannot ask for priority.',
      'Take that condition out: what it names would follow from itself.',
      [{ field: 'filter', message: 'asks for priority' }],
    );
}

/** Asks the rules what they find now, and writes what is different. */
async function matchRules(tx: Db): Promise<void> {
  const all = await everything(tx);
  for (const { id, filter } of await tx.rows<{ id: string; filter: string }>(
    'select id, filter from priority_rule where enabled order by id',
  )) {
    const binder = new Binder();
    const rule = binder.add(id);
    const where = whereVisible(readFilter(filter), all, binder);
    await tx.run(
      `
        with found as materialized (select a.id from ${FROM} where ${where}),
        lost as (
          delete from priority_match m
          where m.rule_id = ${rule} and not exists (select from found f where f.id = m.asset_id)
        )
        insert into priority_match (rule_id, asset_id)
        select ${rule}, f.id
        from found f
        where not exists (select from priority_match m where m.rule_id = ${rule} and m.asset_id = f.id)`,
      binder.values,
    );
  }
}

/** Works out what matters: what rules find, and what is inherited. @returns how many assets matter otherwise than before */
export async function settlePriority(tx: Db): Promise<number> {
  await matchRules(tx);
  return (await tx.one<{ changed: number }>('select settle_priority() as changed'))?.changed ?? 0;
}

/** $1 are the domains of whoever asks: what lies elsewhere is not counted for them. */
const SELECT = `
  select r.id, r.name, r.filter, r.priority, r.enabled, p.name as "madeBy", r.version,
    (
      select count(*)::int
      from priority_match m
      join asset a on a.id = m.asset_id and ${isSeen('a', '$1')}
      where m.rule_id = r.id
    ) as found
  from priority_rule r
  left join person p on p.id = r.made_by`;

const RULES: Kept<PriorityRuleRow, PriorityRule> = {
  thing: 'priority rule',
  model: PRIORITY_RULE,
  async read(db, who, id) {
    const rule = await db.one<PriorityRule>(`${SELECT} where r.id = $2`, [who.domainsAs('reader'), id]);
    if (!rule) throw notFound('The rule');
    return rule;
  },
  told: (_db, { name, filter, priority, enabled }) => ({
    name,
    filter,
    priority: PRIORITIES[priority],
    'in force': enabled ? 'yes' : 'no',
  }),
  may: (_db, who) => who.mustEverywhere('steward'),
};

export async function listPriorityRules(db: Db, who: Who): Promise<AnswerOf<typeof priorityEndpoints.list>> {
  const state = await db.one<{ at: string | null }>('select settled_at as at from priority_state');
  return {
    rules: await db.rows<PriorityRule>(`${SELECT} order by r.priority desc, lower(r.name)`, [who.domainsAs('reader')]),
    settledAt: state?.at ?? null,
    mayChange: who.isEverywhere('steward'),
  };
}

export async function addPriorityRule(tx: Db, who: Who, body: PriorityRuleBody): Promise<PriorityRule> {
  check(body);
  const made = await create(tx, who, RULES, { ...body, madeBy: who.id });
  await follow(tx, 'priority');
  return made;
}

export async function changePriorityRule(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: PriorityRuleBody,
): Promise<PriorityRule> {
  check(body);
  const { after } = await change(tx, who, RULES, id, { version, values: body });
  await follow(tx, 'priority');
  return after;
}

export async function removePriorityRule(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, RULES, id);
  await follow(tx, 'priority');
}

/** What a rule would change, if it were there so: it is done, looked at and taken back. */
export async function previewPriorityRule(
  db: Database,
  who: Who,
  rule: PriorityRuleBody | null,
  id: string | undefined,
): Promise<PriorityPreview> {
  who.mustEverywhere('steward');
  if (rule) check(rule);
  return asIf(db, async (tx) => {
    if (id) await RULES.read(tx, who, id);
    await tx.run(
      `create temp table priority_before on commit drop as
       select a.id, ${PRIORITY} as grade
       from asset a
       where a.priority_set is not null or a.id in (select asset_id from asset_priority)`,
    );
    const found = await withRule(tx, rule, id);
    await settlePriority(tx);
    const shifting = `
      shifting as (
        select x.id, coalesce(b.grade, 0) as before, ${priorityOf('x')} as after
        from asset x
        left join priority_before b on b.id = x.id
        where x.gone_at is null and (b.id is not null or x.id in (select asset_id from asset_priority))
      )`;
    const shifts = await tx.rows<PriorityPreview['shifts'][number]>(
      `
        with ${shifting}
        select before, after, count(*)::int as assets
        from shifting
        where before <> after
        group by before, after
        order by after - before desc, after desc`,
    );
    const shown = await tx.rows<PriorityPreview['shown'][number]>(
      `
        with ${shifting}
        select a.id, a.kind, ${PATH} as path, s.name as source, f.before, f.after,
          (
            select ${pathOf('w', 'ws')}
            from asset_priority v
            join asset w on w.id = v.from_id and ${isSeen('w', '$1')}
            join source ws on ws.id = w.source_id
            where v.asset_id = a.id and v.inherited >= f.after and v.inherited > v.found
          ) as from
        from shifting f
        join ${FROM.replace('asset a', 'asset a on a.id = f.id')}
        where f.before <> f.after and ${isSeen('a', '$1')}
        order by f.after - f.before desc, f.after desc, a.kind = 'column', s.name, a.key
        limit ${SHOWN}`,
      [who.domainsAs('reader')],
    );
    return { found: await found(), shifts, shown };
  });
}

/** Puts a rule into the place of the one of this id, or beside all others. @returns how many it finds, once it was asked */
async function withRule(tx: Db, rule: PriorityRuleBody | null, id: string | undefined): Promise<() => Promise<number>> {
  if (!rule) {
    await tx.run('delete from priority_rule where id = $1', [id ?? null]);
    return () => Promise.resolve(0);
  }
  const { filter, priority, enabled } = rule;
  const row = await tx.one<{ id: string }>(
    id
      ? 'update priority_rule set filter = $2, priority = $3, enabled = $4 where id = $1 returning id'
      : "insert into priority_rule (name, filter, priority, enabled) values (gen_random_uuid()::text || coalesce($1, ''), $2, $3, $4) returning id",
    [id ?? null, filter, priority, enabled],
  );
  return async () =>
    (await tx.one<{ found: number }>('select count(*)::int as found from priority_match where rule_id = $1', [row?.id]))
      ?.found ?? 0;
}
