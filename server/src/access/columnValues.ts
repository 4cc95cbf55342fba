import { decideTable } from '@idrel/core/access';
import { CONNECTORS } from '@idrel/readers/connectors';
import { record } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem, conflict, invalid, notFound } from '../platform/problems.ts';
import { connectorInput, sourceFacts } from '../sources/index.ts';
import { factsFor } from './facts.ts';

/** From so many values on the first ones are read: a random choice of a great part of a table costs more than all of it. */
const MANY = 5000;

/**
 * Different values of a column that the person may read unmasked, as the source has them now. That they were read stands in the journal.
 * @param most how many rows are looked at
 * @throws 403 when a policy masks or refuses the column or limits its rows; 409 when only an agent reaches the source
 */
export async function columnValues(
  db: Db,
  config: Config,
  who: Who,
  assetId: string,
  most: number,
): Promise<{ name: string; path: string; values: string[] }> {
  const column = await db.one<{
    name: string;
    key: string;
    table: string;
    source: string;
    domain: string;
    kind: string;
    permitted: string[] | null;
  }>(
    `select name, key, native -> 'values' as permitted, parent_id as "table", source_id as source, domain_id as domain, kind from asset where id = $1 and gone_at is null and ${isSeen('asset', '$2')}`,
    [assetId, who.domainsAs('reader')],
  );
  if (!column) throw notFound('The column');
  // What an enumeration permits is part of its description: no row is read for it.
  if (column.kind === 'type' && column.permitted)
    return { name: column.name, path: column.name, values: column.permitted };
  if (column.kind !== 'column')
    throw invalid('Only columns and enumerations have values.', 'Choose a column, or a type that lists its values.', [
      { field: 'assetId', message: 'is no column' },
    ]);
  const source = await sourceFacts(db, who, column.source);
  const facts = await factsFor(db, { personId: who.id, purpose: null }, 't.id = $1', [column.table], 'any');
  const [table] = facts?.tables ?? [];
  if (!facts || !table) throw notFound('The column');
  const decision = decideTable(facts.policies, facts.person, table);
  const own = decision.columns.find((entry) => entry.name === column.name);
  const path = `${decision.name}.${column.name}`;
  const by = (names: readonly string[]) =>
    names.length > 0 ? ` by ${[...new Set(names)].map((name) => `“${name}”`).join(', ')}` : ': no policy allows it';
  const mend = 'Read a file with such values, or ask the owner for access.';
  if (own?.access !== 'plain')
    throw new ApiProblem(
      'refused-column',
      `${path} is ${own?.access === 'masked' ? 'masked' : 'refused'} for you${by((own?.reasons ?? []).map((reason) => reason.policy))}.`,
      { mend },
    );
  if (decision.rowLimits.length > 0)
    throw new ApiProblem(
      'refused-column',
      `Of ${path} you may not read every row${by(decision.rowLimits.map((limit) => limit.reason.policy))}.`,
      { mend },
    );
  if (source.agentGroup)
    throw conflict(
      'agent-only',
      `${source.name} is read by agents alone: its values do not come here.`,
      'Read a file with such values.',
    );
  const input = await connectorInput(db, config, column.source);
  const reading = await CONNECTORS[input.kind].open(input);
  try {
    const { sampleable } = await reading.structure(() => undefined);
    const found = sampleable.find((entry) => entry.columns.some((other) => other.key === column.key));
    if (!found)
      throw conflict(
        'no-values',
        `${path} holds no values that can be read: it is gone from the source, or of a kind that has none.`,
        'Scan the source again.',
      );
    const at = found.columns.findIndex((entry) => entry.key === column.key);
    const { values } = await reading.sample(found, most, most > MANY ? 'first' : 'random');
    await record(db, who, 'values read', { kind: 'column', id: assetId, name: path, domainId: column.domain }, null, {
      for: 'the bench',
      rows: values[at]?.length ?? 0,
    });
    return {
      name: column.name,
      path,
      values: [...new Set((values[at] ?? []).flatMap((value) => value?.trim() || []))],
    };
  } finally {
    await reading.close().catch(() => undefined);
  }
}
