import type { ReachRow } from '@idrel/contract/access';
import { type Mask, maskInWords } from '@idrel/core/access/masks';
import { Fragment } from 'react';
import { Level } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';

const WORDS = {
  plain: 'reads',
  masked: 'reads masked',
  preview: 'is shown a few rows',
  refused: 'does not read',
} as const;
/** How somebody reads a column, with its mask. */
const readingWords = (access: ReachRow['before'], mask: Mask | null): string =>
  mask ? `${WORDS[access]} (${maskInWords(mask)})` : WORDS[access];

type Change = Pick<
  ReachRow,
  'personId' | 'person' | 'table' | 'column' | 'before' | 'after' | 'beforeMask' | 'afterMask'
> & { readonly level?: number | null };

/** A path that goes on in another line behind a dot, where there is no room for it. */
const Breakable = ({ path }: { path: string }) =>
  path.split('.').map((name, at, names) => (
    <Fragment key={`${at} ${name}`}>
      {name}
      {at < names.length - 1 ? (
        <>
          .<wbr />
        </>
      ) : null}
    </Fragment>
  ));

/** Who reads which column how, now and then. */
export function WhoReads({ rows, levels = false }: { rows: readonly Change[]; levels?: boolean }) {
  return (
    <Listing heads={['Person', 'Column', levels ? 'Level' : null, 'Now', 'Then']}>
      {rows.map((row) => (
        <tr key={`${row.personId} ${row.person} ${row.table} ${row.column}`}>
          <td>{row.person}</td>
          <td className="mono">
            <Breakable path={`${row.table}.${row.column}`} />
          </td>
          {levels ? (
            <td>
              <Level level={row.level ?? null} bare />
            </td>
          ) : null}
          <td className="quiet">{readingWords(row.before, row.beforeMask)}</td>
          <td className={row.after === 'refused' ? 'attention' : ''}>{readingWords(row.after, row.afterMask)}</td>
        </tr>
      ))}
    </Listing>
  );
}
