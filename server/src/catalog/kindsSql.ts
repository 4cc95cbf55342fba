import { type KindTraits, kindsThat } from '@idrel/contract/things';

/** The kinds of which something is true, as a list of SQL: `a.kind in (${kindsSql('holdsRows')})`. */
export const kindsSql = (trait: keyof KindTraits): string =>
  kindsThat(trait)
    .map((kind) => `'${kind}'`)
    .join(', ');
