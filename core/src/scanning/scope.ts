/**
 * Which part of a source a plan reads. Names are paths below the source's top (`mart`, `mart.daily_sales`, `2026/may/tides.csv`), with the separator
 * of the kind of source. What is chosen counts with all that is in it.
 */
export interface Scope {
  /** Everything, also what is added later; or just what is chosen and what fits an include pattern. */
  readonly cover: 'everything' | 'chosen';
  readonly chosen: readonly string[];
  /** Patterns of paths: `*` stands for anything within a name, `**` for anything. They hold for what is added later as well. */
  readonly include: readonly string[];
  readonly exclude: readonly string[];
}

export const EVERYTHING: Scope = { cover: 'everything', chosen: [], include: [], exclude: [] };

/** Thrown for a pattern that cannot be one. */
export class PatternError extends Error {}

/** A matcher of whole paths for one pattern. Only `*` and `**` have a meaning, so that it works in linear time. @throws PatternError */
export function compilePattern(pattern: string, separator: string): (path: string) => boolean {
  if (pattern.trim() === '') throw new PatternError('A pattern is empty.');
  if (/\*{3,}/.test(pattern)) throw new PatternError(`${pattern}: three stars in a row mean nothing; write * or **.`);
  const pieces = pattern.split(/(\*\*|\*)/);
  if (pieces.filter((piece) => piece === '**' || piece === '*').length > 8)
    throw new PatternError(`${pattern}: has more than eight stars.`);
  return (path) => matches(pieces, path, separator);
}

/** Matches pieces (texts and stars in turn) by a table of reachable positions: time is length × pieces at most. */
function matches(pieces: readonly string[], path: string, separator: string): boolean {
  let reached = new Set([0]);
  for (const piece of pieces) {
    const next = new Set<number>();
    if (piece === '*' || piece === '**') {
      const start = Math.min(...reached);
      let open = false;
      for (let at = start; at <= path.length; at += 1) {
        open ||= reached.has(at);
        if (open) next.add(at);
        if (piece === '*' && path.startsWith(separator, at)) open = false;
      }
    } else for (const at of reached) if (path.startsWith(piece, at)) next.add(at + piece.length);
    if (next.size === 0) return false;
    reached = next;
  }
  return reached.has(path.length);
}

/** Tells of paths whether a scope covers them. @throws PatternError */
export function scopeCover(scope: Scope, separator: string): (path: string) => boolean {
  const chosen = new Set(scope.chosen);
  const include = scope.include.map((pattern) => compilePattern(pattern, separator));
  const exclude = scope.exclude.map((pattern) => compilePattern(pattern, separator));
  /** The path and everything it lies in. */
  const upward = (path: string): string[] => {
    const names = path.split(separator);
    return names.map((_, index) => names.slice(0, index + 1).join(separator));
  };
  return (path) => {
    const ways = upward(path);
    if (exclude.some((fits) => ways.some(fits))) return false;
    return scope.cover === 'everything' || ways.some((way) => chosen.has(way) || include.some((fits) => fits(way)));
  };
}

/** What a scope covers, in a sentence. @param known how many tops (schemas, tables, files …) the source holds now, when that is known */
export function describeScope(
  scope: Scope,
  known?: { readonly chosen: number; readonly all: number; readonly noun: string },
): string {
  const except = scope.exclude.length > 0 ? `, except ${scope.exclude.join(', ')}` : '';
  if (scope.cover === 'everything') return `Everything, now and later${except}.`;
  const parts: string[] = [];
  if (scope.chosen.length > 0)
    parts.push(
      known
        ? `${known.chosen === 1 ? 'just one' : `these ${known.chosen}`} of ${known.all} ${known.noun}`
        : `only ${scope.chosen.length <= 4 ? scope.chosen.join(', ') : `${scope.chosen.length} chosen ones`}`,
    );
  if (scope.include.length > 0) parts.push(`whatever fits ${scope.include.join(' or ')}, also later`);
  if (parts.length === 0) return 'Nothing: choose something, or write a pattern.';
  const later = scope.include.length === 0 ? '; new ones are not covered' : '; other new ones are not covered';
  const sentence = parts.join(', and ');
  return `${sentence.charAt(0).toUpperCase()}${sentence.slice(1)}${except}${later}.`;
}
