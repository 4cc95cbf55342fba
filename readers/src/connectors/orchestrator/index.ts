import { RunEvent } from '@idrel/contract/lineage';
import Joi from 'joi';
import { openRest, type Rest, reachRest } from '../rest.ts';
import { runSteps } from '../steps.ts';
import { type Connector, type ConnectorInput, OUTLINE_MOST, type Reading } from '../types.ts';
import { found } from './found.ts';
import { type Job, readEvents } from './openLineage.ts';

/** An orchestrator: flows between other systems, as the events of their runs tell (OpenLineage). It holds no values of its own. */
export const orchestrator: Connector = { test, open };

const EVENTS = '/api/events?limit=500';

async function test(input: ConnectorInput) {
  let rest: Rest | undefined;
  const page = Joi.object({ items: Joi.array().items(RunEvent).required() }).unknown();
  const first = () => (rest as Rest).get<{ items: RunEvent[] }>(`/api/events?limit=1`, page);
  return runSteps([
    ...reachRest(input),
    [
      'Authenticate',
      async () => {
        rest = openRest(input);
        return `The token is that of ${(await rest.get<{ name: string }>('/api/me', Joi.object({ name: Joi.string().required() }).unknown())).name}.`;
      },
    ],
    [
      'Rights to read the catalog',
      async () =>
        (await first()).items.length > 0
          ? 'Events of runs can be listed.'
          : 'Events of runs can be listed; there is none yet.',
    ],
    ['Rights to read data', async () => 'An orchestrator holds no data of its own.'],
  ]);
}

async function open(input: ConnectorInput): Promise<Reading> {
  const rest = openRest(input);
  let jobs: Promise<{ name: string; jobs: Job[] }> | undefined;
  const read = () => {
    jobs ??= (async () => {
      const { name } = await rest.get<{ name: string }>(
        '/api/server',
        Joi.object({ name: Joi.string().required() }).unknown(),
      );
      return { name, jobs: readEvents(await rest.all<RunEvent>(EVENTS, RunEvent)) };
    })();
    return jobs;
  };
  return {
    async outline() {
      const { jobs: list } = await read();
      const folders = [...new Set(list.map((job) => job.namespace))].sort();
      return folders
        .flatMap((folder) => [
          { path: folder, kind: 'folder' },
          ...list
            .filter((job) => job.namespace === folder)
            .map((job) => ({ path: `${folder}/${job.name}`, kind: 'flow' })),
        ])
        .slice(0, OUTLINE_MOST);
    },
    async structure(progress) {
      const { name, jobs: list } = await read();
      const { assets } = found(name, { address: input.address.url }, list);
      const columns = assets.filter(({ kind }) => kind === 'column').length;
      progress(assets.length - columns, columns);
      return { assets, sampleable: [] };
    },
    sample: async () => ({ values: [] }),
    async flows() {
      const { name, jobs: list } = await read();
      return found(name, {}, list).flows;
    },
    abort: () => rest.abort(),
    close: async () => undefined,
  };
}
