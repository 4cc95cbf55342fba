import type { AgentAnswer } from '@idrel/contract/scanning';
import { Button, CopyButton, Select, TextInput, VisuallyHidden } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { useDomainsQuery } from '../catalog/api.ts';
import { When } from '../marks/index.tsx';
import { Coming, Empty, ProblemNotice, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { LimitFields, limitsLine, USUAL } from './AgentLimits.tsx';
import { type AgentBody, useAddAgentMutation, useAgentsQuery, useChangeAgentMutation, useRemoveAgentMutation } from './agentsApi.ts';

/** Agents: where they run, what they read, how they are. */
export function Component() {
  useCrumbs({ text: 'Sources', to: '/sources' }, { text: 'Agents' });
  const { data, error, refetch } = useAgentsQuery(undefined, { pollingInterval: 3000, skipPollingIfUnfocused: true });
  const [making, setMaking] = useState(false);
  const [open, setOpen] = useState<string>();
  if (error && !data) return <Trouble error={error} what="The agents cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  return (
    <div className="page">
      <div className="head">
        <div>
          <h1>Agents</h1>
          <p className="quiet">Read sources that this machine does not reach, from where they can be reached. They call out only; agents of one group share its work.</p>
        </div>
        {making ? null : <Button onClick={() => setMaking(true)}>Make an agent</Button>}
      </div>
      {making ? <Making close={() => setMaking(false)} groups={[...new Set(data.map((agent) => agent.group))]} /> : null}
      {data.length === 0 && !making ? (
        <Empty title="No agent yet">
          <p>Idrel reads all sources itself. An agent stands here with its load and its last contact, once it was made and started.</p>
        </Empty>
      ) : null}
      {data.length > 0 ? (
        <table className="plain">
          <thead>
            <tr>
              <th>Name</th>
              <th>Group</th>
              <th>Domain</th>
              <th>State</th>
              <th>Reads</th>
              <th>Limits</th>
              <th>
                <VisuallyHidden>Steps</VisuallyHidden>
              </th>
            </tr>
          </thead>
          <tbody>
            {data.map((agent) => (
              <Row key={agent.id} agent={agent} open={open === agent.id} setOpen={setOpen} />
            ))}
          </tbody>
        </table>
      ) : null}
    </div>
  );
}

function Row({ agent, open, setOpen }: { agent: AgentAnswer; open: boolean; setOpen: (id: string | undefined) => void }) {
  const [limits, setLimits] = useState(agent.limits);
  const [change, changing] = useChangeAgentMutation();
  const [remove] = useRemoveAgentMutation();
  const save = () =>
    change({ id: agent.id, change: { limits } })
      .unwrap()
      .then(() => setOpen(undefined))
      .catch((failed: unknown) => sayProblem(failed, 'The limits were not changed'));
  const drop = () =>
    remove(agent.id)
      .unwrap()
      .then(() => sayDone(`${agent.name} has no key any more and will stop.`))
      .catch((failed: unknown) => sayProblem(failed, 'The agent was not removed'));
  return (
    <tr style={open ? { verticalAlign: 'top' } : undefined}>
      <td>{agent.name}</td>
      <td>{agent.group}</td>
      <td>{agent.domain}</td>
      <td>
        <State agent={agent} />
      </td>
      <td>
        {agent.sources.length === 0 ? (
          <span className="quiet">no source is left to its group</span>
        ) : (
          agent.sources.map((source, index) => (
            <span key={source.id}>
              {index > 0 ? ', ' : ''}
              <Link to={`/sources/${source.id}`}>{source.name}</Link>
            </span>
          ))
        )}
      </td>
      <td>{open ? <LimitFields limits={limits} change={setLimits} /> : limitsLine(agent.limits)}</td>
      <td>
        {open ? (
          <div className="row">
            <Button size="xs" onClick={() => void save()} loading={changing.isLoading}>
              Save
            </Button>
            <Button size="xs" variant="subtle" onClick={() => setOpen(undefined)}>
              Leave it
            </Button>
          </div>
        ) : (
          <div className="row">
            <Button
              size="xs"
              variant="default"
              aria-label={`Change the limits of ${agent.name}`}
              onClick={() => {
                setLimits(agent.limits);
                setOpen(agent.id);
              }}
            >
              Limits
            </Button>
            <Button size="xs" variant="subtle" aria-label={`Remove ${agent.name}`} onClick={() => void drop()}>
              Remove
            </Button>
          </div>
        )}
      </td>
    </tr>
  );
}

function State({ agent }: { agent: AgentAnswer }) {
  if (!agent.lastContact) return <span className="quiet">never started</span>;
  return (
    <>
      {agent.present ? agent.runs.length > 0 ? 'reading ' : 'waiting' : <span className="attention">away</span>}
      {agent.runs.map((run) => (
        <Link key={run.id} to={`/runs/${run.id}`}>
          {run.source}
        </Link>
      ))}
      <div className="quiet">
        {agent.present && agent.load ? (
          `${agent.host}, ${agent.load.memoryMb} MB, ${Math.round(agent.load.processor * 100)} % of a processor, version ${agent.version}`
        ) : (
          <>
            {agent.host}, heard of <When at={agent.lastContact} />
          </>
        )}
      </div>
    </>
  );
}

function Making({ close, groups }: { close: () => void; groups: readonly string[] }) {
  const domains = useDomainsQuery();
  const [add, adding] = useAddAgentMutation();
  const [body, setBody] = useState<Omit<AgentBody, 'domainId'> & { domainId: string | null }>({ name: '', group: groups[0] ?? '', domainId: null, limits: USUAL });
  const made = adding.data;
  if (made) {
    const command = `IDREL_AGENT_KEY=${made.key} npx idrel agent --server ${window.location.origin}`;
    return (
      <section className="notice calm" aria-label="The key of the agent" style={{ marginBottom: 18 }}>
        <p>
          {made.name} is made. Start it on its machine with this command; <strong>the key in it is not shown again</strong>.
        </p>
        <pre className="code" style={{ whiteSpace: 'pre-wrap', overflowWrap: 'anywhere', margin: '8px 0' }}>
          {command}
        </pre>
        <p className="quiet">Then leave sources to the group “{made.group}” on their pages. With --secrets a file of secrets stays on that machine.</p>
        <div className="row" style={{ marginTop: 8 }}>
          <CopyButton value={command}>{({ copied, copy }) => <Button onClick={copy}>{copied ? 'Copied' : 'Copy the command'}</Button>}</CopyButton>
          <Button variant="default" onClick={close}>
            I have kept it
          </Button>
        </div>
      </section>
    );
  }
  const problem = adding.error ? problemOf(adding.error) : undefined;
  return (
    <form
      className="stack"
      style={{ maxWidth: 640, marginBottom: 22 }}
      aria-label="New agent"
      onSubmit={(event) => {
        event.preventDefault();
        void add({ ...body, domainId: body.domainId ?? '' })
          .unwrap()
          .catch(() => undefined);
      }}
    >
      <div className="fields">
        <TextInput label="Name" required description="Of the machine, for example" value={body.name} onChange={(event) => setBody({ ...body, name: event.currentTarget.value })} />
        <TextInput label="Group" required description="Sources are left to a group" value={body.group} onChange={(event) => setBody({ ...body, group: event.currentTarget.value })} />
      </div>
      <Select
        label="Domain"
        required
        searchable
        description="It may read sources of this domain and of those below"
        data={(domains.data ?? []).map((domain) => ({ value: domain.id, label: domain.name }))}
        value={body.domainId}
        onChange={(domainId) => setBody({ ...body, domainId })}
      />
      <LimitFields limits={body.limits} change={(limits) => setBody({ ...body, limits })} />
      <ProblemNotice problem={problem} />
      <div className="row">
        <Button type="submit" loading={adding.isLoading} disabled={!body.name || !body.group || !body.domainId}>
          Make its key
        </Button>
        <Button variant="subtle" onClick={close}>
          Discard
        </Button>
      </div>
    </form>
  );
}
