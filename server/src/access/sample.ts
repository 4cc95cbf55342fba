import type { TableExplained } from '@idrel/contract/access';
import { decideTable, organisationOf, quoteIdentifier, type TableDecision } from '@idrel/core/access';
import { getAsset, kindsSql } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { askedSource, type SourceFacts } from '../sources/index.ts';
import { factsFor } from './facts.ts';
import { explained } from './gateway.ts';

/** So many columns are read of a table: more are not looked at in a row. */
const MOST_COLUMNS = 60;
/** So many rows are shown of what may only be previewed: nothing lets one look at others. */
const PREVIEW_ROWS = 20;

interface Sample {
  readonly source: SourceFacts;
  /** The table or file, as the catalog knows it. */
  readonly id: string;
  readonly key: string;
  readonly decision: TableDecision;
  /** Of the person, by which digests differ. */
  readonly organisation: string;
  readonly table: TableExplained;
  readonly columns: string[];
  readonly more: number;
  /** So many rows are shown. */
  readonly limit: number;
  /** The statement that the gateway is to run for the person, or what it would be; null where they may read nothing of it, or no row by itself. */
  readonly sql: string | null;
}

/**
 * What a few rows of a table or file are read by, for a person: the columns that they may read. Of a PostgreSQL source a statement of these takes the way of any
 * other statement of theirs.
 * @throws 404 when the asset is not there for them; 422 when rows cannot be read of its kind
 */
export async function sampleOf(
  db: Db,
  who: Who,
  assetId: string,
  limit: number,
  purpose: string | null,
): Promise<Sample> {
  const asset = await getAsset(db, who, assetId);
  const { source } = await askedSource(db, who, asset.sourceId);
  const tableId = asset.kind === 'column' ? asset.parentId : asset.id;
  const facts = await factsFor(
    db,
    { personId: who.id, purpose, preview: true },
    `t.id = $1 and t.kind in (${kindsSql('holdsRows')})`,
    [tableId],
    'any',
  );
  if (!facts) throw notFound('The person');
  const [table] = facts.tables;
  if (!table)
    throw invalid(
      `Of ${asset.kind === 'column' ? 'this column' : `a ${asset.kind}`} no rows can be read here.`,
      'Rows are read of tables, views and files, while they are there.',
    );
  const decision = decideTable(facts.policies, facts.person, table);
  const decided = explained(decision);
  const wanted = asset.kind === 'column' ? decided.columns.filter(({ name }) => name === asset.name) : decided.columns;
  const readable = wanted.filter(({ access }) => access !== 'refused').map(({ name }) => name);
  const columns = readable.slice(0, MOST_COLUMNS);
  const shown = decided.columns.some(({ access }) => access === 'preview') ? Math.min(limit, PREVIEW_ROWS) : limit;
  const from =
    source.kind === 'postgresql'
      ? `${quoteIdentifier(table.schema)}.${quoteIdentifier(table.name)}`
      : quoteIdentifier(table.path);
  return {
    source,
    id: table.id,
    key: table.key,
    decision,
    organisation: organisationOf(facts.person),
    table: { ...decided, columns: wanted, path: table.path },
    columns,
    more: readable.length - columns.length,
    limit: shown,
    sql:
      decided.access === 'no' || columns.length === 0 || decided.rowLimits.some(({ least }) => least !== null)
        ? null
        : `select ${columns.map(quoteIdentifier).join(', ')} from ${from} limit ${shown}`,
  };
}
