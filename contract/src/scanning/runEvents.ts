import {
  endpoint,
  flag,
  idParam,
  Joi,
  list,
  moment,
  nullable,
  number,
  type Of,
  oneOf,
  role,
  shape,
  text,
  withDefault,
} from '../http/index.ts';
import { ReceivedEvent } from '../lineage/runEvents.ts';

/** So large an event may be, in bytes. */
export const EVENT_BYTES = 4 << 20;

export const EventsAnswer = shape({
  key: nullable(
    shape({ madeAt: moment, madeBy: nullable(text), usedAt: nullable(moment) }).description(
      'The key by which they are sent; itself it is shown once, when it is made.',
    ),
  ),
  received: number.description('Events that are kept: the newest of each job.'),
  waiting: number.description('Not put together yet.'),
  jobs: number,
  lastAt: nullable(moment),
  problems: list(shape({ job: text, at: moment, problem: text })).description(
    'The last ones that could not be put together.',
  ),
});
export type EventsAnswer = Of<typeof EventsAnswer>;

export const FlowRun = shape({
  id: text.description('As the system that ran it names it.'),
  state: oneOf(['running', 'done', 'failed', 'cancelled']),
  began: nullable(moment),
  ended: nullable(moment),
  rows: nullable(number).description('Rows that it wrote, where that was told.'),
  message: nullable(text).description('Why it failed.'),
  checks: list(shape({ of: text, what: text, passed: flag })).description(
    'What was checked of the data while it ran; what failed first.',
  ),
});
export type FlowRun = Of<typeof FlowRun>;
export const FlowRuns = shape({ items: list(FlowRun), total: number });
export type FlowRuns = Of<typeof FlowRuns>;

export const runEventEndpoints = {
  receive: endpoint({
    id: 'receiveRunEvent',
    method: 'post',
    path: '/lineage',
    area: 'scanning',
    summary: 'Send an event of a run (OpenLineage)',
    may: 'a pipeline',
    body: ReceivedEvent,
    bodyBytes: EVENT_BYTES,
    heavyFrom: 64 << 10,
    problems: ['too-many-events'],
    answers:
      'Nothing. The event is kept, and put together with the others of its job soon after; the same again changes nothing. Events of runs, of jobs and of datasets are taken.',
  }),
  makeKey: endpoint({
    id: 'makeEventKey',
    method: 'post',
    path: '/sources/:id/event-key',
    area: 'scanning',
    summary: 'Make the key by which pipelines send events to a source',
    may: role('source administrator', 'its domain', 'only for sources of the kind events'),
    params: idParam,
    problems: ['not-pushed'],
    answer: shape({ key: text }),
    answers: 'The key, shown this once. The one before it ends.',
    showsSecret: true,
  }),
  events: endpoint({
    id: 'sourceEvents',
    method: 'get',
    path: '/sources/:id/events',
    area: 'scanning',
    summary: 'What came of the events that pipelines sent to a source',
    may: role('source administrator', 'its domain'),
    params: idParam,
    answer: EventsAnswer,
    answers: 'Figures, the key without itself, and what could not be put together.',
  }),
  runs: endpoint({
    id: 'flowRuns',
    method: 'get',
    path: '/assets/:id/runs',
    area: 'scanning',
    summary: 'Runs of a flow',
    may: 'signed in',
    params: idParam,
    query: shape({ limit: withDefault(Joi.number().integer().min(1).max(200), 20) }),
    answer: FlowRuns,
    answers: 'The newest first.',
  }),
};
