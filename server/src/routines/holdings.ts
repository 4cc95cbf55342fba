import type { Held } from '../people/index.ts';
import { oneEach } from '../people/index.ts';

export const ROUTINES_HELD: readonly Held[] = [
  oneEach({
    what: 'routines',
    after:
      'They go to whom you choose, and act by themselves again when they are taken on; with nobody, whoever may edit can take them on.',
    thing: 'routine',
    table: 'routine',
    column: 'made_by',
    word: 'kept by',
    where: 'x.removed_at is null',
    address: "'/routines?routine=' || x.id",
  }),
];
