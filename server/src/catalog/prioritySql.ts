/** SQL of the grade of the priority of an asset: its own, or what it inherits, whichever is higher. @param asset its name in the statement */
export const priorityOf = (asset: string): string => `
  greatest(
    coalesce(${asset}.priority_set, (select v.found from asset_priority v where v.asset_id = ${asset}.id), 0),
    coalesce((select v.inherited from asset_priority v where v.asset_id = ${asset}.id), 0)
  )`;
/** The same of `asset a`. */
export const PRIORITY = priorityOf('a');
