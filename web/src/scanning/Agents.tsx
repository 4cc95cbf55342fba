import type { AgentAnswer, AgentLimits } from '@idrel/contract/scanning';
import { Box, Button, CopyButton, Group, Select, Stack, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { When } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useDomainsQuery } from '../people/index.ts';
import { useCrumbs } from '../shell/crumbs.tsx';
import { LimitFields, limitsLine, USUAL } from './AgentLimits.tsx';
import {
  type AgentBody,
  useAddAgentMutation,
  useAgentsQuery,
  useChangeAgentMutation,
  useRemoveAgentMutation,
} from './agentsApi.ts';

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
          <p className="quiet">
            Read sources that this machine does not reach, from where they can be reached. They call out only; agents of
            one group share its work.
          </p>
        </div>
        {making ? null : <Button onClick={() => setMaking(true)}>Make an agent</Button>}
      </div>
      {making ? (
        <Making close={() => setMaking(false)} groups={[...new Set(data.map((agent) => agent.group))]} />
      ) : null}
      {data.length === 0 && !making ? (
        <Empty title="No agent yet">
          <p>
            Idrel reads all sources itself. An agent stands here with its load and its last contact, once it was made
            and started.
          </p>
        </Empty>
      ) : null}
      {data.length > 0 ? (
        <Listing heads={['Name', 'Group', 'Domain', 'State', 'Reads', 'Limits', heard('Steps')]}>
          {data.map((agent) => (
            <Row key={agent.id} agent={agent} open={open === agent.id} setOpen={setOpen} />
          ))}
        </Listing>
      ) : null}
    </div>
  );
}

function Row({
  agent,
  open,
  setOpen,
}: {
  agent: AgentAnswer;
  open: boolean;
  setOpen: (id: string | undefined) => void;
}) {
  const [change] = useChangeAgentMutation();
  const [remove] = useRemoveAgentMutation();
  const edit = useEditForm<AgentLimits, AgentAnswer>({
    key: `agent:${agent.id}`,
    now: { version: agent.version, values: agent.limits },
    fresh: agent.limits,
    valuesOf: ({ limits }) => limits,
    send: (limits, version) => change({ id: agent.id, version, change: { limits } }).unwrap(),
    done: () => {
      setOpen(undefined);
      sayDone(`${agent.name} keeps to its new limits from its next contact on.`);
    },
  });
  const drop = () =>
    remove(agent.id)
      .unwrap()
      .then(() => sayDone(`${agent.name} has no key any more and will stop.`))
      .catch((failed: unknown) => sayProblem(failed, 'The agent was not removed'));
  return (
    <tr className={open ? 'tall' : undefined}>
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
      <td>
        {open ? (
          <>
            <LimitFields limits={edit.values} change={edit.put} />
            <FormNotice
              edit={edit}
              words={{ memoryMb: 'Memory', parallel: 'Runs at once', rowsPerSecond: 'Rows a second' }}
            />
          </>
        ) : (
          limitsLine(agent.limits)
        )}
      </td>
      <td>
        {open ? (
          <Group>
            <Button
              size="xs"
              onClick={() => void edit.save()}
              loading={edit.saving}
              disabled={!edit.differs || edit.clashes.length > 0}
            >
              Save
            </Button>
            <Button
              size="xs"
              variant="subtle"
              onClick={() => {
                edit.discard();
                setOpen(undefined);
              }}
            >
              Leave it
            </Button>
          </Group>
        ) : (
          <Group>
            <Button
              size="xs"
              variant="default"
              aria-label={`Change the limits of ${agent.name}`}
              onClick={() => setOpen(agent.id)}
            >
              Limits
            </Button>
            <Button size="xs" variant="subtle" aria-label={`Remove ${agent.name}`} onClick={() => void drop()}>
              Remove
            </Button>
          </Group>
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
          `${agent.host}, ${agent.load.memoryMb} MB, ${Math.round(agent.load.processor * 100)} % of a processor, version ${agent.software}`
        ) : (
          <>
            {agent.host}, heard of <When at={agent.lastContact} />
          </>
        )}
      </div>
    </>
  );
}

type MakingFields = Pick<AgentBody, 'name' | 'group'> & { limits: AgentLimits; domainId: string | null };

function Making({ close, groups }: { close: () => void; groups: readonly string[] }) {
  const domains = useDomainsQuery();
  const [add] = useAddAgentMutation();
  const [made, setMade] = useState<AgentAnswer & { key: string }>();
  const fresh: MakingFields = { name: '', group: groups[0] ?? '', domainId: null, limits: USUAL };
  const edit = useEditForm<MakingFields, AgentAnswer & { key: string }>({
    key: 'agent:new',
    now: null,
    fresh,
    valuesOf: () => fresh,
    send: (values) => add({ ...values, domainId: values.domainId ?? '' }).unwrap(),
    done: setMade,
  });
  const { form, values: body, put } = edit;
  if (made) {
    const command = `IDREL_AGENT_KEY=${made.key} npx idrel agent --server ${window.location.origin}`;
    return (
      <Box component="section" className="notice calm" aria-label="The key of the agent" mb={18}>
        <p>
          {made.name} is made. Start it on its machine with this command;{' '}
          <strong>the key in it is not shown again</strong>.
        </p>
        <pre className="code anywhere after">{command}</pre>
        <p className="quiet">
          Then leave sources to the group “{made.group}” on their pages. With --secrets a file of secrets stays on that
          machine.
        </p>
        <Group mt={8}>
          <CopyButton value={command}>
            {({ copied, copy }) => <Button onClick={copy}>{copied ? 'Copied' : 'Copy the command'}</Button>}
          </CopyButton>
          <Button variant="default" onClick={close}>
            I have kept it
          </Button>
        </Group>
      </Box>
    );
  }
  return (
    <Stack
      component="form"
      aria-label="New agent"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
      maw={640}
      mb={22}
    >
      <div className="fields">
        <TextInput label="Name" required description="Of the machine, for example" {...form.getInputProps('name')} />
        <TextInput label="Group" required description="Sources are left to a group" {...form.getInputProps('group')} />
      </div>
      <Select
        label="Domain"
        required
        searchable
        description="It may read sources of this domain and of those below"
        data={(domains.data ?? []).map((domain) => ({ value: domain.id, label: domain.name }))}
        {...form.getInputProps('domainId')}
      />
      <LimitFields limits={body.limits} change={(limits) => put({ limits })} />
      <FormNotice edit={edit} words={{ name: 'Name', group: 'Group', domainId: 'Domain', limits: 'Limits' }} />
      <Group>
        <Button type="submit" loading={edit.saving} disabled={!body.name || !body.group || !body.domainId}>
          Make its key
        </Button>
        <Button
          variant="subtle"
          onClick={() => {
            edit.discard();
            close();
          }}
        >
          Discard
        </Button>
      </Group>
    </Stack>
  );
}
