import { type Problem, type ProblemCode, statusOf } from '@idrel/contract/http';

/** An error that is answered as problem+json; anything else that is thrown becomes a 500 without details. */
export class ApiProblem extends Error {
  readonly status: number;
  readonly code: ProblemCode;
  readonly more: Partial<Problem>;
  constructor(code: ProblemCode, detail: string, more: Partial<Problem> = {}) {
    super(detail);
    this.name = 'ApiProblem';
    this.status = statusOf(code);
    this.code = code;
    this.more = more;
  }
}

export const notFound = (what: string): ApiProblem =>
  new ApiProblem('not-found', `${what} is not there, or you may not see it.`);
export const forbidden = (rights: string): ApiProblem =>
  new ApiProblem('forbidden', `You do not have the right to do this: it takes the role ${rights}.`, {
    mend: 'Ask an administrator of the domain for the role.',
  });
export const conflict = (code: ProblemCode, detail: string, mend?: string): ApiProblem =>
  new ApiProblem(code, detail, mend ? { mend } : {});
const changedMeanwhile = (current: unknown): ApiProblem =>
  new ApiProblem('changed-meanwhile', 'Somebody else changed this after you opened it. Nothing of yours was saved.', {
    current,
    mend: 'Compare with what stands there now, then save again.',
  });
export const versionMissing = (): ApiProblem =>
  new ApiProblem('version-missing', 'The edit did not say which version it is an edit of.', {
    mend: 'Send If-Match with the version you saw.',
  });
/**
 * An edit must name the version that it is an edit of, and that must still be the one which stands there.
 * @throws 428 when it names none; 412 with what stands there now when somebody else was quicker
 */
export function mustBeCurrent(version: number | undefined, current: { readonly version: number }): void {
  if (version === undefined) throw versionMissing();
  if (version !== current.version) throw changedMeanwhile(current);
}
export const invalid = (detail: string, mend: string, fields: Problem['fields'] = []): ApiProblem =>
  new ApiProblem('invalid', detail, { mend, fields });

const TITLES: Record<number, string> = {
  400: 'Bad request',
  401: 'Not signed in',
  403: 'Not permitted',
  404: 'Not found',
  409: 'Conflict',
  410: 'Ended',
  412: 'Changed meanwhile',
  413: 'Too large',
  415: 'Kind not taken',
  422: 'Does not fit',
  428: 'Version missing',
  429: 'Too many requests',
};

export const toProblem = (error: ApiProblem): Problem => ({
  type: `https://idrel.invalid/problems/${error.code}`,
  title: TITLES[error.status] ?? 'Error',
  status: error.status,
  code: error.code,
  detail: error.message,
  ...error.more,
});

/** Turns the database's refusal of a name that is there already into words; any other error is thrown on. */
export function nameTaken(error: unknown, name: unknown): never {
  if ((error as { name?: string }).name === 'SequelizeUniqueConstraintError')
    throw conflict('name-taken', `There already is one named “${String(name)}”.`, 'Choose another name.');
  throw error;
}

const within = (error: unknown): { code?: string; constraint?: string } =>
  (error as { original?: { code?: string; constraint?: string } }).original ?? (error as { code?: string });

/** Two changes waited for each other, and this one was taken back. */
export const isTangled = (error: unknown): boolean => ['40P01', '40001'].includes(within(error).code ?? '');

/**
 * What any error is answered as. Those that come from what was asked for say so; anything else is an error of Idrel's own, of which nothing is told.
 */
export function toApiProblem(error: unknown): ApiProblem {
  if (error instanceof ApiProblem) return error;
  const { code } = within(error);
  if (code === '23503')
    return invalid(
      'It names something that is not there, or that was removed meanwhile.',
      'Load it anew, and choose again.',
    );
  if (isTangled(error) || code === '55P03')
    return conflict('busy', 'Somebody else was changing the same things; nothing of this was done.', 'Try again.');
  if (code === '53300' || code === '57P01' || code === '57P03')
    return new ApiProblem('no-database', 'The database is not there at the moment; nothing was done.', {
      mend: 'Try again in a moment.',
    });
  if ((error as { status?: number }).status === 400)
    return new ApiProblem('bad-request', 'The address or the request cannot be read.', {
      mend: 'Check how it is written.',
    });
  return new ApiProblem('internal', 'Something went wrong in Idrel itself; nothing was changed.', {
    mend: 'Try again; the log of the server says more.',
  });
}
