import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

/** What an agent may use of the machine it runs on. */
export interface AgentLimits {
  /** Memory for reading files, in MB. */
  readonly memoryMb: number;
  /** Sources read at the same time. */
  readonly parallel: number;
  /** Rows sampled per second and run; null: as fast as it goes. */
  readonly rowsPerSecond: number | null;
}
/** Seconds without a word after which a run counts as lost and is ended, and an agent as away. */
export const RUN_SILENCE_SECONDS = 30;

export interface AgentLoad {
  readonly memoryMb: number;
  /** Processor time used since the contact before, as a share of one processor. */
  readonly processor: number;
  readonly runs: number;
}
export interface AgentAnswer {
  readonly id: string;
  readonly name: string;
  readonly group: string;
  readonly domainId: string;
  readonly domain: string;
  readonly limits: AgentLimits;
  readonly version: number;
  /** The version of what runs on its machine. */
  readonly software: string | null;
  readonly host: string | null;
  readonly load: AgentLoad | null;
  readonly lastContact: string | null;
  /** Heard of within the last half minute. */
  readonly present: boolean;
  readonly sources: readonly { readonly id: string; readonly name: string }[];
  readonly runs: readonly { readonly id: string; readonly source: string }[];
}

const limits = Joi.object({
  memoryMb: Joi.number().integer().min(64).max(65_536).default(512),
  parallel: Joi.number().integer().min(1).max(16).default(1),
  rowsPerSecond: Joi.number().integer().min(10).max(1_000_000).allow(null).default(null),
});
const name = Joi.string().trim().min(1).max(120);
const group = Joi.string().trim().min(1).max(60);
const rights = 'source administrator in its domain';
const byKey = 'an agent, by its key as a bearer token';
const load = Joi.object({
  memoryMb: Joi.number().min(0).required(),
  processor: Joi.number().min(0).required(),
  runs: Joi.number().integer().min(0).required(),
});
const counts = Joi.object().pattern(Joi.string().max(30), Joi.number()).max(20);
const log = Joi.array()
  .items(
    Joi.object({ level: Joi.valid('info', 'caution', 'problem').required(), text: Joi.string().max(4000).required() }),
  )
  .max(1000);

export const agentEndpoints = {
  list: endpoint({
    id: 'agents',
    method: 'get',
    path: '/agents',
    area: 'scanning',
    summary: 'Agents, with their load and what they read',
    rights: 'source administrator in any domain',
    answers: 'Agents by name.',
  }),
  add: endpoint({
    id: 'addAgent',
    method: 'post',
    path: '/agents',
    area: 'scanning',
    summary: 'Make a key for an agent',
    rights,
    body: Joi.object({
      name: name.required(),
      group: group.required(),
      domainId: id.required(),
      limits: limits.default(),
    }),
    answers: 'The agent with its key, which is shown this once.',
  }),
  change: endpoint({
    id: 'changeAgent',
    method: 'patch',
    path: '/agents/:id',
    area: 'scanning',
    summary: 'Change the limits or the group of an agent',
    rights,
    params: idParam,
    body: Joi.object({ group, limits }).min(1),
    answers: 'The agent; it keeps to them from its next contact on. Send If-Match with its version.',
  }),
  remove: endpoint({
    id: 'removeAgent',
    method: 'delete',
    path: '/agents/:id',
    area: 'scanning',
    summary: 'Take the key of an agent away',
    rights,
    params: idParam,
    answers: 'Nothing. Runs it is at end as failed.',
  }),
  claim: endpoint({
    id: 'agentClaim',
    method: 'post',
    path: '/agent/claim',
    area: 'scanning',
    summary: 'Ask for a run',
    open: true,
    rights: byKey,
    body: Joi.object({
      version: Joi.string().max(40).required(),
      host: Joi.string().max(200).required(),
      load: load.required(),
      free: Joi.boolean().required(),
    }),
    answers:
      'Limits; a run with what is needed to read its source, or none; and what a person asks of a source and waits for, or nothing.',
  }),
  answer: endpoint({
    id: 'agentAnswer',
    method: 'post',
    path: '/agent/asks/:id',
    area: 'scanning',
    summary: 'Answer what a person asks of a source',
    open: true,
    rights: byKey,
    params: idParam,
    body: Joi.alternatives(
      Joi.object({
        tables: Joi.array()
          .items(
            Joi.object({
              looked: Joi.array().items(Joi.string().max(4000)).max(20_000).required(),
              found: Joi.array()
                .items(
                  Joi.object({
                    key: Joi.string().max(4000).required(),
                    classKey: Joi.string().max(80).required(),
                    share: Joi.number().min(0).max(1).required(),
                    distinct: Joi.number().integer().min(0).required(),
                    confidence: Joi.number().min(0).max(1).required(),
                    state: Joi.valid('certain', 'to-settle').required(),
                    examples: Joi.array().items(Joi.string().allow('').max(4000)).max(5).required(),
                    without: Joi.valid('certain', 'to-settle').allow(null),
                  }),
                )
                .max(20_000)
                .required(),
              problem: Joi.string().max(8000).allow(null).required(),
            }),
          )
          .max(20_000)
          .required(),
      }),
      Joi.object({
        steps: Joi.array()
          .items(
            Joi.object({
              step: Joi.string().max(200).required(),
              state: Joi.valid('passed', 'failed', 'not reached').required(),
              detail: Joi.string().allow('').max(8000).required(),
              mend: Joi.string().allow('').max(8000),
              milliseconds: Joi.number().min(0).required(),
            }),
          )
          .max(20)
          .required(),
      }),
      Joi.object({
        items: Joi.array()
          .items(Joi.object({ path: Joi.string().max(20_000).required(), kind: Joi.string().max(60).required() }))
          .max(20_000)
          .required(),
      }),
      Joi.object({
        failed: Joi.object({
          what: Joi.string().max(4000).required(),
          mend: Joi.string().allow('').max(8000).required(),
        }).required(),
      }),
    ).required(),
    answers: 'Nothing.',
  }),
  beat: endpoint({
    id: 'agentBeat',
    method: 'post',
    path: '/agent/runs/:id/beat',
    area: 'scanning',
    summary: 'Say how a run goes',
    open: true,
    rights: byKey,
    params: idParam,
    body: Joi.object({
      state: Joi.valid('structure', 'sampling', 'recognition', 'lineage').required(),
      counts: counts.required(),
      log: log.required(),
    }),
    answers: 'Whether the run is to be cancelled.',
  }),
  batch: endpoint({
    id: 'agentBatch',
    method: 'post',
    path: '/agent/runs/:id/batches',
    area: 'scanning',
    summary: 'Send a part of what was read',
    open: true,
    rights: byKey,
    params: idParam,
    body: Joi.object({ number: Joi.number().integer().min(0).max(100_000).required(), lines: Joi.string().required() }),
    bodyBytes: 8 << 20,
    answers: 'Nothing. The same part can be sent again.',
  }),
  end: endpoint({
    id: 'agentEnd',
    method: 'post',
    path: '/agent/runs/:id/end',
    area: 'scanning',
    summary: 'End a run: everything was sent, or it cannot be read',
    open: true,
    rights: byKey,
    params: idParam,
    body: Joi.object({
      batches: Joi.number().integer().min(0).required(),
      problems: Joi.number().integer().min(0).required(),
      counts: counts.required(),
      failed: Joi.object({
        what: Joi.string().max(4000).required(),
        mend: Joi.string().allow('').max(8000).required(),
      }),
      cancelled: Joi.boolean(),
    }),
    answers: 'The state in which the run ended.',
  }),
};
