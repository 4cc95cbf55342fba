import { LINE_SCOPES, type Line, type LineKind, type lineEndpoints } from '@idrel/contract/exchange';
import { takeSaidLines, takeTagLines } from '../curation/index.ts';
import { takeTermLines } from '../glossary/index.ts';
import { takeEdgeLines } from '../lineage/index.ts';
import { takePersonLines, type Who } from '../people/index.ts';
import { asIf, type Database, type Tx } from '../platform/database.ts';
import type { KeyInUse } from '../platform/keyInUse.ts';
import { type GivenLine, type LineSaid, type LinesHandler, refusedLine } from '../platform/lines.ts';
import { ApiProblem } from '../platform/problems.ts';
import { takeAssetLines } from '../scanning/index.ts';

/** Who takes lines of each kind. Of a part those are taken first that others may name: people, tags and terms, then assets, then what is said of them. */
const TAKEN: readonly {
  readonly [K in LineKind]: {
    readonly kind: K;
    readonly take: (tx: Tx, who: Who, lines: readonly GivenLine<NonNullable<Line[K]>>[]) => Promise<LineSaid[]>;
  };
}[LineKind][] = [
  { kind: 'person', take: takePersonLines },
  { kind: 'tag', take: takeTagLines },
  { kind: 'term', take: takeTermLines },
  { kind: 'asset', take: takeAssetLines },
  { kind: 'edge', take: takeEdgeLines },
  { kind: 'said', take: takeSaidLines },
];

/** What of a key does not reach to a kind of line. */
function tooFar(kind: LineKind, key: KeyInUse | null): ApiProblem | undefined {
  if (!key) return undefined;
  const scope = LINE_SCOPES[kind];
  if (!key.scopes.includes(scope))
    return new ApiProblem('key-scope', `The key does not reach so far: this takes the scope “${scope}”.`, {
      mend: 'Make a key with that scope under Settings → Keys for programs.',
    });
  // Terms, tags and people are everybody's, so a key for some domains does not change them.
  if (!key.everywhere && ['term', 'tag', 'person'].includes(kind))
    return new ApiProblem('key-scope', 'The key holds for some domains only, and this reaches beyond them.', {
      mend: 'Make a key that holds wherever you have rights.',
    });
  return undefined;
}

/** Takes lines of all kinds, a part of them in one transaction; with `preview` that is taken back, and only told. */
export const linesHandler =
  (db: Database): LinesHandler<typeof lineEndpoints.take> =>
  async ({ who, key, query, lines }) => {
    const work = async (tx: Tx): Promise<LineSaid[]> => {
      const said: LineSaid[] = [];
      for (const { kind, take } of TAKEN) {
        const mine = lines.flatMap(({ line, value }) => (value[kind] ? [{ line, value: value[kind] }] : []));
        if (mine.length === 0) continue;
        const problem = tooFar(kind, key);
        said.push(
          ...(problem ? mine.map(({ line }) => refusedLine(line, problem)) : await take(tx, who, mine as never)),
        );
      }
      return said;
    };
    return query.preview ? asIf(db, work) : db.transaction(work);
  };
