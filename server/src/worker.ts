import { run, type TaskList } from 'graphile-worker';
import {
  chatOfRequest,
  forgetSights,
  mailOfRequest,
  mailOfShare,
  type RequestMail,
  remindOfRequests,
  type ShareMail,
  tendEnforcements,
  tendMatches,
  tendReviews,
} from './access/index.ts';
import { forgetTouched } from './catalog/index.ts';
import { mailOfReport, type ReportMail, tendReports } from './coverage/index.ts';
import {
  certificationTender,
  giveTicket,
  runBulkEdit,
  settlePriority,
  type TicketJob,
  tellUsers,
  tendBulkEdits,
  tendNotices,
} from './curation/index.ts';
import {
  type CallJob,
  callWebhook,
  forgetMessages,
  forgetNews,
  mailOfWebhook,
  type NewsJob,
  tellNews,
  tellOfWaiting,
  tendNews,
  tendNewsOut,
  tendWebhooks,
  type WebhookMail,
} from './exchange/index.ts';
import { forgetEvents } from './journal/index.ts';
import { settleBroken } from './lineage/index.ts';
import { forgetCalls, forgetSignIns, type MailTask, runMailTask } from './people/index.ts';
import { forgetAnswers } from './platform/idempotent.ts';
import { followTender } from './platform/jobs.ts';
import { onStop, openContext } from './platform/start.ts';
import { runTrial, tendLevels } from './recognition/index.ts';
import { beginDue, beginHeard, mailOfRoutine, type RoutineMail, tendRuns, workOnRun } from './routines/index.ts';
import { afterRun, executeRun, settleEvents, startDuePlans, sweep, tryByAgents } from './scanning/index.ts';

const context = openContext();
const { db, config, log } = context;

const tasks: TaskList = {
  async trial(payload) {
    const { trialId, domains } = payload as { trialId: string; domains: string[] };
    await runTrial(db, config, trialId, domains, (source, given) => tryByAgents(db, source, given));
  },
  async 'bulk-edit'(payload) {
    await runBulkEdit(db, (payload as { editId: string }).editId);
  },
  async retiring(payload) {
    const told = await tellUsers(db, config, (payload as { assetIds: string[] }).assetIds);
    if (told > 0) log.info(`${told} people were told that what they use is to be retired`);
  },
  async broken() {
    await db.transaction((tx) => settleBroken(tx));
  },
  async priority() {
    const changed = await db.transaction((tx) => settlePriority(tx));
    if (changed > 0) log.info(`${changed} assets matter otherwise than before`);
  },
  async 'run-events'(payload) {
    await settleEvents(db, (payload as { sourceId: string }).sourceId);
  },
  async mail(payload) {
    await runMailTask(db, config, payload as MailTask);
  },
  async share(payload) {
    await mailOfShare(db, config, payload as ShareMail);
  },
  async request(payload) {
    await mailOfRequest(db, config, payload as RequestMail);
  },
  async 'request-chat'(payload) {
    await chatOfRequest(db, config, payload as RequestMail, (to, request) => tellOfWaiting(config, to, request));
  },
  async routine(payload) {
    await workOnRun(db, (payload as { runId: string }).runId);
  },
  async 'routine-mail'(payload) {
    await mailOfRoutine(db, config, payload as RoutineMail);
  },
  async 'report-mail'(payload) {
    await mailOfReport(db, config, payload as ReportMail);
  },
  async news(payload) {
    await tellNews(db, config, payload as NewsJob);
  },
  async ticket(payload, { job }) {
    await giveTicket(db, config, payload as TicketJob, job.attempts >= job.max_attempts);
  },
  async call(payload, { job }) {
    await callWebhook(db, config, payload as CallJob, job.attempts >= job.max_attempts);
  },
  async 'webhook-off'(payload) {
    await mailOfWebhook(db, config, payload as WebhookMail);
  },
  async scan(payload) {
    const { runId } = payload as { runId: string };
    await executeRun(db, config, runId);
    await afterRun(db, runId);
  },
};

const runner = await run({
  connectionString: config.databaseUrl,
  taskList: tasks,
  concurrency: 2,
  noHandleSignals: true,
  pollInterval: 2000,
});
const sweeping = setInterval(
  () =>
    void sweep(db).then(
      (ended) => {
        if (ended > 0) log.warn(`${ended} runs without a worker were ended`);
      },
      () => undefined,
    ),
  10_000,
);
const tendCertifications = certificationTender();
// What rules ask for and what breaks changes by itself, too.
const tendFollowing = followTender(600_000, 'priority', 'broken');
const tending = setInterval(
  () =>
    void Promise.all([
      tendBulkEdits(db),
      tendNotices(db),
      tendCertifications(db),
      tendLevels(db),
      tendFollowing(db),
    ]).catch((error: unknown) =>
      log.error(
        error,
        'changes of many, notices, certifications, levels, priorities or what is broken could not be tended',
      ),
    ),
  10_000,
);
const forgetting = setInterval(
  () =>
    void Promise.all([
      forgetEvents(db),
      forgetMessages(db),
      forgetNews(db),
      forgetTouched(db),
      forgetSignIns(db),
      forgetSights(db),
      forgetCalls(db),
      forgetAnswers(db),
    ]).catch(() => undefined),
  60_000,
);
// Where to look takes long, it rests ten times as long: a large catalog is not searched without a pause.
let keepingFrom = 0;
const keeping = setInterval(() => {
  const started = Date.now();
  if (started < keepingFrom) return;
  keepingFrom = Number.POSITIVE_INFINITY;
  tendMatches(db)
    .catch((error: unknown) => log.error(error, 'what policies hold for by their filters could not be kept'))
    .finally(() => {
      keepingFrom = Date.now() + 10 * (Date.now() - started);
    });
}, 30_000);
let looking = false;
const checking = setInterval(() => {
  if (looking) return;
  looking = true;
  tendEnforcements(db, config)
    .catch((error: unknown) => log.error(error, 'what a source holds of the policies could not be checked'))
    .finally(() => {
      looking = false;
    });
}, 15_000);
const reminding = setInterval(
  () => void remindOfRequests(db).catch((error: unknown) => log.error(error, 'nobody could be reminded of requests')),
  600_000,
);
const reporting = setInterval(() => {
  // Without mail they wait until there is some.
  if (!config.mail || !config.address) return;
  tendReports(db).catch((error: unknown) => log.error(error, 'the reports of this month could not be sent'));
}, 600_000);
const reviewing = setInterval(
  () => void tendReviews(db).catch((error: unknown) => log.error(error, 'reviews of rights could not be ended')),
  60_000,
);
let beginning = false;
const routines = setInterval(() => {
  if (beginning) return;
  beginning = true;
  Promise.all([beginDue(db), beginHeard(db), tendRuns(db)])
    .catch((error: unknown) => log.error(error, 'routines could not be begun, or gone on with'))
    .finally(() => {
      beginning = false;
    });
}, 5_000);
let sending = false;
const telling = setInterval(() => {
  if (sending) return;
  sending = true;
  tendWebhooks(db, config)
    .catch((error: unknown) => log.error(error, 'webhooks could not be told of what changed'))
    .finally(() => {
      sending = false;
    });
}, 1_000);
let newsAt = 0;
const news = setInterval(() => {
  const started = Date.now();
  if (started < newsAt) return;
  newsAt = Number.POSITIVE_INFINITY;
  tendNews(db)
    .then(() => tendNewsOut(db, config))
    .catch((error: unknown) => log.error(error, 'nobody could be told of what changed'))
    .finally(() => {
      newsAt = Date.now() + 1_000;
    });
}, 1_000);
const starting = setInterval(
  () =>
    void db
      .transaction((tx) => startDuePlans(tx))
      .then(
        (started) => started > 0 && log.info(`${started} planned runs were started`),
        (error: unknown) => log.error(error, 'planned runs could not be started'),
      ),
  5_000,
);
await sweep(db);
log.info('worker ready');
onStop(async () => {
  clearInterval(sweeping);
  clearInterval(starting);
  clearInterval(routines);
  clearInterval(tending);
  clearInterval(forgetting);
  clearInterval(keeping);
  clearInterval(checking);
  clearInterval(reminding);
  clearInterval(reviewing);
  clearInterval(reporting);
  clearInterval(telling);
  clearInterval(news);
  await runner.stop();
  await db.close();
});
