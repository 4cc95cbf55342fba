import type { LineageInfluence, LineageLink } from '@idrel/contract/lineage';
import { kindsSql } from '../catalog/index.ts';
import type { Db } from '../platform/database.ts';
import { type Edges, type FlowEnds, seenIn } from './around.ts';
import { stepsOf } from './walk.ts';

/** Flows between any of the tables in $1 and those in `other`; those within one table among them. */
const between = (other: '$1' | '$2'): string => `
    select flow_id
    from lineage_feed
    where from_id = any($1::uuid[]) and to_id = any(${other}::uuid[])
    ${other === '$1' ? '' : `union select flow_id from lineage_feed where to_id = any($1::uuid[]) and from_id = any(${other}::uuid[])`}
    union
    select id
    from flow
    where asset_id = any($1::uuid[])`;

/** The edges that stand. */
export const presentEdges = (db: Db): Edges => ({
  tables: stepsOf(db, 'table'),
  columns: stepsOf(db, 'column'),
  ends: async (flowId, direction) =>
    (
      await db.rows<{ id: string }>(
        `
          select distinct x.${direction === 'downstream' ? 'to_id' : 'from_id'} as id
          from flow f
          join lineage_feed x on x.flow_id = f.id
          where f.asset_id = $1`,
        [flowId],
      )
    ).map(({ id }) => id),
  links: (tables, among) =>
    db.rows<LineageLink>(
      `
        select e.from_id as "from", e.to_id as "to", ${seenIn('f')} as "fromTable", ${seenIn('t')} as "toTable", e.kind,
          l.asset_id as flow, e.wrong, l.origin = 'by hand' as said, null as change
        from lineage_edge e
        join flow l on l.id = e.flow_id
        join asset f on f.id = e.from_id
        join asset t on t.id = e.to_id
        where e.flow_id = any(array(${between('$2')}))
          and ((${seenIn('f')} = any($1::uuid[]) and ${seenIn('t')} = any($2::uuid[]))
            or (${seenIn('f')} = any($2::uuid[]) and ${seenIn('t')} = any($1::uuid[])))`,
      [tables, among],
    ),
  tableLinks: (tables) =>
    db.rows<LineageLink>(
      `
        select x.from_id as "from", x.to_id as "to", x.from_id as "fromTable", x.to_id as "toTable", k.kind,
          l.asset_id as flow, false as wrong, bool_and(l.origin = 'by hand') as said, null as change
        from lineage_feed x
        join flow l on l.id = x.flow_id
        cross join unnest(x.kinds) k(kind)
        where x.from_id = any($1::uuid[]) and x.to_id = any($1::uuid[])
        group by x.from_id, x.to_id, k.kind, l.asset_id`,
      [tables],
    ),
  influences: (tables) =>
    db.rows<LineageInfluence>(
      `
        select i.from_id as "from", ${seenIn('c')} as "fromTable", i.to_id as "toTable", i.kind, null as change
        from lineage_influence i
        join asset c on c.id = i.from_id
        where i.flow_id = any(array(${between('$1')})) and ${seenIn('c')} = any($1::uuid[]) and i.to_id = any($1::uuid[])`,
      [tables],
    ),
  tableInfluences: (tables) =>
    db.rows<LineageInfluence>(
      `
        select distinct ${seenIn('c')} as "from", ${seenIn('c')} as "fromTable", i.to_id as "toTable", i.kind, null as change
        from lineage_influence i
        join asset c on c.id = i.from_id
        where i.flow_id = any(array(${between('$1')})) and ${seenIn('c')} = any($1::uuid[]) and i.to_id = any($1::uuid[])`,
      [tables],
    ),
  flows: (tables, focus) =>
    db.rows<FlowEnds>(
      `
        select a.id,
          coalesce(array_agg(distinct x.from_id) filter (where x.from_id = any($1::uuid[])), '{}') as from,
          coalesce(array_agg(distinct x.to_id) filter (where x.to_id = any($1::uuid[])), '{}') as to
        from asset a
        join flow f on f.asset_id = a.id
        left join lineage_feed x on x.flow_id = f.id
        where a.kind in (${kindsSql('runs')}) and a.gone_at is null
          and (
            a.id = $2
            or f.id in (select flow_id from lineage_feed where from_id = any($1::uuid[]) and to_id = any($1::uuid[]))
          )
        group by a.id`,
      [tables, focus],
    ),
});
