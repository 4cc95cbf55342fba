import { isOfColumns, type Policy, readPolicyFilter } from '@idrel/core/access';
import { asOf, type Filter, FilterError } from '@idrel/core/catalog';
import { Binder, filterToSql } from '../catalog/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';

/** A policy with what its filter says: null for none. */
export type Filtered = Omit<Policy, 'matched'> & { readonly filter: string | null };

/** @throws 422 when it cannot be read, or is none that a right may rest on */
export function checkFilter(text: string): Filter {
  try {
    return readPolicyFilter(text);
  } catch (error) {
    if (error instanceof FilterError)
      throw invalid(`${error.message} (at character ${error.position + 1})`, error.mend, [
        { field: 'filter', message: error.message },
      ]);
    throw error;
  }
}

/** The condition on `asset a` of `source s` that the filter of a policy means: whoever asks, it finds the same. */
function finds(text: string, binder: Binder): string {
  const filter = asOf(readPolicyFilter(text), Date.now());
  const everywhere = '(select array_agg(id) from domain)';
  return `a.gone_at is null${isOfColumns(filter) ? " and a.kind = 'column'" : ''} and (${filterToSql(filter, binder, everywhere)})`;
}

const FROM_ASSETS = 'from asset a join source s on s.id = a.source_id';

/** What is kept that policies have found. */
const KEPT_FOR = `
  select m.policy_id as policy, array_agg(m.asset_id) as ids
  from policy_match m
  where m.policy_id = any($1::uuid[]) and ($2::uuid[] is null or m.asset_id = any($2))
  group by 1`;

/**
 * Policies with what their filters find: among the assets given, or of all. What a policy that protects or denies has found once it holds for still, until it is let go.
 * @param among ids; null for all
 */
export async function withMatches(
  db: Db,
  policies: readonly Filtered[],
  among: readonly string[] | null,
): Promise<Policy[]> {
  const filters = [...new Set(policies.flatMap(({ filter }) => filter ?? []))];
  if (filters.length === 0) return policies.map(({ filter: _, ...policy }) => ({ ...policy, matched: null }));
  if (db.moment !== undefined) return withMatchesThen(db, policies, among);
  const binder = new Binder();
  const ids = among && binder.add(among);
  const within = ids ? `a.id = any(${ids}::uuid[]) and ` : '';
  // Each filter once, however many policies have it.
  const parts = filters.map(
    (filter) => `select ${binder.add(filter)} as filter, a.id ${FROM_ASSETS} where ${within}${finds(filter, binder)}`,
  );
  const guarding = policies.flatMap(({ id, filter, effect }) => (filter !== null && effect !== 'allow' ? [id] : []));
  const [finding, holding] = await Promise.all([
    db.rows<{ filter: string; id: string }>(parts.join('\nunion all\n'), binder.values),
    guarding.length > 0 ? db.often<{ policy: string; ids: string[] }>(KEPT_FOR, [guarding, among]) : [],
  ]);
  const found = new Map<string, Set<string>>(filters.map((filter) => [filter, new Set()]));
  for (const { filter, id } of finding) found.get(filter)?.add(id);
  const held = new Map(holding.map(({ policy, ids: those }) => [policy, those]));
  return policies.map(({ filter, ...policy }) => {
    if (filter === null) return { ...policy, matched: null };
    const [now, before] = [found.get(filter) ?? new Set<string>(), held.get(policy.id) ?? []];
    return { ...policy, matched: before.length === 0 ? now : new Set([...now, ...before]) };
  });
}

/** Policies with what had been kept that their filters find: what filters ask for is not kept as it was. */
async function withMatchesThen(
  past: Db,
  policies: readonly Filtered[],
  among: readonly string[] | null,
): Promise<Policy[]> {
  const filtered = policies.flatMap(({ id, filter }) => (filter === null ? [] : [id]));
  const rows = await past.rows<{ policy: string; ids: string[] }>(KEPT_FOR, [filtered, among]);
  const found = new Map(rows.map(({ policy, ids }) => [policy, new Set(ids)]));
  return policies.map(({ filter, ...policy }) => ({
    ...policy,
    matched: filter === null ? null : (found.get(policy.id) ?? new Set()),
  }));
}

/** The ids of all that a filter finds now. */
export async function foundBy(db: Db, filter: string): Promise<Set<string>> {
  const binder = new Binder();
  const rows = await db.rows<{ id: string }>(
    `select a.id ${FROM_ASSETS} where ${finds(filter, binder)}`,
    binder.values,
  );
  return new Set(rows.map(({ id }) => id));
}

interface Kept {
  readonly id: string;
  readonly effect: Policy['effect'];
  readonly filter: string | null;
  readonly enabled: boolean;
}

/**
 * Keeps what the filter of a policy finds. Where it protects or denies, it holds for that from here on, whoever changes what; where it allows, it is kept so that it
 * can be told later what it opened.
 * @param anew what it held for before does not count any more, since somebody with the right says now what it is to hold for
 */
export async function keepMatches(tx: Db, policy: Kept, anew: boolean): Promise<void> {
  const { id, filter, effect, enabled } = policy;
  if (anew || filter === null || !enabled) await tx.run('delete from policy_match where policy_id = $1', [id]);
  if (filter === null || !enabled) return;
  const binder = new Binder();
  const place = binder.add(id);
  const found = `select a.id ${FROM_ASSETS} where ${finds(filter, binder)}`;
  const lost =
    effect === 'allow'
      ? `delete from policy_match m where m.policy_id = ${place} and not exists (select from found f where f.id = m.asset_id)`
      : `
        update policy_match m
        set lost_at = case when f.id is null then coalesce(m.lost_at, now()) end
        from policy_match o
        left join found f on f.id = o.asset_id
        where o.policy_id = ${place} and m.policy_id = o.policy_id and m.asset_id = o.asset_id
          and (f.id is null) is distinct from (m.lost_at is not null)`;
  await tx.run(
    `
      with found as materialized (${found}),
      lost as (${lost})
      insert into policy_match (policy_id, asset_id)
      select ${place}, id
      from found
      on conflict do nothing`,
    binder.values,
  );
}

/** Keeps what came to be found since, and what is not any more. One server does it at a time. */
export async function tendMatches(
  db: Db & { transaction<T>(work: (tx: Db) => Promise<T>): Promise<T> },
): Promise<void> {
  const policies = await db.rows<Kept>(
    'select id, effect, filter, enabled from policy where filter is not null and enabled order by id',
  );
  for (const policy of policies)
    await db.transaction(async (tx) => {
      const mine = await tx.one<Kept>(
        'select id, effect, filter, enabled from policy where id = $1 for update skip locked',
        [policy.id],
      );
      if (mine) await keepMatches(tx, mine, false);
    });
}
