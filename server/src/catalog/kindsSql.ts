import { type KindFacts, kindsAsked } from '@idrel/contract/sources';
import { type KindTraits, kindsThat } from '@idrel/contract/things';

/** The kinds of which something is true, as a list of SQL: `a.kind in (${kindsSql('holdsRows')})`. */
export const kindsSql = (trait: keyof KindTraits): string =>
  kindsThat(trait)
    .map((kind) => `'${kind}'`)
    .join(', ');

/** The kinds of source of which statements can be asked, as a list of SQL. @param where they run */
export const kindsAskedSql = (where: KindFacts['asked']): string =>
  kindsAsked(where)
    .map((kind) => `'${kind}'`)
    .join(', ');
