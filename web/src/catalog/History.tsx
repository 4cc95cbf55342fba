import type { JournalEntry } from '@idrel/contract/journal';
import { When } from '../marks/index.tsx';

const word = (value: unknown): string =>
  value === null || value === undefined || value === '' || (Array.isArray(value) && value.length === 0)
    ? 'nothing'
    : Array.isArray(value)
      ? value.join(', ')
      : typeof value === 'object'
        ? JSON.stringify(value)
        : String(value);

/** What changed; of something new or removed only what it held. */
const changedKeys = ({ before, after }: JournalEntry): string[] =>
  [...new Set([...Object.keys(before ?? {}), ...Object.keys(after ?? {})])].filter(
    (key) => (before && after) || word((before ?? after)?.[key]) !== 'nothing',
  );

/** Who changed what, when, from what to what. */
export function History({ entries, subject }: { entries: readonly JournalEntry[]; subject?: boolean }) {
  if (entries.length === 0) return <p className="quiet">Nobody has changed anything yet.</p>;
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>When</th>
          <th>Who</th>
          {subject ? <th>What</th> : null}
          <th>Change</th>
        </tr>
      </thead>
      <tbody>
        {entries.map((entry) => (
          <tr key={entry.id}>
            <td style={{ whiteSpace: 'nowrap' }}>
              <When at={entry.at} />
            </td>
            <td>{entry.person ?? 'Idrel'}</td>
            {subject ? (
              <td>
                {entry.subjectKind} <span className="mono">{entry.subject}</span>
              </td>
            ) : null}
            <td>
              {entry.action}
              {changedKeys(entry).map((key) => (
                <div key={key} className="small">
                  <span className="quiet">{key}: </span>
                  {entry.before ? <>{word(entry.before[key])} → </> : null}
                  {entry.after ? word(entry.after[key]) : 'removed'}
                </div>
              ))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
