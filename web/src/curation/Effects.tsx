import type { BulkEditAnswer } from '@idrel/contract/curation';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { count, KindMark, Name, When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';

export const EFFECTS = {
  changes: 'changes',
  same: 'as it should be',
  refused: 'you may not change it',
  unsuited: 'of a kind that does not take it',
  decided: 'decided by hand',
} as const;

interface Item {
  readonly id: string;
  readonly kind: string;
  readonly path: string;
  readonly source: string;
  readonly effect: keyof typeof EFFECTS;
  readonly before: string | null;
  readonly decided?: { readonly by: string; readonly at: string } | null;
}
interface Counted extends Pick<BulkEditAnswer, 'found' | 'changes' | 'same' | 'refused' | 'unsuited'> {
  /** Of a routine: what people decided by hand, and it leaves. */
  readonly decided?: number;
  readonly items: readonly Item[];
}

/** What an action would do to many assets: counted, and the first of them. @param found what was found or chosen, in words */
export const Effects = ({
  effects: { found: all, changes, same, refused, unsuited, decided = 0, items },
  found,
}: {
  effects: Counted;
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
      {decided > 0 ? <>, {count(decided)} were decided by hand and stay so</> : null}.
    </p>
    {items.length > 0 ? (
      <Listing heads={['Kind', 'Asset', 'Now', 'Effect']} widths={[44, 150]} mt={8}>
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
            <td className={item.effect === 'changes' ? 'small' : 'small quiet'}>
              {EFFECTS[item.effect]}
              {item.decided ? (
                <>
                  {' '}
                  by {item.decided.by}, <When at={item.decided.at} />
                </>
              ) : null}
            </td>
          </tr>
        ))}
      </Listing>
    ) : null}
    {all > items.length ? <p className="quiet small">The first {count(items.length)} are listed.</p> : null}
  </>
);
