import type { AssetsFound } from '@idrel/contract/catalog';
import { parseFilter, writeFilter } from '@idrel/core/catalog';
import { asTyped } from './asTyped.ts';

/** How the words were read, where that is not as they were typed, and the way to have it otherwise. */
export function ReadAs({
  readAs,
  filter,
  search,
}: {
  readAs: NonNullable<AssetsFound['readAs']>;
  filter: string;
  search: (filter: string) => void;
}) {
  if (readAs.slip)
    return (
      <div className="notice" role="note">
        Nothing is found by <b>{filter}</b>. Shown: <b>{readAs.filter}</b>{' '}
        <button type="button" className="linkish" onClick={() => search(readAs.filter)}>
          Search for that
        </button>
      </div>
    );
  return (
    <div className="notice quiet" role="note">
      Also looked for other forms, and for what the glossary calls the same: {readAs.filter}{' '}
      <button type="button" className="linkish" onClick={() => search(writeFilter(asTyped(parseFilter(filter))))}>
        Only as typed
      </button>
    </div>
  );
}
