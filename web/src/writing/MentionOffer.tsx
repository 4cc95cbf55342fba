import { KindMark } from '../marks/index.tsx';
import type { Offer } from './mention.ts';

/** What can be mentioned, under the words that somebody types. */
export function MentionOffer({ offer, chosen, within }: { offer: Offer; chosen: number; within: HTMLElement | null }) {
  const frame = within?.getBoundingClientRect();
  const place =
    offer.at && frame
      ? {
          left: Math.max(0, Math.min(offer.at.left - frame.left, frame.width - 340)),
          top: offer.at.bottom - frame.top + 4,
        }
      : undefined;
  return (
    <div className="mention-offer" role="listbox" aria-label="Mention" style={place}>
      {offer.items.length === 0 ? <p className="quiet small">Nobody and nothing of that name</p> : null}
      {offer.items.map((item, index) => (
        <button
          key={`${item.kind}/${item.id}`}
          type="button"
          role="option"
          aria-selected={index === chosen}
          tabIndex={-1}
          onMouseDown={(event) => {
            event.preventDefault(); // the text keeps the focus
            offer.take(item);
          }}
        >
          {item.kind === 'asset' ? <KindMark kind={item.of.split(' in ')[0] ?? 'asset'} /> : null}
          <span className={item.kind === 'asset' ? 'mono cut' : 'cut'}>{item.name}</span>
          <span className="quiet small cut">{item.of}</span>
        </button>
      ))}
    </div>
  );
}
