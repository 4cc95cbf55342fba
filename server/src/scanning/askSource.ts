import type { OutlineItem } from '@idrel/contract/scanning';
import type { TestStep } from '@idrel/contract/sources';
import { CONNECTORS, OUTLINE_MOST, SourceProblem } from '@idrel/readers/connectors';
import { pathOfKey } from '@idrel/readers/scans';
import type { Who } from '../people/index.ts';
import type { Context } from '../platform/context.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';
import { connectorInput, type SourceFacts, sourceFacts } from '../sources/index.ts';
import { askAgents, unlessFailed } from './agentAsks.ts';

/** What is needed to ask a source, from here or through its agents. */
export type AskingContext = Pick<Context, 'config' | 'signals'>;

/** What the source holds now, asked live. @throws ApiProblem with the connector's words when it cannot be reached */
export async function outline(
  db: Db,
  { config, signals }: AskingContext,
  who: Who,
  sourceId: string,
): Promise<OutlineItem[]> {
  const source = await sourceFacts(db, who, sourceId);
  who.must('source administrator', source.domainId);
  if (source.agentGroup) {
    const answer = await askAgents(db, signals, source, 'outline').catch((error: unknown) => {
      if (error instanceof ApiProblem && ['no-agent', 'agent-silent'].includes(error.code)) return undefined;
      throw error;
    });
    return answer ? unlessFailed<{ items: OutlineItem[] }>(answer).items : knownOutline(db, source);
  }
  try {
    const reading = await CONNECTORS[source.kind].open(await connectorInput(db, config, sourceId));
    try {
      return await reading.outline();
    } finally {
      await reading.close();
    }
  } catch (error) {
    if (error instanceof SourceProblem) throw new ApiProblem('source-unreachable', error.message, { mend: error.mend });
    throw error;
  }
}

/** What the catalog holds of a source whose agents are away: they have seen it with the last scan. */
async function knownOutline(db: Db, source: SourceFacts): Promise<OutlineItem[]> {
  const rows = await db.rows<{ key: string; kind: string }>(
    `
      select key, kind
      from asset
      where source_id = $1 and kind <> 'column' and parent_id is not null and gone_at is null
      order by key
      limit $2`,
    [source.id, OUTLINE_MOST],
  );
  return rows.map(({ key, kind }) => ({ path: pathOfKey(key, source.kind), kind }));
}

/** Tests the connection step by step, from here or from where the source's agents are. */
export async function testConnection(
  db: Db,
  { config, signals }: AskingContext,
  who: Who,
  sourceId: string,
): Promise<TestStep[]> {
  const source = await sourceFacts(db, who, sourceId);
  who.must('source administrator', source.domainId);
  if (!source.agentGroup) return CONNECTORS[source.kind].test(await connectorInput(db, config, sourceId));
  return unlessFailed<{ steps: TestStep[] }>(await askAgents(db, signals, source, 'test')).steps;
}
