import { KINDS, type SourceKind } from '@idrel/contract/sources';
import { placeOf, sqlName } from '@idrel/core/catalog';
import { KEY_SEPARATOR } from '@idrel/readers/connectors';

/** The names of an asset as addresses have them: without the database, which is the source's own name to most people. */
function namesOf(sourceKind: SourceKind, key: string): string[] {
  const names = key.split(KEY_SEPARATOR);
  return KINDS[sourceKind].topHidden && names.length > 1 ? names.slice(1) : names;
}

/** How an asset is addressed and, where its source is asked in SQL, called there. */
export const addressesOf = (source: string, sourceKind: SourceKind, key: string) => {
  const names = namesOf(sourceKind, key);
  return { place: placeOf(source, names), sqlName: sqlName(sourceKind, names) };
};
