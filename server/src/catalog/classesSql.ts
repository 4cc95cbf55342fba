/**
 * The classes that a column carries: found and not dismissed, or confirmed by people (also when no detector finds it any more).
 * @param column SQL of the column's id
 */
export const classesOf = (column: string): string =>
  `select f.class_key from finding f left join finding_decision d on d.asset_id = f.asset_id and d.class_key = f.class_key where f.asset_id = ${column} and coalesce(d.decision, f.state) <> 'dismissed'
   union select d.class_key from finding_decision d where d.asset_id = ${column} and d.decision = 'confirmed'`;

/** The same for \`asset a\`: of the column itself, or of the columns that a table has now. */
export const CLASSES_HERE = `select k.class_key from asset h join lateral (${classesOf('h.id')}) k on true where (h.id = a.id or (h.parent_id = a.id and h.kind = 'column')) and h.gone_at is null`;
