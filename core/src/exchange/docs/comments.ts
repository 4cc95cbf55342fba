import { placeOf } from '../../catalog/index.ts';
import { parseScript } from '../../sql/index.ts';
import type { DocEntry, DocFlaw, DocsRead } from './yaml.ts';

const WITH_NAME: readonly string[] = [
  'OBJECT_TABLE',
  'OBJECT_VIEW',
  'OBJECT_MATVIEW',
  'OBJECT_FOREIGN_TABLE',
  'OBJECT_COLUMN',
];

/** Where scripts run whose comments are read. */
export interface CommentsOf {
  readonly source: string;
  /** The schema of names that are written without one; null where there is none. */
  readonly schema: string | null;
}

/**
 * What a SQL script says of tables, views, their columns and schemas by `COMMENT ON … IS`, as descriptions: by PostgreSQL's own parser, which
 * {@link import('../../sql/index.ts').loadParser} has loaded. Where it comments the same twice, the last word stands, as it would in the database.
 */
export function readComments(sql: string, { source, schema }: CommentsOf): DocsRead {
  const entries = new Map<string, DocEntry>();
  const flaws: DocFlaw[] = [];
  const { statements, rejected } = parseScript(sql);
  // Of what could not be read only comments are missed here.
  for (const { line, reason, lost, text } of rejected)
    if (lost && /^\s*comment\s+on\b/i.test(text))
      flaws.push({ at: `line ${line}`, what: `The comment cannot be read: ${reason}`, mend: 'Mend the statement.' });
  for (const { node, line } of statements) {
    if (!('CommentStmt' in node)) continue;
    const { objtype, object, comment } = node.CommentStmt;
    if (comment === undefined || comment.trim() === '') continue;
    const names = namesOf(object);
    const wanted = objtype === 'OBJECT_SCHEMA' ? 1 : objtype === 'OBJECT_COLUMN' ? 3 : 2;
    if (objtype !== 'OBJECT_SCHEMA' && !WITH_NAME.includes(objtype ?? '')) continue;
    const at = `line ${line}`;
    if (names.length === wanted - 1 && wanted > 1 && schema !== null) names.unshift(schema);
    if (names.length < wanted) {
      flaws.push({
        at,
        what: `${names.join('.')} is written without its schema.`,
        mend: 'Write the schema before the name, or name one with --schema.',
      });
      continue;
    }
    const of = placeOf(source, names.slice(-wanted));
    entries.set(of, {
      at,
      of,
      column: objtype === 'OBJECT_COLUMN',
      said: { description: comment.trim() },
      keep: ['description'],
    });
  }
  return { entries: [...entries.values()], flaws };
}

/** The names of what a comment is on. */
function namesOf(object: unknown): string[] {
  const parts = object as { String?: { sval?: string }; List?: { items?: unknown[] } } | undefined;
  if (parts?.String) return [parts.String.sval ?? ''];
  return (parts?.List?.items ?? []).flatMap(namesOf);
}
