import Joi from 'joi';
import { openRest, type Rest, reachRest } from '../rest.ts';
import { runSteps } from '../steps.ts';
import { type Connector, type ConnectorInput, type FoundAsset, keyOf, OUTLINE_MOST, type Reading } from '../types.ts';
import { type Job, type RunEvent, readEvents } from './openLineage.ts';

/** An orchestrator: flows between other systems, as the events of their runs tell (OpenLineage). It holds no values of its own. */
export const orchestrator: Connector = { test, open };

const dataset = Joi.object({ namespace: Joi.string().required(), name: Joi.string().required() }).unknown();
const EVENT = Joi.object({
  eventType: Joi.valid('START', 'RUNNING', 'COMPLETE', 'ABORT', 'FAIL', 'OTHER'),
  eventTime: Joi.string().isoDate().required(),
  run: Joi.object({ runId: Joi.string().required() }).unknown().required(),
  job: dataset.required(),
  inputs: Joi.array().items(dataset),
  outputs: Joi.array().items(dataset),
}).unknown();
const EVENTS = '/api/events?limit=500';

async function test(input: ConnectorInput) {
  let rest: Rest | undefined;
  const page = Joi.object({ items: Joi.array().items(EVENT).required() }).unknown();
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
      return { name, jobs: readEvents(await rest.all<RunEvent>(EVENTS, EVENT)) };
    })();
    return jobs;
  };
  const keyOfJob = (name: string, job: Job) => keyOf(name, job.namespace, job.name);
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
      const top = keyOf(name);
      const assets: FoundAsset[] = [
        {
          key: top,
          parentKey: null,
          kind: 'application',
          name,
          depth: 0,
          position: 0,
          comment: null,
          native: { address: input.address.url },
          stats: {},
        },
      ];
      for (const namespace of new Set(list.map((job) => job.namespace)))
        assets.push({
          key: keyOf(name, namespace),
          parentKey: top,
          kind: 'folder',
          name: namespace,
          depth: 1,
          position: 0,
          comment: null,
          native: {},
          stats: {},
        });
      for (const job of list)
        assets.push({
          key: keyOfJob(name, job),
          parentKey: keyOf(name, job.namespace),
          kind: 'flow',
          name: job.name,
          depth: 2,
          position: 0,
          comment: job.description || null,
          native: {
            ...(job.reads.length > 0 ? { reads: job.reads } : {}),
            ...(job.writes.length > 0 ? { writes: job.writes } : {}),
            ...(job.query ? { definition: job.query } : {}),
          },
          stats: {
            runs: job.runs,
            failed: job.failed,
            ...(job.last
              ? {
                  lastState: job.last.state,
                  lastAt: job.last.at,
                  ...(job.last.message ? { lastMessage: job.last.message } : {}),
                }
              : {}),
          },
        });
      progress(assets.length, 0);
      return { assets, sampleable: [] };
    },
    sample: async () => ({ values: [] }),
    async flows() {
      const { name, jobs: list } = await read();
      return list.map((job) => ({
        key: keyOfJob(name, job),
        kind: 'load',
        origin: 'run event' as const,
        statement: job.query ?? '',
        problems: job.problems,
        edges: [],
        influences: [],
        remote: job.edges,
      }));
    },
    abort: () => rest.abort(),
    close: async () => undefined,
  };
}
