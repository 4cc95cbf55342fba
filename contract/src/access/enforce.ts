import {
  endpoint,
  flag,
  id,
  idParam,
  Joi,
  list,
  moment,
  nullable,
  type Of,
  oneOf,
  shape,
  text,
  whole,
  withDefault,
} from '../http/index.ts';

const named = shape({ id: text, name: text });
const readers = shape({
  role: text.description('The role of the database that they are members of.'),
  logins: list(text),
  people: list(named).description('Who comes in as these.'),
  rights: whole.description('Tables that they see as they stand, by a right on them.'),
  views: whole.description('Tables that they see by a view: masked, or with fewer rows or columns.'),
});

export const EnforcementAnswer = shape({
  offered: flag.description('Whether policies can be held by this source itself: by a PostgreSQL that Idrel reaches.'),
  why: nullable(text).description('Why not.'),
  credentialId: nullable(id).description('The credential of the role that makes it; null where none was chosen.'),
  credential: nullable(text),
  role: nullable(text),
  version: whole.description('0 where nothing was chosen yet.'),
  made: nullable(shape({ at: moment, by: nullable(text), readers: list(readers) })).description(
    'Null where nothing was made.',
  ),
  checked: nullable(
    shape({
      at: moment,
      looked: whole.description(
        'How many tables were read as their readers read them, of how many; each counted once for those who read alike.',
      ),
      of: whole,
      differences: list(shape({ role: text, table: text, what: text })).description(
        'What is read there otherwise than the policies say. At most 200.',
      ),
      drift: list(
        shape({
          what: oneOf(['gone', 'changed', 'added']),
          words: text,
          after: moment.description('The last look at which it was not so yet.'),
          readers: list(text).description(
            'Who reads by it, or could: people, or logins of whom nobody said who they are.',
          ),
        }),
      ).description('What was changed by hand of what was made. At most 200.'),
      outdated: flag.description('Whether the policies, the tables or who comes in have changed since it was made.'),
      problem: nullable(text).description('Why it could not be checked.'),
    }),
  ).description('Null until it was checked.'),
  accepted: nullable(shape({ reason: text, by: nullable(text), at: moment })).description(
    'When somebody last took what was changed by hand as it is.',
  ),
  mayChoose: flag.description('Whether you may choose the credential.'),
  mayMake: flag.description('Whether you may plan it, make it and take it back.'),
});
export type EnforcementAnswer = Of<typeof EnforcementAnswer>;

export const EnforcingPlanAnswer = shape({
  steps: list(shape({ why: text, sql: text })).description('At most 300; the text holds all of them.'),
  total: whole,
  text: text.description('All of it, as one transaction.'),
  back: text.description('What takes it back, as one transaction.'),
  digest: text.description('By which it is made as it was seen.'),
  same: flag.description('Whether it is what stands there already.'),
  readers: list(readers),
  tables: list(shape({ role: text, table: text, name: text, how: oneOf(['right', 'view']), told: text })).description(
    'Table by table how each is reached: under which name, and what of it is hidden. At most 300.',
  ),
  without: list(shape({ table: text, why: text })).description(
    'Tables that policies open and that stay closed there. At most 200.',
  ),
  needs: list(shape({ what: text, sql: text })).description('What the role lacks: without it nothing can be made.'),
  wants: list(shape({ what: text, sql: text })).description('What it could do more with.'),
  cautions: list(text),
});
export type EnforcingPlanAnswer = Of<typeof EnforcingPlanAnswer>;

export const EnforcementBody = shape({ credentialId: nullable(id) });
export const MadeBody = shape({ digest: Joi.string().length(64).hex() });
export const CheckBody = shape({
  accept: withDefault(nullable(Joi.string().trim().min(1).max(500)), null).description(
    'Why what was changed by hand stays as it is; null to look only.',
  ),
});

const MAY = { words: 'policy administrator in the domains of the source and of its tables' } as const;
const path = '/sources/:id/enforcement' as const;

export const enforceEndpoints = {
  enforcement: endpoint({
    id: 'enforcement',
    method: 'get',
    path,
    area: 'access',
    summary: 'How the policies are held by a source itself',
    may: { words: 'policy administrator or source administrator in the domain of the source' },
    params: idParam,
    answer: EnforcementAnswer,
    answers: 'What was made there, and what the last check found.',
  }),
  changeEnforcement: endpoint({
    id: 'changeEnforcement',
    method: 'put',
    path,
    area: 'access',
    summary: 'Choose the role that makes policies hold at a source',
    may: { words: 'source administrator in the domain of the source' },
    params: idParam,
    body: EnforcementBody,
    versioned: true,
    problems: ['still-used'],
    answer: EnforcementAnswer,
    answers: 'What stands now.',
  }),
  enforcingPlan: endpoint({
    id: 'enforcingPlan',
    method: 'post',
    path: `${path}/plan`,
    area: 'access',
    summary: 'The policies as roles, rights and views of a source',
    may: MAY,
    params: idParam,
    heavy: true,
    problems: ['source-unreachable', 'source-error', 'agent-only'],
    answer: EnforcingPlanAnswer,
    answers: 'Statements, what takes them back, and what the role lacks; nothing is run.',
  }),
  enforce: endpoint({
    id: 'enforce',
    method: 'post',
    path: `${path}/made`,
    area: 'access',
    summary: 'Make the policies hold at a source',
    may: MAY,
    params: idParam,
    body: MadeBody,
    heavy: true,
    problems: ['source-unreachable', 'source-error', 'agent-only', 'differs-now', 'still-used'],
    answer: EnforcementAnswer,
    answers: 'What was made, all of it or nothing, and what a first check found.',
  }),
  checkEnforcement: endpoint({
    id: 'checkEnforcement',
    method: 'post',
    path: `${path}/checks`,
    area: 'access',
    summary: 'Read a source as its readers do, and look what was changed by hand',
    may: MAY,
    params: idParam,
    body: CheckBody,
    heavy: true,
    problems: ['source-unreachable', 'source-error', 'agent-only'],
    answer: EnforcementAnswer,
    answers: 'What the check found.',
  }),
  endEnforcement: endpoint({
    id: 'endEnforcement',
    method: 'delete',
    path: `${path}/made`,
    area: 'access',
    summary: 'Take back what was made at a source',
    may: MAY,
    params: idParam,
    heavy: true,
    problems: ['source-unreachable', 'source-error', 'agent-only', 'still-used'],
    answer: EnforcementAnswer,
    answers: 'What stands now: nothing that was made.',
  }),
};
