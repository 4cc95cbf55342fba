import type { AskedQuery, AssetUse, catalogEndpoints } from '@idrel/contract/catalog';
import type { QueryOf } from '@idrel/contract/http';
import type { AskedHow } from '@idrel/core/lineage';
import { QUERY_LONGEST } from '@idrel/readers/connectors';
import { isSeen, type Who } from '../people/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import { PATH } from './rows.ts';
import { getAsset } from './service.ts';

/** A statement to keep: what it reads, and how often it was asked by whom. */
export interface AskedStatement {
  /** By which it is known again. */
  readonly print: string;
  /** Without the values in it; empty where it is too long to be kept. */
  readonly text: string;
  /** By role of the source, what its counter says. */
  readonly roles?: readonly (readonly [role: string, calls: number])[];
  /** By a person, so many times more. */
  readonly person?: { readonly id: string; readonly times: number };
  /** Assets that it reads or writes. */
  readonly reads: readonly (readonly [assetId: string, how: readonly AskedHow[]])[];
  /** Words of the names that it gives to what it shows and to its own queries, as a `tsvector` is written. */
  readonly words: string;
  /** Whether all that it names is among these: only then its text may be kept, since nobody could tell who may see it otherwise. */
  readonly whole: boolean;
}

/** A statement `q` whose text may be shown to who reads the domains $2: it is kept, and all its tables lie in them. */
const SEEN = `q.text is not null and not exists (
  select from asked_for o join asset x on x.id = o.asset_id where o.statement_id = q.id and not ${isSeen('x', '$2')}
)`;

/** Keeps statements that were asked at a source, and counts anew what they ask for. Of two with the same print the text of the first is kept. */
export async function keepAsked(
  tx: Tx,
  sourceId: string,
  runId: string | null,
  statements: readonly AskedStatement[],
): Promise<void> {
  const byPrint = new Map(statements.map((statement) => [statement.print, statement]));
  const kept = await tx.rows<{ id: string; print: string }>(
    `
      insert into asked_statement (id, source_id, print, text, words)
      select g.id, $2, g.print, g.text, g.words::tsvector
      from json_to_recordset($1::json) as g(id uuid, print text, text text, words text)
      order by g.print
      on conflict (source_id, print)
      do update set
        words = coalesce(asked_statement.words, excluded.words),
        text = case when excluded.text is not null then coalesce(asked_statement.text, excluded.text) end
      returning id, print`,
    [
      JSON.stringify(
        [...byPrint].map(([print, { text, words, whole }]) => ({
          id: newId(),
          print,
          words,
          text: whole && text && text.length <= QUERY_LONGEST ? text : null,
        })),
      ),
      sourceId,
    ],
  );
  const of = kept.flatMap(({ id, print }) => {
    const statement = byPrint.get(print);
    return statement ? [{ id, statement }] : [];
  });
  const ids = kept.map(({ id }) => id);
  await tx.run(
    `
      insert into asked_by (statement_id, role, calls)
      select statement, role, calls
      from json_to_recordset($1::json) as g(statement uuid, role text, calls float8)
      order by 1, 2
      on conflict (statement_id, role) where role is not null
      do update set
        calls = excluded.calls,
        moved_at = case when asked_by.calls is distinct from excluded.calls then now() else asked_by.moved_at end`,
    [
      JSON.stringify(
        of.flatMap(({ id, statement }) =>
          (statement.roles ?? []).map(([role, calls]) => ({ statement: id, role, calls })),
        ),
      ),
    ],
  );
  await tx.run(
    `
      insert into asked_by (statement_id, person_id, calls)
      select statement, person, times
      from json_to_recordset($1::json) as g(statement uuid, person uuid, times float8)
      order by 1, 2
      on conflict (statement_id, person_id) where person_id is not null
      do update set calls = asked_by.calls + excluded.calls, moved_at = now()`,
    [
      JSON.stringify(
        of.flatMap(({ id, statement: { person } }) =>
          person ? [{ statement: id, person: person.id, times: person.times }] : [],
        ),
      ),
    ],
  );
  const changed = await tx.rows<{ asset: string }>(
    `
      with given as (
        select asset, statement, array(select json_array_elements_text(g.how)) as how
        from json_to_recordset($1::json) as g(asset uuid, statement uuid, how json)
      ),
      gone as (
        delete from asked_for f
        where f.statement_id = any($2::uuid[])
          and not exists (select from given g where g.statement = f.statement_id and g.asset = f.asset_id)
        returning f.asset_id
      ),
      come as (
        insert into asked_for (asset_id, statement_id, how)
        select g.asset, g.statement, g.how
        from given g
        order by 1, 2
        on conflict (asset_id, statement_id) do update set how = excluded.how
          where asked_for.how is distinct from excluded.how
        returning asset_id
      )
      select asset_id as asset from gone union select asset from given`,
    [
      JSON.stringify(
        of.flatMap(({ id, statement }) => statement.reads.map(([asset, how]) => ({ statement: id, asset, how }))),
      ),
      ids,
    ],
  );
  await countUse(
    tx,
    runId,
    changed.map(({ asset }) => asset),
  );
}

/** Forgets what nobody has asked for a year at a source, and counts anew what that asked for. */
export async function forgetAsked(tx: Tx, sourceId: string): Promise<void> {
  const lost = await tx.rows<{ asset: string }>(
    `
      with old as (
        delete from asked_statement q
        where q.source_id = $1
          and not exists (select from asked_by b where b.statement_id = q.id and b.moved_at > now() - interval '1 year')
        returning q.id
      )
      select distinct f.asset_id as asset from asked_for f join old on old.id = f.statement_id`,
    [sourceId],
  );
  if (lost.length > 0)
    await countUse(
      tx,
      null,
      lost.map(({ asset }) => asset),
    );
}

/** How often each asset was asked for, by all that is kept, and the words by which it is found for that; only to be written into is not to be asked for. */
async function countUse(tx: Tx, runId: string | null, assetIds: readonly string[]): Promise<void> {
  const counted = `
    select
      f.asset_id, sum(b.calls) as calls, count(distinct coalesce(b.role, b.person_id::text))::int as roles,
      count(distinct f.statement_id)::int as statements, max(b.moved_at) as moved_at
    from asked_for f
    join asked_by b on b.statement_id = f.statement_id
    where f.asset_id = any($1::uuid[]) and f.how <> '{written}'
    group by f.asset_id`;
  await tx.run(
    `
      insert into asset_use (asset_id, run_id, calls, roles, statements, moved_at)
      select c.asset_id, $2, c.calls, c.roles, c.statements, c.moved_at
      from (${counted}) c
      order by c.asset_id
      on conflict (asset_id)
      do update set
        run_id = coalesce(excluded.run_id, asset_use.run_id), calls = excluded.calls, roles = excluded.roles,
        statements = excluded.statements, moved_at = excluded.moved_at, seen_at = now()`,
    [assetIds, runId],
  );
  await tx.run(
    `delete from asset_use where asset_id = any($1::uuid[]) and asset_id not in (select asset_id from (${counted}) c)`,
    [assetIds],
  );
  await tx.run('select say_asked($1::uuid[])', [assetIds]);
}

/** Columns that an asset and another are joined by, in the statements that ask for both. */
const joinedBy = (asset: string) => `
  coalesce(
    (
      select json_agg(distinct c.name)
      from asked_for j
      join asset c on c.id = j.asset_id
      where j.statement_id = any(t.statements) and 'join' = any(j.how) and c.parent_id = ${asset} and ${isSeen('c', '$2')}
    ),
    '[]'
  )`;

/** Who asks for an asset, with which statements, and what is asked for beside it: as far as the person may see it. */
export async function assetUse(
  db: Db,
  who: Who,
  id: string,
  { limit, offset }: QueryOf<typeof catalogEndpoints.assetUse>,
): Promise<AssetUse> {
  const asset = await getAsset(db, who, id);
  const domains = who.domainsAs('reader');
  const [askers, columns, together, queries, told] = await Promise.all([
    db.rows<AssetUse['askers'][number]>(
      `
        select
          b.role,
          case when p.id is not null then json_build_object('id', p.id, 'name', p.name, 'job', p.job) end as person,
          coalesce(sum(b.calls) filter (where f.how <> '{written}'), 0) as calls,
          coalesce(sum(b.calls) filter (where 'written' = any(f.how)), 0) as writes,
          max(b.moved_at) as "movedAt"
        from asked_for f
        join asked_by b on b.statement_id = f.statement_id
        left join person p on p.id = b.person_id
        where f.asset_id = $1 and (b.role is not null or $2)
        group by b.role, p.id
        order by sum(b.calls) desc, b.role, p.name
        limit 20`,
      [id, asset.mayEdit],
    ),
    db.rows<AssetUse['columns'][number]>(
      `
        select c.id, c.name, u.calls, h.how
        from asset c
        join asset_use u on u.asset_id = c.id
        cross join lateral (
          select coalesce(json_agg(distinct one), '[]') as how
          from asked_for f
          cross join unnest(f.how) one
          where f.asset_id = c.id
        ) h
        where c.parent_id = $1 and c.kind = 'column' and c.gone_at is null and ${isSeen('c', '$2')}
        order by u.calls desc, c.name
        limit 12`,
      [id, domains],
    ),
    db.rows<AssetUse['together'][number]>(
      `
        with t as (
          select o.asset_id, sum(n.calls) as calls, array_agg(o.statement_id) as statements
          from asked_for f
          join asked_for o on o.statement_id = f.statement_id and o.asset_id <> f.asset_id
          join asset x on x.id = o.asset_id
          cross join lateral (select sum(b.calls) as calls from asked_by b where b.statement_id = o.statement_id) n
          where f.asset_id = $1 and x.gone_at is null and ${isSeen('x', '$2')}
            and case when $3 then 'join' = any(f.how) and 'join' = any(o.how) and x.kind = 'column' and x.parent_id <> $4::uuid else x.kind <> 'column' end
          group by o.asset_id
          order by 2 desc, 1
          limit 12
        )
        select a.id, a.kind, ${PATH} as path, t.calls, ${joinedBy('$1')} as mine, ${joinedBy('a.id')} as theirs
        from t
        join asset a on a.id = t.asset_id
        join source s on s.id = a.source_id
        order by t.calls desc, path`,
      [id, domains, asset.kind === 'column', asset.parentId],
    ),
    db.rows<AskedQuery>(
      `
        select q.id, q.text, n.calls, f.how, n.askers, n.moved_at as "movedAt"
        from asked_for f
        join asked_statement q on q.id = f.statement_id
        cross join lateral (
          select
            sum(b.calls) as calls, max(b.moved_at) as moved_at,
            coalesce(
              (json_agg(coalesce(b.role, p.name) order by b.calls desc) filter (where b.role is not null or $3))::jsonb,
              '[]'
            ) as askers
          from asked_by b
          left join person p on p.id = b.person_id
          where b.statement_id = q.id
        ) n
        where f.asset_id = $1 and ${SEEN}
        order by n.calls desc, q.id
        limit $4 offset $5`,
      [id, domains, asset.mayEdit, limit, offset],
    ),
    db.one<{ total: number; seen: number; people: number }>(
      `
        select
          count(*)::int as total,
          count(*) filter (where ${SEEN})::int as seen,
          (
            select count(distinct b.person_id)::int
            from asked_for f
            join asked_by b on b.statement_id = f.statement_id
            where f.asset_id = $1
          ) as people
        from asked_for f
        join asked_statement q on q.id = f.statement_id
        where f.asset_id = $1`,
      [id, domains],
    ),
  ]);
  const total = told?.seen ?? 0;
  const items = queries.map((query) => ({ ...query, askers: query.askers.slice(0, 5) }));
  return {
    askers,
    people: told?.people ?? 0,
    columns,
    together,
    queries: { items, total, next: offset + items.length < total ? String(offset + items.length) : null },
    notShown: (told?.total ?? 0) - total,
  };
}
