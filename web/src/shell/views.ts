/** The views of the rail, in its order: path and word. */
export const VIEWS = [
  ['worklist', 'Worklist'],
  ['catalog', 'Catalog'],
  ['sources', 'Sources'],
  ['recognition', 'Recognition'],
  ['glossary', 'Glossary'],
  ['lineage', 'Lineage'],
  ['access', 'Access'],
  ['routines', 'Routines'],
  ['coverage', 'Coverage'],
  ['settings', 'Settings'],
] as const;
