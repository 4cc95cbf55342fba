import type { OwnDetector } from '@idrel/core/recognition/spec';
import {
  either,
  endpoint,
  extended,
  flag,
  id,
  idParam,
  Joi,
  like,
  list,
  moment,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  record,
  role,
  shape,
  text,
  tuple,
  whole,
  withDefault,
} from '../http/index.ts';
import { DetectorSpecBody } from '../recognition/own.ts';
import { SOURCE_KINDS } from '../sources/kinds.ts';
import { FILE_KINDS, sampleMethod, scopeBody } from './plans.ts';
import { RUN_STATES } from './runs.ts';

/** Seconds without a word after which a run counts as lost and is ended, and an agent as away. */
export const RUN_SILENCE_SECONDS = 30;

/** What an agent may use of the machine it runs on. */
export const AgentLimits = shape({
  memoryMb: withDefault(Joi.number().integer().min(64).max(65_536), 512),
  parallel: withDefault(Joi.number().integer().min(1).max(16), 1),
  rowsPerSecond: withDefault(nullable(Joi.number().integer().min(10).max(1_000_000)), null),
});
export type AgentLimits = Of<typeof AgentLimits>;
export const AgentLoad = shape({
  memoryMb: Joi.number().min(0),
  processor: Joi.number().min(0),
  runs: Joi.number().integer().min(0),
});
export type AgentLoad = Of<typeof AgentLoad>;

export const AgentAnswer = shape({
  id: text,
  name: text,
  group: text,
  domainId: text,
  domain: text,
  limits: AgentLimits,
  version: number,
  software: nullable(text).description('The version of what runs on its machine.'),
  host: nullable(text),
  load: nullable(AgentLoad),
  lastContact: nullable(moment),
  present: flag.description('Heard of within the last half minute.'),
  sources: list(shape({ id: text, name: text })),
  runs: list(shape({ id: text, source: text })),
});
export type AgentAnswer = Of<typeof AgentAnswer>;

const name = Joi.string().trim().min(1).max(120);
const group = Joi.string().trim().min(1).max(60);
const rights = role('source administrator', 'its domain');
const _byKey = 'an agent, by its key as a bearer token';
const counts = record(Joi.number(), 30).max(20);
const log = list(shape({ level: oneOf(['info', 'caution', 'problem']), text: Joi.string().max(4000) })).max(1000);

const ownDetector = like<OwnDetector>()(
  shape({
    id: text,
    version: whole,
    classKey: text,
    label: text,
    level: oneOf([1, 2, 3, 4]),
    spec: DetectorSpecBody,
  }),
);
/** How a run reads, as the one that reads is told. */
export const RunOptions = shape({
  sample: optional(flag),
  rows: optional(whole).description('Values read per column.'),
  onlyChanged: optional(flag),
  profile: optional(flag).description('Whether profiles are worked out of what is sampled.'),
  method: optional(sampleMethod),
  leaveOut: optional(list(text)).description('Ids of detectors that do not look.'),
  own: optional(list(ownDetector)).description('Detectors of the organisation that look as well.'),
  minutes: optional(nullable(whole)).description('A run that takes longer is ended.'),
  retries: optional(whole).description('How often a failed run is tried again.'),
  attempt: optional(whole).description('Which try this is, from 0.'),
  memoryMb: optional(nullable(whole)).description('Memory for reading files.'),
  fileKinds: optional(nullable(list(oneOf(FILE_KINDS)))).description(
    'Kinds of files that are read; all when left out.',
  ),
  scope: optional(scopeBody),
});
export type RunOptions = Of<typeof RunOptions>;
/** A draft of a detector as it is tried on a source. */
export const DraftTrial = shape({
  draft: ownDetector,
  own: list(ownDetector).description("The organisation's other detectors: a combination rests on what they find."),
  off: list(text).description('Those that look nowhere.'),
  rows: whole.description('Values that are looked at of each column.'),
});
export type DraftTrial = Of<typeof DraftTrial>;
const claimedSource = shape({
  name: text,
  kind: oneOf(SOURCE_KINDS),
  address: record(either(text, number)),
  secret: nullable(shape({ username: text, password: text })).description(
    'It goes to no other agent, and to nobody else.',
  ),
});
const secretOfYours = nullable(text).description(
  'What the credential holds that the agent must have itself; null when it came along, or none is needed.',
);
/** A run as an agent gets it. */
export const ClaimedRun = shape({
  id,
  source: claimedSource,
  relations: optional(list(shape({ schema: text, name: text, columns: list(text) }))).description(
    'Of scripts: the tables of the database at which they run.',
  ),
  secretOfYours,
  options: RunOptions,
  known: nullable(shape({ marks: list(tuple(text, shape({ structure: text, data: text }))), data: flag })).description(
    'By what the source could tell of each object when it was last read, to leave out what has not changed.',
  ),
});
export type ClaimedRun = Of<typeof ClaimedRun>;
/** What a person asks of a source and waits for, as an agent gets it. */
export const ClaimedAsk = shape({
  id,
  kind: oneOf(['test', 'outline', 'trial']),
  source: claimedSource,
  secretOfYours,
  given: nullable(DraftTrial).description('What a trial tries.'),
});
export type ClaimedAsk = Of<typeof ClaimedAsk>;

/** What an agent says to an ask: the steps of a test, what is there, what a draft found, or why it could not look. */
export const AskAnswer = either(
  shape({
    tables: list(
      shape({
        looked: list(Joi.string().max(4000)).max(20_000),
        found: list(
          shape({
            key: Joi.string().max(4000),
            classKey: Joi.string().max(80),
            share: Joi.number().min(0).max(1),
            distinct: Joi.number().integer().min(0),
            confidence: Joi.number().min(0).max(1),
            state: oneOf(['certain', 'to-settle']),
            examples: list(Joi.string().allow('').max(4000)).max(5),
            without: optional(nullable(oneOf(['certain', 'to-settle']))),
          }),
        ).max(20_000),
        problem: nullable(Joi.string().max(8000)),
      }),
    ).max(20_000),
  }),
  shape({
    steps: list(
      shape({
        step: Joi.string().max(200),
        state: oneOf(['passed', 'failed', 'not reached']),
        detail: Joi.string().allow('').max(8000),
        mend: optional(Joi.string().allow('').max(8000)),
        milliseconds: Joi.number().min(0),
      }),
    ).max(20),
  }),
  shape({ items: list(shape({ path: Joi.string().max(20_000), kind: Joi.string().max(60) })).max(20_000) }),
  shape({ failed: shape({ what: Joi.string().max(4000), mend: Joi.string().allow('').max(8000) }) }),
);
export type AskAnswer = Of<typeof AskAnswer>;

export const agentEndpoints = {
  list: endpoint({
    id: 'agents',
    method: 'get',
    path: '/agents',
    area: 'scanning',
    summary: 'Agents, with their load and what they read',
    may: role('source administrator', 'any domain'),
    answer: list(AgentAnswer),
    answers: 'Agents by name.',
  }),
  add: endpoint({
    id: 'addAgent',
    method: 'post',
    path: '/agents',
    area: 'scanning',
    summary: 'Make a key for an agent',
    may: rights,
    body: shape({
      name,
      group,
      domainId: id,
      limits: withDefault(AgentLimits, { memoryMb: 512, parallel: 1, rowsPerSecond: null }),
    }),
    problems: ['name-taken'],
    answer: extended(AgentAnswer, { key: text }),
    answers: 'The agent with its key, which is shown this once.',
    showsSecret: true,
  }),
  change: endpoint({
    id: 'changeAgent',
    method: 'patch',
    path: '/agents/:id',
    area: 'scanning',
    summary: 'Change the limits or the group of an agent',
    may: rights,
    params: idParam,
    body: shape({ group: optional(group), limits: optional(AgentLimits) }).min(1),
    versioned: true,
    problems: ['name-taken'],
    answer: AgentAnswer,
    answers: 'The agent; it keeps to them from its next contact on.',
  }),
  remove: endpoint({
    id: 'removeAgent',
    method: 'delete',
    path: '/agents/:id',
    area: 'scanning',
    summary: 'Take the key of an agent away',
    may: rights,
    params: idParam,
    answers: 'Nothing. Runs it is at end as failed.',
  }),
  claim: endpoint({
    id: 'agentClaim',
    method: 'post',
    path: '/agent/claim',
    area: 'scanning',
    summary: 'Ask for a run',
    may: 'an agent',
    body: shape({ version: Joi.string().max(40), host: Joi.string().max(200), load: AgentLoad, free: Joi.boolean() }),
    answer: shape({ name: text, limits: AgentLimits, run: nullable(ClaimedRun), ask: nullable(ClaimedAsk) }),
    answers:
      'Limits; a run with what is needed to read its source, or none; and what a person asks of a source and waits for, or nothing.',
  }),
  answer: endpoint({
    id: 'agentAnswer',
    method: 'post',
    path: '/agent/asks/:id',
    area: 'scanning',
    summary: 'Answer what a person asks of a source',
    may: 'an agent',
    params: idParam,
    body: AskAnswer,
    problems: ['ask-ended'],
    answers: 'Nothing.',
  }),
  beat: endpoint({
    id: 'agentBeat',
    method: 'post',
    path: '/agent/runs/:id/beat',
    area: 'scanning',
    summary: 'Say how a run goes',
    may: 'an agent',
    params: idParam,
    body: shape({ state: oneOf(['structure', 'sampling', 'recognition', 'lineage']), counts: counts, log: log }),
    problems: ['run-ended'],
    answer: shape({ cancel: flag }),
    answers: 'Whether the run is to be cancelled.',
  }),
  batch: endpoint({
    id: 'agentBatch',
    method: 'post',
    path: '/agent/runs/:id/batches',
    area: 'scanning',
    summary: 'Send a part of what was read',
    may: 'an agent',
    params: idParam,
    body: shape({ number: Joi.number().integer().min(0).max(100_000), lines: Joi.string() }),
    bodyBytes: 8 << 20,
    problems: ['run-ended'],
    answers: 'Nothing. The same part can be sent again.',
  }),
  end: endpoint({
    id: 'agentEnd',
    method: 'post',
    path: '/agent/runs/:id/end',
    area: 'scanning',
    summary: 'End a run: everything was sent, or it cannot be read',
    may: 'an agent',
    params: idParam,
    body: shape({
      batches: Joi.number().integer().min(0),
      problems: Joi.number().integer().min(0),
      counts: counts,
      failed: optional(shape({ what: Joi.string().max(4000), mend: Joi.string().allow('').max(8000) })),
      cancelled: optional(Joi.boolean()),
    }),
    problems: ['run-ended'],
    answer: shape({ state: oneOf(RUN_STATES) }),
    answers: 'The state in which the run ended.',
  }),
};
