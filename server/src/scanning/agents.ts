import type { BodyOf } from '@idrel/contract/http';
import { type AgentAnswer, type agentEndpoints, RUN_SILENCE_SECONDS } from '@idrel/contract/scanning';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { mustBeCurrent, nameTaken, notFound } from '../platform/problems.ts';
import { digest, newToken } from '../platform/secrets.ts';

/** Silence after which an agent counts as away. */
export const AWAY = `interval '${RUN_SILENCE_SECONDS} seconds'`;

const SELECT = `
  select a.id, a.name, a.group_name as "group", a.domain_id as "domainId", d.name as domain, a.limits, a.version, a.software, a.host, a.load, a.last_contact as "lastContact",
         coalesce(a.last_contact > now() - ${AWAY}, false) as present,
         coalesce((select json_agg(json_build_object('id', s.id, 'name', s.name) order by s.name) from source s where s.agent_group = a.group_name and s.domain_id in (${below('a.domain_id')}) and s.domain_id = any($1::uuid[])), '[]') as sources,
         coalesce((select json_agg(json_build_object('id', r.id, 'source', s.name)) from scan_run r join source s on s.id = r.source_id where r.agent_id = a.id and r.ended_at is null and s.domain_id = any($1::uuid[])), '[]') as runs
  from agent a join domain d on d.id = a.domain_id`;

/** The domain and all below it. @param id an expression of SQL, not of anybody's input */
export function below(id: string): string {
  return `with recursive tree(id) as (select ${id} union all select d.id from domain d join tree t on d.parent_id = t.id) select id from tree`;
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

const spoken = ({ group, limits }: Pick<AgentAnswer, 'group' | 'limits'>) => ({ group, ...limits });

/** Makes an agent and its key; the key is kept as a digest and shown this once. */
export async function addAgent(
  tx: Db,
  who: Who,
  body: BodyOf<typeof agentEndpoints.add>,
): Promise<AgentAnswer & { key: string }> {
  who.must('source administrator', body.domainId);
  const key = `idrel_agent_${newToken()}`;
  const [row] = await tx
    .rows<{ id: string }>(
      'insert into agent (name, group_name, domain_id, key_hash, limits, created_by) values ($1, $2, $3, $4, $5, $6) returning id',
      [body.name, body.group, body.domainId, digest(key), JSON.stringify(body.limits), who.id],
    )
    .catch((error: unknown) => nameTaken(error, body.name));
  const agent = await getAgent(tx, who, row?.id ?? '');
  await record(
    tx,
    who.id,
    'agent made',
    { kind: 'agent', id: agent.id, name: agent.name, domainId: agent.domainId },
    null,
    spoken(agent),
  );
  return { ...agent, key };
}

export async function changeAgent(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: BodyOf<typeof agentEndpoints.change>,
): Promise<AgentAnswer> {
  await tx.run('select from agent where id = $1 for update', [id]);
  const before = await getAgent(tx, who, id);
  mustBeCurrent(version, before);
  await tx.run('update agent set group_name = $2, limits = $3, version = version + 1 where id = $1', [
    id,
    body.group ?? before.group,
    JSON.stringify(body.limits ?? before.limits),
  ]);
  const agent = await getAgent(tx, who, id);
  await record(
    tx,
    who.id,
    'agent changed',
    { kind: 'agent', id, name: agent.name, domainId: agent.domainId },
    spoken(before),
    spoken(agent),
  );
  return agent;
}

export async function removeAgent(tx: Db, who: Who, id: string): Promise<void> {
  const agent = await getAgent(tx, who, id);
  await tx.run('delete from agent where id = $1', [id]);
  await record(
    tx,
    who.id,
    'agent removed',
    { kind: 'agent', id, name: agent.name, domainId: agent.domainId },
    spoken(agent),
    null,
  );
}
