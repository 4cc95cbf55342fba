import type { StatementsAnswer } from '@idrel/contract/lineage';
import { pathOf } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { notFound } from '../platform/problems.ts';

/** How much is understood of what a source runs, of assets that the person may see; and a page of the statements that are not. */
export async function statementsOf(
  db: Db,
  who: Who,
  sourceId: string,
  { lost, offset, limit }: { lost: boolean; offset: number; limit: number },
): Promise<StatementsAnswer> {
  const source = await db.one<{ domain_id: string }>('select domain_id from source where id = $1', [sourceId]);
  if (!source || !who.is('reader', source.domain_id)) throw notFound('The source');
  const bind = [sourceId, who.domainsAs('reader')];
  const told = `
    from flow f
    join asset a on a.id = f.asset_id
    where f.source_id = $1 and f.origin <> 'by hand' and a.gone_at is null and ${isSeen('a', '$2')}`;
  const sums = await db.one<Omit<StatementsAnswer, 'items' | 'total'>>(
    `
      select
        count(*)::int as flows, coalesce(sum(f.statements), 0)::int as statements,
        coalesce(sum(least(n.lost, f.statements)), 0)::int as lost, coalesce(sum(n.partly), 0)::int as partly
      from (select f.statements, f.problems ${told}) f
      cross join lateral (
        select
          count(*) filter (where (p ->> 'lost')::boolean) as lost, count(*) filter (where not (p ->> 'lost')::boolean) as partly
        from jsonb_array_elements(f.problems) p
      ) n`,
    bind,
  );
  const listed = `
    from (select f.id, f.problems, a.id as asset_id, a.kind, a.name, ${pathOf('a', 's')} as path
      from flow f
      join asset a on a.id = f.asset_id
      join source s on s.id = f.source_id
      where f.source_id = $1 and f.problems <> '[]' and f.origin <> 'by hand' and a.gone_at is null
        and ${isSeen('a', '$2')}) f
    cross join lateral jsonb_array_elements(f.problems) with ordinality p(value, place)
    where not $3::boolean or (p.value ->> 'lost')::boolean`;
  const items = await db.rows<StatementsAnswer['items'][number]>(
    `
      select
        json_build_object('id', f.asset_id, 'kind', f.kind, 'path', f.path) as asset, (p.value ->> 'line')::int as line,
        p.value ->> 'statement' as statement, p.value ->> 'reason' as reason, (p.value ->> 'lost')::boolean as lost
      ${listed}
      order by (p.value ->> 'lost')::boolean desc, f.path, f.id, p.place
      offset $4
      limit $5`,
    [...bind, lost, offset, limit],
  );
  return {
    flows: 0,
    statements: 0,
    lost: 0,
    partly: 0,
    ...sums,
    items,
    total: (await db.one<{ n: number }>(`select count(*)::int as n ${listed}`, [...bind, lost]))?.n ?? 0,
  };
}
