import type { ImpactRow } from '@idrel/contract/lineage';
import type { AssetKind } from '@idrel/contract/things';
import { reachable } from '@idrel/core/lineage';
import { FROM, getAsset, PATH, pathOf } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { stepsFrom } from './around.ts';
import { fitting } from './fitting.ts';
import { presentEdges } from './present.ts';
import type { Direction } from './walk.ts';

/** Everything downstream or upstream of an asset: for a column the columns that carry its value and the tables whose rows it decides. */
export async function impactList(
  db: Db,
  who: Who,
  assetId: string,
  direction: Direction,
  rule = '',
): Promise<ImpactRow[]> {
  const asset = await getAsset(db, who, assetId);
  const steps = await stepsFrom(presentEdges(db), asset, direction);
  const reached = reachable(steps, assetId, direction);
  const how = new Map(steps.map(({ from, to, edge }) => [`${from}>${to}`, edge]));
  const rows = await db.rows<{
    id: string;
    kind: AssetKind;
    name: string;
    path: string;
    source: string;
    domain: string;
    level: number | null;
    standing: string;
    within: ImpactRow['within'];
    owners: string[];
  }>(
    `
      select
        a.id, a.kind, a.name, ${PATH} as path, s.name as source, d.name as domain, a.level, a.standing,
        case when a.kind = 'column' then (
          select json_build_object('id', h.id, 'kind', h.kind, 'path', ${pathOf('h', 's')}, 'standing', h.standing)
          from asset h
          where h.id = a.parent_id
        ) end as within,
        coalesce(
          (
            select json_agg(p.name order by p.name)
            from asset_person ap
            join party p on p.id = ap.person_id
            where ap.role = 'owner' and ap.asset_id in (a.id, a.parent_id)
          ),
          '[]'
        ) as owners
      from ${FROM}
      where a.id = any($1::uuid[]) and ${isSeen('a', '$2')} and a.gone_at is null`,
    [[assetId, ...reached.map((entry) => entry.id)], who.domainsAs('reader')],
  );
  const byId = new Map(rows.map((row) => [row.id, row]));
  const meant = rule.trim() === '' ? new Set<string>() : await foundBy(db, who, rule, rows);
  return reached.flatMap((entry): ImpactRow[] => {
    const row = byId.get(entry.id);
    if (!row) return [];
    const [last, here] = [entry.path.at(-2) ?? '', entry.id];
    const kind = how.get(direction === 'downstream' ? `${last}>${here}` : `${here}>${last}`);
    return [
      {
        ...row,
        matches: meant.has(row.id) || (row.within !== null && meant.has(row.within.id)),
        distance: entry.distance,
        way: entry.path.map((id) => byId.get(id)?.path ?? 'an asset you may not see'),
        how: kind ?? 'feeds',
      },
    ];
  });
}

/** Which of these, or of what they lie in, a filter finds. Columns are looked at only where it asks for them. */
async function foundBy(
  db: Db,
  who: Who,
  rule: string,
  rows: readonly { readonly id: string; readonly within: ImpactRow['within'] }[],
): Promise<Set<string>> {
  const ids = new Set(rows.flatMap(({ id, within }) => (within ? [id, within.id] : [id])));
  return new Set(await fitting(db, who, rule, [...ids]));
}
