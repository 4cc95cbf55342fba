import type { Problem } from '@idrel/contract/http';

/** An error that is answered as problem+json; anything else that is thrown becomes a 500 without details. */
export class ApiProblem extends Error {
  readonly status: number;
  readonly code: string;
  readonly more: Partial<Problem>;
  constructor(status: number, code: string, detail: string, more: Partial<Problem> = {}) {
    super(detail);
    this.name = 'ApiProblem';
    this.status = status;
    this.code = code;
    this.more = more;
  }
}

export const notFound = (what: string): ApiProblem => new ApiProblem(404, 'not-found', `${what} is not there, or you may not see it.`);
export const forbidden = (rights: string): ApiProblem =>
  new ApiProblem(403, 'forbidden', `You do not have the right to do this: it takes the role ${rights}.`, { mend: 'Ask an administrator of the domain for the role.' });
export const conflict = (code: string, detail: string, mend?: string): ApiProblem => new ApiProblem(409, code, detail, mend ? { mend } : {});
const changedMeanwhile = (current: unknown): ApiProblem =>
  new ApiProblem(412, 'changed-meanwhile', 'Somebody else changed this after you opened it. Nothing of yours was saved.', { current, mend: 'Compare with what stands there now, then save again.' });
/**
 * An edit must name the version that it is an edit of, and that must still be the one which stands there.
 * @throws 428 when it names none; 412 with what stands there now when somebody else was quicker
 */
export function mustBeCurrent(version: number | undefined, current: { readonly version: number }): void {
  if (version === undefined) throw new ApiProblem(428, 'version-missing', 'The edit did not say which version it is an edit of.', { mend: 'Send If-Match with the version you saw.' });
  if (version !== current.version) throw changedMeanwhile(current);
}
export const invalid = (detail: string, mend: string, fields: Problem['fields'] = []): ApiProblem => new ApiProblem(422, 'invalid', detail, { mend, fields });

const TITLES: Record<number, string> = {
  400: 'Bad request',
  401: 'Not signed in',
  403: 'Not permitted',
  404: 'Not found',
  409: 'Conflict',
  412: 'Changed meanwhile',
  413: 'Too large',
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
  if ((error as { name?: string }).name === 'SequelizeUniqueConstraintError') throw conflict('name-taken', `There already is one named “${String(name)}”.`, 'Choose another name.');
  throw error;
}
