import { count, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';

/** What a file has that is not taken as it stands: where, what, what to do about it. */
export function Flaws({
  flaws,
  total,
  notKept,
}: {
  flaws: readonly { at: string; what: string; mend: string }[];
  total: number;
  notKept: readonly { what: string; times: number }[];
}) {
  if (total + notKept.length === 0) return null;
  return (
    <div>
      <h3 className="under">What the file has that is not taken as it stands</h3>
      <Listing label="What is not taken as it stands" heads={['Where', 'What', 'What to do']}>
        {flaws.map(({ at, what, mend }, nth) => (
          // One place may have the same flaw twice.
          <tr key={`${nth} ${at}`}>
            <td className="mono small">{at}</td>
            <td>{what}</td>
            <td className="quiet">{mend}</td>
          </tr>
        ))}
        {notKept.map(({ what, times }) => (
          <tr key={what}>
            <td className="quiet small">{plural(times, 'time')}</td>
            <td className="mono small">{what}</td>
            <td className="quiet">It is not kept.</td>
          </tr>
        ))}
      </Listing>
      <More total={total} shown={flaws.length} />
    </div>
  );
}

/** How many more there are than are shown. */
export const More = ({ total, shown }: { total: number; shown: number }) =>
  total > shown ? <p className="quiet small">and {count(total - shown)} more</p> : null;
