import { valuesOf } from '@idrel/core/catalog';
import { type ClassUse, inTheWay } from '../recognition/index.ts';

/** Routines whose searches name classes. */
export const ROUTINE_CLASS_USE: ClassUse = {
  async named(db, key) {
    const all = await db.rows<{ id: string; name: string; filter: string }>(
      "select id, name, filter from routine_filter where filter ilike '%class%' order by name",
    );
    // A routine can name it in its search and in a step as well.
    const naming = new Map(
      all.flatMap(({ id, name, filter }) => (valuesOf(filter, 'class').has(key) ? [[id, { id, name }] as const] : [])),
    );
    const routines = [...naming.values()];
    return { routines };
  },
  mayGo({ routines }) {
    if (routines.length > 0)
      throw inTheWay(
        'class-searched',
        routines.map(({ name }) => `“${name}”`),
        ['searches', 'search'],
        'for this class',
        'Change or remove the routine first.',
      );
  },
};
