import type { Held } from '../people/index.ts';
import { oneEach } from '../people/index.ts';

export const GLOSSARY_HELD: readonly Held[] = [
  oneEach({
    what: 'schemes of terms',
    after: 'They go to whom you choose; with nobody, stewards agree to their terms.',
    thing: 'scheme',
    table: 'scheme',
    column: 'owner_id',
    word: 'owner',
    address: "'/glossary?scheme=' || x.id",
  }),
  oneEach({
    what: 'terms',
    after: 'They go to whom you choose.',
    thing: 'term',
    table: 'term',
    column: 'owner_id',
    word: 'owner',
    where: 'x.removed_at is null',
    address: "'/glossary?term=' || x.id",
  }),
];
