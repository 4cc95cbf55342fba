import type { Db } from '../../platform/database.ts';

/** A statement that was asked at a source as a role, with what of some columns it reads. */
export interface Use {
  readonly role: string;
  readonly times: number;
  readonly at: Date;
  readonly assets: readonly string[];
}

/** Who asked for some columns at a source itself, by role, as far as the source counts that. */
export const usesOf = (db: Db, sourceId: string, columns: readonly string[]): Promise<Use[]> =>
  db.rows(
    `
      select b.role, b.calls::float8 as times, b.moved_at as at, array_agg(f.asset_id) as assets
      from asked_statement q
      join asked_by b on b.statement_id = q.id and b.role is not null
      join asked_for f on f.statement_id = q.id
      where q.source_id = $1 and f.asset_id = any($2::uuid[]) and b.calls > 0
      group by b.role, q.id, b.calls, b.moved_at`,
    [sourceId, columns],
  );
