import type { TermAnswer, TermRef } from '@idrel/contract/glossary';
import { Link } from 'react-router';
import { across } from '../marks/across.ts';
import { plural } from '../marks/index.tsx';

/** So many of each are drawn; the rest is told by its number. */
const DRAWN = 6;
const [WIDTH, HEIGHT, STEP, GAP] = [196, 28, 36, 64];

interface Box {
  readonly key: string;
  readonly x: number;
  readonly y: number;
  readonly text: string;
  readonly to?: string;
  readonly status?: string;
}

const boxesOf = (terms: readonly TermRef[], total: number, x: number, top: number): Box[] => [
  ...terms.slice(0, DRAWN).map((term, at) => ({
    key: term.id,
    x,
    y: top + at * STEP,
    text: term.name,
    to: `/glossary?term=${term.id}`,
    status: term.status,
  })),
  ...(total > DRAWN ? [{ key: `${x} more`, x, y: top + DRAWN * STEP, text: `and ${total - DRAWN} more` }] : []),
];

/** A term with what is broader at its left, narrower at its right, related below it; each leads there. */
export function Neighbourhood({ term }: { term: TermAnswer }) {
  const { broader, narrower, narrowerCount, related } = term;
  const lines = (count: number) => Math.min(count, DRAWN + 1);
  const rows = Math.max(1, lines(broader.length), lines(narrowerCount));
  const beside = (count: number) => ((rows - lines(count)) * STEP) / 2;
  const left = 0;
  const middle = broader.length > 0 ? WIDTH + GAP : 0;
  const right = middle + WIDTH + GAP;
  const centre: Box = { key: term.id, x: middle, y: ((rows - 1) * STEP) / 2, text: term.name, status: term.status };
  const above = boxesOf(broader, broader.length, left, beside(broader.length));
  const below = boxesOf(narrower, narrowerCount, right, beside(narrowerCount));
  // What is related hangs below the term, clear of what stands beside it.
  const aside = boxesOf(related, related.length, middle, Math.max(centre.y + STEP + 14, 0));
  const height = Math.max(rows * STEP, ...aside.map(({ y }) => y + STEP));
  if (above.length + below.length + aside.length === 0)
    return <p className="quiet">Nothing is broader, narrower or related.</p>;
  const spine = centre.y + HEIGHT / 2;
  return (
    <figure className="neighbourhood" aria-label={`What lies around ${term.name}`}>
      <figcaption className="quiet small">
        {middle > 0 ? <span style={{ width: WIDTH + GAP }}>broader</span> : null}
        <span style={{ width: WIDTH + GAP }}>{aside.length > 0 ? 'related, dashed' : ''}</span>
        <span>{below.length > 0 ? plural(narrowerCount, 'narrower term') : ''}</span>
      </figcaption>
      <div style={{ position: 'relative', height, width: right + WIDTH }}>
        <svg width={right + WIDTH} height={height} aria-hidden="true">
          {above.map(({ key, x, y }) => (
            <path key={key} d={across(x + WIDTH, y + HEIGHT / 2, middle, spine)} />
          ))}
          {below.map(({ key, x, y }) => (
            <path key={key} d={across(middle + WIDTH, spine, x, y + HEIGHT / 2)} />
          ))}
          {aside.map(({ key, y }) => (
            <path key={key} className="dashed" d={`M${middle + 14} ${centre.y + HEIGHT} V${y}`} />
          ))}
        </svg>
        {[...above, centre, ...below, ...aside].map(({ key, x, y, text, to, status }) => {
          const look = { left: x, top: y, width: WIDTH, height: HEIGHT };
          const words = `${text}${status === 'retired' ? ' (retired)' : ''}`;
          return to ? (
            <Link key={key} to={to} className="box" style={look} title={words}>
              {words}
            </Link>
          ) : (
            <span key={key} className={key === term.id ? 'box here' : 'box more'} style={look}>
              {words}
            </span>
          );
        })}
      </div>
    </figure>
  );
}
