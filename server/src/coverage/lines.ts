import type { GovernedBy } from '@idrel/contract/coverage';
import { PRIORITIES, where } from '@idrel/core/catalog';
import { LEVELS } from '@idrel/core/things';
import type { Db } from '../platform/database.ts';
import { notFound } from '../platform/problems.ts';

/** A row of figures: its key (an id, or a word), where it stands, and the filter that opens its assets. */
export interface Line {
  readonly key: string;
  readonly name: string;
  /** Steps below the top of the tree of domains; 0 elsewhere. */
  readonly depth: number;
  readonly filter: string;
}

export interface Lines {
  readonly lines: readonly Line[];
  /** The lines that something with a key counts for: of domains also those above it. */
  countsFor(key: string): readonly string[];
}

const plain = (by: GovernedBy, names: readonly string[]): Lines => ({
  lines: names.map((name) => ({ key: name, name, depth: 0, filter: where(by, name) })),
  countsFor: (key) => [key],
});

/** The rows of a report, in their order. @param present keys that there is something of: of owners and kinds only those are told */
export async function linesOf(db: Db, by: GovernedBy, present: readonly string[]): Promise<Lines> {
  if (by === 'kind') return plain(by, present);
  if (by === 'priority') return plain(by, [...PRIORITIES].reverse());
  if (by === 'level') return plain(by, ['none', ...LEVELS]);
  if (by === 'source' || by === 'owner') {
    const rows = await db.rows<{ key: string; name: string }>(
      `select id as key, name from ${by === 'owner' ? 'party' : 'source'} where id = any($1::uuid[]) order by lower(name)`,
      [present.filter((key) => key !== '')],
    );
    const none = by === 'owner' && present.includes('') ? [{ key: '', name: 'nobody', value: 'none' }] : [];
    return {
      lines: [...none, ...rows.map((row) => ({ ...row, value: row.name }))].map(({ key, name, value }) => ({
        key,
        name,
        depth: 0,
        filter: where(by, value),
      })),
      countsFor: (key) => [key],
    };
  }
  const rows = await db.rows<{ key: string; name: string; parentId: string | null; depth: number }>(`
    with recursive down as (
      select id, name, parent_id, 0 as depth, array[lower(name)] as nth
      from domain
      where parent_id is null
      union all
      select d.id, d.name, d.parent_id, down.depth + 1, down.nth || lower(d.name)
      from domain d
      join down on d.parent_id = down.id
    )
    select id as key, name, parent_id as "parentId", depth
    from down
    order by nth`);
  const holders = new Map(rows.map((line) => [line.key, line.parentId]));
  // An asset counts for its domain and for each one above it, as the filter `domain:` does.
  const countsFor = (key: string): string[] => {
    const above = holders.get(key);
    return above ? [key, ...countsFor(above)] : [key];
  };
  return {
    lines: rows.map(({ key, name, depth }) => ({ key, name, depth, filter: where('domain', name) })),
    countsFor,
  };
}

/** A domain that figures are narrowed to: its name, and the ids of it and those below. */
export interface Within {
  readonly name: string;
  readonly ids: readonly string[];
}

/** @throws 404 where there is no such domain */
export async function withinDomain(db: Db, id: string): Promise<Within> {
  const rows = await db.rows<{ id: string; name: string }>(
    `
      with recursive down as (
        select id, name
        from domain
        where id = $1
        union all
        select d.id, d.name
        from domain d
        join down on d.parent_id = down.id
      )
      select id, name from down`,
    [id],
  );
  const own = rows.find((row) => row.id === id);
  if (!own) throw notFound('The domain');
  return { name: own.name, ids: rows.map((row) => row.id) };
}
