import type { BulkEditAnswer } from '@idrel/contract/curation';
import { plural } from '../marks/index.tsx';
import { MoveOfAssets } from '../people/index.ts';

/** So many moves are told person by person. */
const TOLD = 3;

/** Between which domains assets would move, and what that changes for people. */
export const DomainMoves = ({ moves }: { moves: BulkEditAnswer['moves'] }) => (
  <>
    {moves.slice(0, TOLD).map(({ from, to, assets }) => (
      <MoveOfAssets
        key={`${from.id} ${to.id}`}
        from={from.id}
        to={to.id}
        what={`${plural(assets, 'asset')} from ${from.name} to ${to.name}, with what lies in them`}
      />
    ))}
    {moves.slice(TOLD).map(({ from, to, assets }) => (
      <p key={`${from.id} ${to.id}`} className="quiet small">
        and {plural(assets, 'asset')} from {from.name} to {to.name}
      </p>
    ))}
  </>
);
