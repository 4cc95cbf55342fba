import { LISTED_FIELDS } from '@idrel/core/people';
import { FileAnswer, Flaw } from '../curation/sheets.ts';
import { endpoint, flag, Joi, list, type Of, oneOf, optional, shape, text, whole, withDefault } from '../http/index.ts';

const administrator = { words: 'administrator everywhere' } as const;
/** So many people may be new or changed in one file. */
export const DIRECTORY_MOST = 2000;

export const DirectoryChange = shape({
  fresh: list(shape({ at: text, email: text, name: text, job: text, groups: list(text) })).description(
    'People who are new: the first 500.',
  ),
  freshCount: whole,
  changed: list(
    shape({
      at: text,
      id: text,
      name: text,
      fields: list(shape({ field: oneOf(LISTED_FIELDS), before: text, after: text })),
    }),
  ).description('People of whom something changes: the first 500.'),
  changedCount: whole,
  same: whole,
  absent: list(shape({ id: text, name: text })).description('Who is in Idrel and not in the file: the first 500.'),
  absentCount: whole,
  flaws: list(Flaw).description('The first 500.'),
  flawCount: whole,
  notKept: list(shape({ what: text, times: whole })),
  seen: text.description(
    'What was compared: the import names it, and is refused where something else would come of it.',
  ),
  invited: whole.description('How many were sent a link to set a password.'),
  written: flag,
});
export type DirectoryChange = Of<typeof DirectoryChange>;

export const directoryEndpoints = {
  exported: endpoint({
    id: 'exportDirectory',
    method: 'get',
    path: '/people-file',
    area: 'people',
    summary: 'People as a file',
    may: administrator,
    query: shape({ format: oneOf(['csv', 'xlsx'] as const) }),
    heavy: true,
    answer: FileAnswer,
    answers: 'Everybody who has not left, with job and groups. The import takes it back.',
  }),
  imported: endpoint({
    id: 'importDirectory',
    method: 'post',
    path: '/people-file',
    area: 'people',
    summary: 'Take people in from a file',
    may: administrator,
    query: shape({ preview: withDefault(Joi.boolean(), false) }),
    body: shape({
      name: Joi.string().min(1).max(255).description('Its ending says what it is: .csv or .xlsx.'),
      content: Joi.string().base64().max(14_000_000),
      leave: withDefault(list(Joi.string().max(100)).max(20_000), []).description(
        'Lines of the file that are to be left (`at`).',
      ),
      invite: withDefault(Joi.boolean(), false).description(
        'Whether those who are new are sent a link to set a password.',
      ),
      seen: optional(Joi.string().max(100)).description('What the preview said.'),
    }),
    bodyBytes: 16 << 20,
    heavy: true,
    problems: ['differs-now', 'no-mail'],
    answer: DirectoryChange,
    answers:
      'Who is new, changed, the same, or not in the file; with `preview` nothing is written. Roles are given by hand: a file gives none, and takes none.',
  }),
};
