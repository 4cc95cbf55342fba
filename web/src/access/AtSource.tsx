import type { Explained } from '@idrel/contract/access';
import { rightBySentence } from '@idrel/core/access/rights';
import { When } from '../marks/index.tsx';

/** By what rights at the source itself they read it, whatever the policies say. */
export function AtSource({ ways }: { ways: Explained['atSource'] }) {
  if (ways.length === 0) return null;
  return (
    <div className="notice">
      {ways.map((way) => (
        <p key={`${way.login} ${way.how} ${way.holder} ${way.through}`}>
          At the source they read {way.columns === null ? 'all of it' : way.columns.join(', ')} as{' '}
          <span className="mono">{way.login}</span>: {rightBySentence(way)}
          {way.since ? (
            <>
              , found <When at={way.since} />
            </>
          ) : null}
          {way.limited ? '; row policies of the table itself limit what comes' : ''}.
        </p>
      ))}
    </div>
  );
}
