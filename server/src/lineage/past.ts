import type { LineageInfluence, LineageLink } from '@idrel/contract/lineage';
import { INFLUENCE_KINDS, type Step, VALUE_KINDS } from '@idrel/core/lineage';
import { kindsSql } from '../catalog/index.ts';
import type { Db } from '../platform/database.ts';
import { type Edges, type FlowEnds, seenIn } from './around.ts';
import type { Direction, StepsAt } from './walk.ts';

/** The moment that a picture shows, and an earlier one that it is compared with. */
export interface Moments {
  /** ISO 8601; null: now. */
  readonly at: string | null;
  /** ISO 8601; null: compared with nothing. */
  readonly before: string | null;
}

/** Of edges `e` those that stood at either moment; of the two moments `$at` is the later one. */
const stood = (at: string, before: string): string => `
  e.since <= ${at} and (e.until is null or e.until > ${before})
  and (e.since <= ${before} or e.until is null or e.until > ${at})`;

/** What became of edges `e` that are told as one: come since the earlier moment, or gone since. */
const changed = (at: string, before: string): string => `
  case
    when not bool_or(e.since <= ${before} and (e.until is null or e.until > ${before})) then 'came'
    when not bool_or(e.since <= ${at} and (e.until is null or e.until > ${at})) then 'went'
  end`;

/** Assets in (or of) the tables in a parameter. */
const within = (tables: string): string => `array(
  select id from asset where id = any(${tables}::uuid[])
  union all
  select id from asset where parent_id = any(${tables}::uuid[]) and kind = 'column'
)`;
const WITHIN = within('$1');

/**
 * The edges that stood at a moment; compared with an earlier one, also those that stood then, each with what became of it.
 * What is known of their ends (names, levels, classes) is that of today.
 */
export function pastEdges(db: Db, { at, before }: Moments): Edges {
  const when = [at ?? 'infinity', before ?? at ?? 'infinity'];
  const span = stood('$2::timestamptz', '$3::timestamptz');
  const near = (direction: Direction) => (direction === 'downstream' ? 'from' : 'to');
  const rows = <T extends object>(sql: string, ids: readonly string[], more: unknown[] = []): Promise<T[]> =>
    ids.length === 0 ? Promise.resolve([]) : db.rows<T>(sql, [ids, ...when, ...more]);
  /** What carried values from `from` to `to`, where `which` holds; $4 says the kinds. */
  const links = (from: string, to: string, which: string): string => `
    select ${from} as "from", ${to} as "to", ${seenIn('f')} as "fromTable", ${seenIn('t')} as "toTable", e.kind,
      e.flow_id as flow, bool_and(e.wrong) as wrong, bool_and(e.origin = 'by hand') as said,
      ${changed('$2::timestamptz', '$3::timestamptz')} as change
    from edge_span e
    join asset f on f.id = e.from_id
    join asset t on t.id = e.to_id
    where ${which} and e.kind = any($4::text[]) and ${span}
    group by 1, 2, 3, 4, e.kind, e.flow_id`;
  const influences = (from: string): string => `
    select ${from} as "from", ${seenIn('f')} as "fromTable", e.to_id as "toTable", e.kind,
      ${changed('$2::timestamptz', '$3::timestamptz')} as change
    from edge_span e
    join asset f on f.id = e.from_id
    where e.to_id = any($1::uuid[]) and ${seenIn('f')} = any($1::uuid[]) and e.kind = any($4::text[]) and ${span}
    group by 1, 2, 3, e.kind`;
  const tables: StepsAt = (ids, direction) =>
    rows<Step<null>>(
      `
        select distinct ${seenIn('f')} as "from", ${seenIn('t')} as "to", null as edge
        from edge_span e
        join asset f on f.id = e.from_id
        join asset t on t.id = e.to_id
        where e.${near(direction)}_id = any(${WITHIN}) and not e.wrong and e.kind <> 'unused' and ${seenIn('f')} <> ${seenIn('t')}
          and ${span}`,
      ids,
    );
  return {
    tables,
    columns: (ids, direction) =>
      rows<Step<string>>(
        `
          select distinct e.from_id as "from", e.to_id as "to", e.kind as edge
          from edge_span e
          where e.${near(direction)}_id = any($1::uuid[]) and not e.wrong and e.kind <> 'unused' and ${span}`,
        ids,
      ),
    ends: async (flowId, direction) => {
      const end = direction === 'downstream' ? 't' : 'f';
      const found = await rows<{ id: string }>(
        `
          select distinct ${seenIn(end)} as id
          from edge_span e
          join asset f on f.id = e.from_id
          join asset t on t.id = e.to_id
          where e.flow_id = any($1::uuid[]) and e.kind <> 'unused' and ${span}`,
        [flowId],
      );
      return found.map(({ id }) => id);
    },
    links: (ids, among) =>
      rows<LineageLink>(
        links(
          'e.from_id',
          'e.to_id',
          `((e.to_id = any(${WITHIN}) and ${seenIn('f')} = any($5::uuid[]))
            or (e.to_id = any(${within('$5')}) and ${seenIn('f')} = any($1::uuid[])))`,
        ),
        ids,
        [[...VALUE_KINDS], among],
      ),
    tableLinks: (ids) =>
      rows<LineageLink>(
        links(
          seenIn('f'),
          seenIn('t'),
          `e.to_id = any(${WITHIN}) and ${seenIn('f')} = any($1::uuid[]) and ${seenIn('f')} <> ${seenIn('t')}`,
        ),
        ids,
        [[...VALUE_KINDS]],
      ),
    influences: (ids) => rows<LineageInfluence>(influences('e.from_id'), ids, [[...INFLUENCE_KINDS]]),
    tableInfluences: (ids) => rows<LineageInfluence>(influences(seenIn('f')), ids, [[...INFLUENCE_KINDS]]),
    flows: (ids, focus) =>
      rows<FlowEnds>(
        `
          with through as (
            select e.flow_id, ${seenIn('f')} as from_id, ${seenIn('t')} as to_id
            from edge_span e
            join asset f on f.id = e.from_id
            join asset t on t.id = e.to_id
            where (e.to_id = any(${WITHIN}) or e.flow_id = $4) and e.kind <> 'unused' and ${span}
          )
          select a.id,
            coalesce(array_agg(distinct x.from_id) filter (where x.from_id = any($1::uuid[])), '{}') as from,
            coalesce(array_agg(distinct x.to_id) filter (where x.to_id = any($1::uuid[])), '{}') as to
          from asset a
          join through x on x.flow_id = a.id
          where a.kind in (${kindsSql('runs')})
          group by a.id
          having a.id = $4 or bool_or(x.from_id = any($1::uuid[]) and x.to_id = any($1::uuid[]))`,
        ids,
        [focus],
      ),
  };
}
