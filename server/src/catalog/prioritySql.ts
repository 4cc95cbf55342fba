/** The grade of the priority of an asset `a`: its own, or what it inherits, whichever is higher. */
export const PRIORITY = `
  greatest(
    coalesce(a.priority_set, (select v.found from asset_priority v where v.asset_id = a.id), 0),
    coalesce((select v.inherited from asset_priority v where v.asset_id = a.id), 0)
  )`;
