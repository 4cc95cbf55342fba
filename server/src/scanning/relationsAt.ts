import type { SourceAnswer } from '@idrel/contract/sources';
import type { KnownRelation } from '@idrel/core/lineage';
import { placeOf } from '@idrel/readers/connectors';
import { kindsSql } from '../catalog/index.ts';
import type { Db } from '../platform/database.ts';

/** So many tables of a database are told to whoever reads the scripts that run there. */
const MOST = 50_000;

/**
 * The tables and views of the database at which scripts run, with their columns in order, as far as they are in the catalog: what `*` and names without
 * a schema mean. Nothing for a source of another kind.
 */
export async function relationsFor(
  db: Db,
  { kind, address }: { kind: string; address: SourceAnswer['address'] },
): Promise<KnownRelation[]> {
  if (kind !== 'scripts') return [];
  const system = address.system === 'mariadb' ? 'mariadb' : 'postgresql';
  const place = placeOf(system, String(address.host), Number(address.port), String(address.database));
  return db.rows<KnownRelation>(
    `
      select
        case when cardinality(t.names) > 2 then t.names[2] else '' end as schema, t.names[cardinality(t.names)] as name,
        array(
          select c.name
          from asset c
          where c.parent_id = t.id and c.kind = 'column' and c.gone_at is null
          order by c.position
        ) as columns
      from (
        select a.id, string_to_array(a.key, chr(31)) as names
        from source s
        join asset a on a.source_id = s.id and a.kind in (${kindsSql('holdsRows')}) and a.gone_at is null
        where s.place = $1
        limit ${MOST}
      ) t`,
    [place],
  );
}
