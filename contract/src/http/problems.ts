import type { Endpoint, May } from './index.ts';

/** An error as RFC 9457 describes it, with what Idrel adds. */
export interface Problem {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  /** Stable, for programs. */
  readonly code: ProblemCode;
  readonly detail: string;
  /** What to do about it. */
  readonly mend?: string;
  /** Of input that does not fit: which field, and what is wrong with it. */
  readonly fields?: readonly { readonly field: string; readonly message: string }[];
  /** Of an edit that met another one: what stands there now. Of a refused statement: what each table lets this person do. */
  readonly current?: unknown;
}

const told = <const T extends Record<string, readonly [status: number, means: string]>>(problems: T) => problems;

/** Every problem that an answer can be, by its code: with the status it is answered with, and when it comes. */
export const PROBLEMS = told({
  'bad-request': [400, 'The address or the request cannot be read.'],
  'not-json': [400, 'The body is not JSON in UTF-8.'],
  'too-deep': [400, 'The body holds lists within lists, more than is taken.'],
  'not-signed-in': [401, 'Nobody is signed in, or the session has ended.'],
  'unknown-agent': [401, 'The key is that of no agent.'],
  'unknown-key': [401, 'The key is not known, has ended, or its person has left.'],
  'unknown-pipeline': [401, 'No source takes events by this key.'],
  'unknown-chat': [401, 'The secret is not that of the chat that this server speaks with.'],
  'unknown-tracker': [401, 'The secret is not that of the tracker that this server speaks with.'],
  'wrong-sign-in': [401, 'Name and password do not belong together.'],
  forbidden: [403, 'It takes a right that you do not have.'],
  'foreign-origin': [403, 'A page of another site asked for a change.'],
  'key-scope': [403, 'The key of the program does not reach so far.'],
  'token-missing': [403, 'A change came without the token of the session.'],
  'refused-column': [403, 'A policy keeps a column, or some of its rows, from you.'],
  'refused-no-access': [403, 'The statement reads a table that no policy opens for you.'],
  'not-found': [404, 'It is not there, or you may not see it.'],
  'no-work-database': [409, 'This server has no database in which statements over such a source could run.'],
  'agent-only': [409, 'The source is reached by agents only, and this cannot be asked of one.'],
  'ask-ended': [409, 'What the agent answers is not waited for any more.'],
  'asked-already': [409, 'You have asked for it already, and are waiting for the answer.'],
  'begun-already': [409, 'It was begun already.'],
  busy: [409, 'Somebody else was changing the same things; nothing was done.'],
  'checklist-open': [409, 'What the checklist asks of the asset is not all so: `current` says what is open.'],
  'class-guards': [409, 'A policy rests on the class.'],
  'class-in-combination': [409, 'A detector looks for the class beside another.'],
  'class-in-rule': [409, 'A rule of levels names the class.'],
  'class-searched': [409, 'A routine searches for the class.'],
  'count-changed': [409, 'Other columns carry the class now than were seen.'],
  'count-differs': [409, 'The source holds another number of assets now than was seen.'],
  'decided-meanwhile': [409, 'Somebody decided the finding since it was seen.'],
  'call-under-way': [409, 'A call with this idempotency key is under way, or nobody knows how it ended.'],
  'differs-now': [409, 'Something else would come of it now than was seen.'],
  'documented-already': [409, 'The new asset has been documented already: a rename would write over it.'],
  'finds-other': [409, 'The routine finds other assets now than were seen.'],
  'last-administrator': [409, 'Nobody would be left who may change what holds for everybody.'],
  'gone-meanwhile': [409, 'Something that it names is not there any more, or is not the only one of its name.'],
  'moved-on': [409, 'What a rename is about has changed since.'],
  'name-taken': [409, 'Another one has this name.'],
  'no-agent': [409, 'No agent of the group is there.'],
  'no-values': [409, 'There are no values to be read there.'],
  'not-pushed': [409, 'The source is not one that programs push to.'],
  'not-undoable': [409, 'It cannot be taken back any more, or is not done yet.'],
  'not-retired': [409, 'The class is in use.'],
  'nothing-failed': [409, 'Nothing of the run failed.'],
  'other-class': [409, 'A detector keeps its class.'],
  'run-ended': [409, 'The run has ended.'],
  'run-going': [409, 'The source is being scanned already.'],
  'secret-unreadable': [409, 'The secret cannot be read with the key of this server.'],
  'set-used': [409, 'A plan uses the set of detectors.'],
  'settled-already': [409, 'Somebody has settled it already.'],
  'source-unreachable': [409, 'The source cannot be reached, or refuses the credential.'],
  'still-used': [409, 'Something uses it still.'],
  undone: [409, 'It was undone already.'],
  'no-tracker': [409, 'There is no tracker: none is set up.'],
  'no-mail': [409, 'No mail can be sent: none is set up.'],
  'events-forgotten': [410, 'What would come next is kept no more.'],
  'link-ended': [410, 'The link was used, or its time is over.'],
  'changed-meanwhile': [412, 'Somebody else changed it since you saw it: `current` says what stands there now.'],
  'other-format': [406, 'It is not served in a format that was asked for.'],
  'not-offered': [501, 'It is not offered in the form that was asked for.'],
  'too-large': [413, 'The body is larger than the operation takes.'],
  packed: [415, 'The body is packed; it is taken only as it is.'],
  'other-kind': [415, 'The body is of another kind than JSON in UTF-8.'],
  invalid: [422, 'What was sent does not fit: `fields` says where.'],
  'too-long': [422, 'It took longer than one operation may; nothing was changed.'],
  'too-much-memory': [422, 'It needs more memory than one operation may take; nothing was changed.'],
  'query-stopped': [422, 'The query took longer than its bounds, or was stopped by the source.'],
  'row-too-large': [422, 'A row of the answer is larger than is carried.'],
  'refused-syntax': [422, 'The statement cannot be read.'],
  'refused-statement': [422, 'It is not one SELECT.'],
  'refused-construct': [422, 'The statement holds something that cannot be checked.'],
  'refused-function': [422, 'The statement calls a function that may not be called.'],
  'refused-type': [422, 'The statement names a type that may not be used.'],
  'refused-unknown-table': [422, 'The statement reads a table that the catalog does not know.'],
  'refused-together': [422, 'The statement asks for more than groups that are large enough may tell.'],
  'refused-source': [422, 'Something in the source itself stands in the way of a safe answer.'],
  'call-differs': [422, 'The idempotency key was sent before, with something else.'],
  'version-missing': [428, 'If-Match does not name the version you saw.'],
  'too-many-keys': [409, 'You have as many keys as may be.'],
  'too-many-calls': [429, 'The key of the program has made as many calls as it may in a minute.'],
  'too-many-events': [429, 'Events come faster than they are put together.'],
  'too-many-streams': [429, 'As many streams of events are open as one person may have, or the server.'],
  'too-many-queries': [429, 'You, or all together, have as many queries under way as may be.'],
  'too-many-tries': [429, 'There were too many tries to sign in, or to have links sent.'],
  'too-much-at-once': [429, 'As much as may be is under way already.'],
  gone: [499, 'The reader went away.'],
  internal: [500, 'Something went wrong in Idrel itself; nothing was changed.'],
  'source-error': [502, 'The source could not answer.'],
  'no-database': [503, 'The database of Idrel is not there at the moment.'],
  'agent-silent': [504, 'No agent answered in time.'],
});
export type ProblemCode = keyof typeof PROBLEMS;
export const statusOf = (code: ProblemCode): number => PROBLEMS[code][0];

/** What any operation can meet, whatever it does. */
const ALWAYS: readonly ProblemCode[] = ['bad-request', 'internal', 'no-database', 'busy'];
const BODY: readonly ProblemCode[] = ['not-json', 'too-deep', 'too-large', 'packed', 'other-kind', 'invalid'];
/** What can come of work in a thread of its own: of heavy operations, and of statements that are long. */
export const THREAD_PROBLEMS = ['too-long', 'too-much-memory', 'too-much-at-once'] as const;

/** What can come of asking a source something, straight or by an agent. */
export const SOURCE_PROBLEMS = ['source-unreachable', 'secret-unreadable', 'no-agent', 'agent-silent'] as const;
/** What can come of a statement that passes through the gateway. */
export const QUERY_PROBLEMS = [
  'refused-syntax',
  'refused-statement',
  'refused-construct',
  'refused-function',
  'refused-type',
  'refused-unknown-table',
  'refused-source',
  'refused-together',
  'refused-no-access',
  'refused-column',
  'query-stopped',
  'row-too-large',
  'source-error',
  'secret-unreadable',
  'too-many-queries',
  'agent-only',
  'no-work-database',
  'gone',
] as const;

/** Whether it is called by programs with a key of their own, without anybody's session. */
export const isByKey = (may: May): may is 'an agent' | 'a pipeline' | 'a chat' | 'a tracker' =>
  may === 'an agent' || may === 'a pipeline' || may === 'a chat' || may === 'a tracker';

/** Every problem that an operation can be answered with: those that follow from its kind, and those that it names itself. */
export function problemsOf(endpoint: Endpoint): ReadonlySet<ProblemCode> {
  const {
    may,
    method,
    params,
    query,
    body,
    lines,
    versioned,
    heavy,
    heavyFrom,
    asOther,
    partners,
    problems = [],
  } = endpoint;
  const when = (holds: unknown, ...codes: readonly ProblemCode[]) => (holds ? codes : []);
  return new Set<ProblemCode>([
    ...ALWAYS,
    ...when(may === 'an agent', 'unknown-agent'),
    ...when(may === 'a pipeline', 'unknown-pipeline'),
    ...when(may === 'a chat', 'unknown-chat'),
    ...when(may === 'a tracker', 'unknown-tracker'),
    ...when(may !== 'anybody' && !isByKey(may), 'not-signed-in'),
    ...when(!isByKey(may), 'unknown-key', 'key-scope', 'too-many-calls'),
    ...when(method !== 'get' && !lines && may !== 'anybody' && !isByKey(may), 'call-under-way', 'call-differs'),
    ...when(typeof may === 'object' || asOther !== undefined || (may === 'signed in' && !partners), 'forbidden'),
    ...when(method !== 'get' && !isByKey(may), 'foreign-origin', 'token-missing'),
    ...when(params, 'not-found'),
    ...when(params ?? query, 'invalid'),
    ...when(body, ...BODY),
    ...when(lines, 'packed', 'other-kind', 'invalid'),
    ...when(versioned, 'changed-meanwhile', 'version-missing'),
    ...when(heavy ?? heavyFrom, ...THREAD_PROBLEMS),
    ...problems,
  ]);
}
