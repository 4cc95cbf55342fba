import { DETECTORS, RULES } from '@idrel/core/recognition';
import { digest, type Mark } from '../connectors/index.ts';

/** How values were looked at: with other detectors or another number of values, those that did not change are looked at again. */
export const recipeOf = ({
  rows,
  profile,
  method,
  leaveOut,
  own = [],
}: {
  rows: number;
  profile: boolean;
  method: string;
  leaveOut: readonly string[];
  own?: readonly { id: string; version: number }[];
}): string =>
  digest([
    rows,
    profile,
    method,
    [...leaveOut].sort(),
    RULES,
    DETECTORS.map((detector) => [detector.id, detector.version]),
    own.map(({ id, version }) => [id, version]),
  ]).slice(0, 12);

/** The mark of values that were sampled in this way; empty when the source says nothing of its values. */
export const sampledMark = (mark: Mark | undefined, recipe: string): string =>
  mark?.data ? `${mark.data}|${recipe}` : '';
