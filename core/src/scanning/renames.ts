import type { AssetKind } from '../things/index.ts';
/** An object as far as its shape tells it apart: what it holds, how much, and what detectors found in it. */
export interface Shape {
  readonly key: string;
  /** Renames are looked for among things of one kind that lie in the same place; for columns, in the same table. */
  readonly lies: string;
  readonly kind: AssetKind;
  readonly name: string;
  /** Of a table: its columns. Empty for a column. */
  readonly columns: readonly { readonly name: string; readonly type: string }[];
  /** Of a column. */
  readonly type: string | null;
  readonly position: number;
  readonly rows: number | null;
  readonly classes: readonly string[];
}

/** That what is gone and what is new are likely the same. */
export interface LikelyRename {
  readonly from: string;
  readonly to: string;
  /** 0 to 1. */
  readonly score: number;
  /** What speaks for it, in words. */
  readonly why: readonly string[];
}

const THRESHOLD = 0.6;

function trigrams(text: string): Set<string> {
  const padded = `  ${text.toLowerCase()} `;
  const found = new Set<string>();
  for (let at = 0; at + 3 <= padded.length; at += 1) found.add(padded.slice(at, at + 3));
  return found;
}

/** Share of what two sets have in common (Sørensen–Dice), 0 to 1. */
function dice<T>(a: ReadonlySet<T>, b: ReadonlySet<T>): number {
  if (a.size + b.size === 0) return 1;
  let common = 0;
  for (const entry of a) if (b.has(entry)) common += 1;
  return (2 * common) / (a.size + b.size);
}

const percent = (share: number) => `${Math.round(share * 100)} %`;

function compareTables(gone: Shape, fresh: Shape): LikelyRename | undefined {
  const pairs = (shape: Shape) => new Set(shape.columns.map((column) => `${column.name}\u0000${column.type}`));
  const columns = dice(pairs(gone), pairs(fresh));
  if (columns < 0.5 || gone.columns.length === 0) return undefined;
  const names = dice(trigrams(gone.name), trigrams(fresh.name));
  const sizes =
    gone.rows !== null && fresh.rows !== null
      ? Math.min(gone.rows, fresh.rows) / Math.max(gone.rows, fresh.rows, 1)
      : 0.5;
  const classes = dice(new Set(gone.classes), new Set(fresh.classes));
  // A single column named id says little: what few columns have in common counts less.
  const weight = Math.min(1, (gone.columns.length + fresh.columns.length) / 6);
  const score = weight * 0.65 * columns + 0.15 * names + 0.1 * sizes + 0.1 * classes;
  const why = [`${percent(columns)} of the columns are the same`];
  if (names >= 0.4) why.push('the names are alike');
  if (gone.rows !== null && fresh.rows !== null && sizes > 0.9 && fresh.rows > 0) why.push('about as many rows');
  if (gone.classes.length > 0 && classes === 1) why.push('the same data classes');
  return { from: gone.key, to: fresh.key, score, why };
}

function compareColumns(gone: Shape, fresh: Shape): LikelyRename | undefined {
  if (gone.type !== fresh.type) return undefined;
  const names = dice(trigrams(gone.name), trigrams(fresh.name));
  const samePosition = gone.position === fresh.position;
  const classes = dice(new Set(gone.classes), new Set(fresh.classes));
  const score = 0.3 + (samePosition ? 0.3 : 0) + 0.25 * names + (gone.classes.length > 0 ? 0.3 : 0.15) * classes;
  const why = [`the same type, ${gone.type}`];
  if (samePosition) why.push('the same place in the table');
  if (names >= 0.4) why.push('the names are alike');
  if (gone.classes.length > 0 && classes === 1) why.push('the same data classes');
  return { from: gone.key, to: fresh.key, score: Math.min(1, score), why };
}

/**
 * Pairs what is gone with what is new where they are likely the same under another name, best first; nothing stands in two pairs.
 * A claim for people to confirm: nothing follows from it by itself.
 */
export function likelyRenames(gone: readonly Shape[], fresh: readonly Shape[]): LikelyRename[] {
  const byWhere = new Map<string, Shape[]>();
  const whereOf = (shape: Shape) => `${shape.kind}\u0000${shape.lies}`;
  for (const shape of fresh) {
    const list = byWhere.get(whereOf(shape));
    if (list) list.push(shape);
    else byWhere.set(whereOf(shape), [shape]);
  }
  const candidates: LikelyRename[] = [];
  for (const before of gone)
    for (const now of byWhere.get(whereOf(before)) ?? []) {
      const found = before.kind === 'column' ? compareColumns(before, now) : compareTables(before, now);
      if (found && found.score >= THRESHOLD) candidates.push(found);
    }
  candidates.sort((a, b) => b.score - a.score || (a.from < b.from ? -1 : 1));
  const taken = new Set<string>();
  return candidates.filter(({ from, to }) => {
    if (taken.has(from) || taken.has(to)) return false;
    taken.add(from).add(to);
    return true;
  });
}
