import type { BodyOf } from '@idrel/contract/http';
import { type AgentAnswer, type agentEndpoints, RUN_SILENCE_SECONDS } from '@idrel/contract/scanning';
import { change, create, type Kept, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { notFound } from '../platform/problems.ts';
import { digest, newToken } from '../platform/secrets.ts';
import { AGENT, type AgentRow } from './models.ts';

/** Silence after which an agent counts as away. */
export const AWAY = `interval '${RUN_SILENCE_SECONDS} seconds'`;

const SELECT = `
  select
    a.id, a.name, a.group_name as "group", a.domain_id as "domainId", d.name as domain, a.limits, a.version, a.software,
    a.host, a.load, a.last_contact as "lastContact", coalesce(a.last_contact > now() - ${AWAY}, false) as present,
    coalesce(
      (
        select json_agg(json_build_object('id', s.id, 'name', s.name) order by s.name)
        from source s
        where s.agent_group = a.group_name and s.domain_id in (${below('a.domain_id')}) and s.domain_id = any($1::uuid[])
      ),
      '[]'
    ) as sources,
    coalesce(
      (
        select json_agg(json_build_object('id', r.id, 'source', s.name))
        from scan_run r
        join source s on s.id = r.source_id
        where r.agent_id = a.id and r.ended_at is null and s.domain_id = any($1::uuid[])
      ),
      '[]'
    ) as runs
  from agent a
  join domain d on d.id = a.domain_id`;

/** The domain and all below it. @param id an expression of SQL, not of anybody's input */
export function below(id: string): string {
  return `
    with recursive tree(id) as (select ${id} union all select d.id from domain d join tree t on d.parent_id = t.id)
    select id
    from tree`;
}

export async function listAgents(db: Db, who: Who): Promise<AgentAnswer[]> {
  who.mustAnywhere('source administrator');
  return db.rows<AgentAnswer>(`${SELECT} where a.domain_id = any($1::uuid[]) order by a.name`, [
    who.domainsAs('source administrator'),
  ]);
}

async function getAgent(db: Db, who: Who, id: string): Promise<AgentAnswer> {
  const found = await db.one<AgentAnswer>(`${SELECT} where a.id = $2 and a.domain_id = any($1::uuid[])`, [
    who.domainsAs('source administrator'),
    id,
  ]);
  if (!found) throw notFound('The agent');
  return found;
}

const AGENTS: Kept<AgentRow, AgentAnswer> = {
  thing: 'agent',
  model: AGENT,
  read: getAgent,
  told: (_db, { group, limits }) => ({ group, ...limits }),
  subject: (_db, { domainId }) => ({ domainId }),
};

/** Makes an agent and its key; the key is kept as a digest and shown this once. */
export async function addAgent(
  tx: Db,
  who: Who,
  { name, group, domainId, limits }: BodyOf<typeof agentEndpoints.add>,
): Promise<AgentAnswer & { key: string }> {
  who.must('source administrator', domainId);
  const key = `idrel_agent_${newToken()}`;
  const values = { name, groupName: group, domainId, keyHash: digest(key), limits, createdBy: who.id };
  return { ...(await create(tx, who, AGENTS, values, { action: 'agent made' })), key };
}

/** Changes what an agent may use of its machine, or the sources that it reads. It keeps to them from its next contact on. */
export async function changeAgent(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  { group, limits }: BodyOf<typeof agentEndpoints.change>,
): Promise<AgentAnswer> {
  const values = { ...(group === undefined ? {} : { groupName: group }), ...(limits ? { limits } : {}) };
  return (await change(tx, who, AGENTS, id, { version, values, action: 'agent changed' })).after;
}

export async function removeAgent(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, AGENTS, id, { action: 'agent removed' });
}
