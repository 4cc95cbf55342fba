import type { JournalEntry } from '@idrel/contract/journal';
import { factsOf, THINGS } from '@idrel/contract/things';
import { changesOf, inWords, spoken } from '@idrel/core/exchange';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';

/** What an entry is about, with the way to it. What was removed is nowhere any more. */
function Subject({ entry }: { entry: JournalEntry }) {
  const address = entry.after === null ? undefined : factsOf(entry.subjectKind)?.address?.(entry.subjectId);
  const name = <span className="mono">{entry.subject}</span>;
  return address ? <Link to={address}>{name}</Link> : name;
}

/** A value as it stands; a run leads to itself. */
export const Value = ({ field, value }: { field: string; value: unknown }) =>
  field === 'run' && typeof value === 'string' ? (
    <Link to={THINGS.run.address(value)}>what it found</Link>
  ) : (
    inWords(value)
  );

/** Who changed what, when, from what to what. */
export function History({
  entries,
  subject,
  beside,
}: {
  entries: readonly JournalEntry[];
  subject?: boolean;
  /** What can be done with one thing that an entry changed. */
  beside?: (entry: JournalEntry, field: string) => ReactNode;
}) {
  if (entries.length === 0) return <p className="quiet">Nobody has changed anything yet.</p>;
  return (
    <Listing heads={['When', 'Who', subject ? 'What' : null, 'Change']}>
      {entries.map((entry) => (
        <tr key={entry.id}>
          <td className="oneline">
            <When at={entry.at} />
          </td>
          <td>
            {entry.person ?? 'Idrel'}
            {entry.byKey ? <div className="quiet small">by the key “{entry.byKey}”</div> : null}
          </td>
          {subject ? (
            <td className="anywhere">
              {factsOf(entry.subjectKind)?.label ?? entry.subjectKind} <Subject entry={entry} />
            </td>
          ) : null}
          <td className="anywhere">
            {entry.action}
            {changesOf(entry).map(({ field, before }) => (
              <div key={field} className="small">
                <span className="quiet">{spoken(field)}: </span>
                {before === null ? null : <>{before} → </>}
                {entry.after ? <Value field={field} value={entry.after[field]} /> : 'removed'}
                {beside?.(entry, field)}
              </div>
            ))}
          </td>
        </tr>
      ))}
    </Listing>
  );
}
