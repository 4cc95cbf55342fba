import { valuesOf } from '@idrel/core/catalog';
import { type ClassUse, inTheWay } from '../recognition/index.ts';

/** Routines whose searches name classes. */
export const ROUTINE_CLASS_USE: ClassUse = {
  async named(db, key) {
    const all = await db.rows<{ id: string; name: string; filter: string }>(
      "select id, name, filter from routine where removed_at is null and filter ilike '%class%' order by name",
    );
    const routines = all.flatMap(({ id, name, filter }) => (valuesOf(filter, 'class').has(key) ? [{ id, name }] : []));
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
