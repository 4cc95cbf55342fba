import type { BulkEditAnswer } from '@idrel/contract/curation';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { count, KindMark, Name } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';

const EFFECTS = {
  changes: 'changes',
  same: 'as it should be',
  refused: 'you may not change it',
  unsuited: 'of a kind that does not take it',
} as const;

/** What an action would do to many assets: counted, and the first of them. @param found what was found or chosen, in words */
export const Effects = ({
  effects: { found: all, changes, same, refused, unsuited, items },
  found,
}: {
  effects: Pick<BulkEditAnswer, 'found' | 'changes' | 'same' | 'refused' | 'unsuited' | 'items'>;
  found: ReactNode;
}) => (
  <>
    <p role="status">
      {found}: <strong>{count(changes)} would change</strong>, {count(same)} are as they should be
      {refused > 0 ? (
        <>
          , <span className="attention">{count(refused)} you may not change</span>
        </>
      ) : null}
      {unsuited > 0 ? (
        <>
          , <span className="attention">{count(unsuited)} are of a kind that does not take it</span>
        </>
      ) : null}
      .
    </p>
    {items.length > 0 ? (
      <Listing heads={['Kind', 'Asset', 'Now', 'Effect']} mt={8}>
        {items.map((item) => (
          <tr key={item.id}>
            <td>
              <KindMark kind={item.kind} />
            </td>
            <td className="anywhere">
              <Link to={`/assets/${item.id}`}>
                <Name text={item.path} most={34} />
              </Link>{' '}
              <span className="quiet small">{item.source}</span>
            </td>
            <td className="small">{item.before ?? <span className="quiet">none</span>}</td>
            <td className={item.effect === 'changes' ? 'small' : 'small quiet'}>{EFFECTS[item.effect]}</td>
          </tr>
        ))}
      </Listing>
    ) : null}
    {all > items.length ? <p className="quiet small">The first {count(items.length)} are listed.</p> : null}
  </>
);
