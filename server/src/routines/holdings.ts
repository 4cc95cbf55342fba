import type { Held } from '../people/index.ts';
import { oneEach } from '../people/index.ts';

export const ROUTINES_HELD: readonly Held[] = [
  oneEach({
    what: 'routines',
    after: 'They go to whom you choose; with nobody, administrators change them.',
    thing: 'routine',
    table: 'routine',
    column: 'made_by',
    word: 'kept by',
    where: 'x.removed_at is null',
    address: "'/routines?routine=' || x.id",
  }),
];
