import { NATIVE_HOW } from '@idrel/core/access';
import {
  endpoint,
  extended,
  flag,
  id,
  idParam,
  Joi,
  list,
  moment,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  role,
  shape,
  text,
  whole,
  withDefault,
} from '../http/index.ts';

const how = oneOf(NATIVE_HOW).description(
  '`grant`: a right that was given; `reads all`: by a role of the system whose members read everything; `owner`; `superuser`.',
);
const HOLDER = 'The role that holds the right; empty: everybody who can come in.';
const THROUGH = 'For `reads all`: the role of the system of which the holder is a member.';
const SCHEMA = 'The schema in which the right stands; null where it is one over everything.';
const roleName = Joi.string().max(200);

/** By what a right at a source is named. */
const which = shape({
  sourceId: id,
  how,
  holder: roleName.allow('').description(HOLDER),
  through: withDefault(nullable(roleName), null).description(THROUGH),
  schema: withDefault(nullable(Joi.string().max(200)), null).description(SCHEMA),
});
export type WhichBypass = Of<typeof which>;

const named = shape({ id: text, name: text });
const loginOfBypass = shape({
  login: text,
  chain: list(text).description('From the login to the role that holds the right, both in it.'),
  people: list(named).description(
    'Who comes in as it, as far as that was said and the policies keep something from them.',
  ),
  program: flag.description('Whether it was said to be a program’s.'),
});

export const BypassAnswer = shape({
  sourceId: text,
  source: text,
  how,
  holder: text.description(HOLDER),
  through: nullable(text).description(THROUGH),
  schema: nullable(text).description(SCHEMA),
  since: nullable(moment).description('When a scan first found it; null where that is not known.'),
  against: flag.description('Whether it gives what a policy keeps; else only what none allows.'),
  logins: list(loginOfBypass),
  policies: list(shape({ id: nullable(text), name: text })).description(
    'An id is null where you may not see the policy.',
  ),
  tables: number.description('Tables of which it opens something that it should not.'),
  columns: number,
  level: nullable(number).description('The highest level of these columns.'),
  shown: list(
    shape({
      tableId: text,
      table: text,
      column: text,
      level: nullable(number),
      told: oneOf(['masked', 'refused', 'fewer rows']).description('How the policies would have it read.'),
      policies: list(text),
    }),
  ).description('At most 200 of the columns, the most sensitive first.'),
  whole: flag.description('Whether it is a right on every table of its schema, or on everything.'),
  later: flag.description('Whether it opens tables that are made later as well.'),
  used: nullable(shape({ times: number, at: moment })).description(
    'How often somebody asked for one of the columns as one of these logins, and when the count last moved; null where nobody did, or the source does not count.',
  ),
  accepted: nullable(
    shape({
      id: text,
      reason: text,
      by: nullable(text),
      at: moment,
      until: nullable(moment),
      more: number.description('Columns that it opens beyond those for which it was accepted.'),
    }),
  ),
  mayMend: flag.description('Whether you may plan its end, and accept it.'),
});
export type BypassAnswer = Of<typeof BypassAnswer>;
export const BypassesAnswer = shape({
  items: list(BypassAnswer),
  sources: list(
    shape({
      id: text,
      name: text,
      readAt: moment,
      holds: nullable(flag).description(
        'Whether it holds the policies itself as they are; null where it was not made to, or was not looked at yet.',
      ),
    }),
  ).description('Sources whose rights were read, and when.'),
});
export type BypassesAnswer = Of<typeof BypassesAnswer>;

const step = shape({ why: text, sql: text, back: text });
export const ClosingPlanAnswer = shape({
  steps: list(step).description('At most 500; the texts hold all of them.'),
  total: whole.description('How many steps there are.'),
  text: text.description('The whole plan, as one transaction.'),
  back: text.description('What takes it back, as one transaction.'),
  cannot: list(text),
  cautions: list(text),
  tables: whole.description('Tables that it closes.'),
  loses: list(
    shape({
      login: text,
      people: list(named),
      program: flag,
      tables: number,
      columns: number,
      byPolicy: number.description(
        'Of these columns those that somebody who comes in as it reads as they are through the gateway.',
      ),
      used: nullable(shape({ times: number, at: moment })),
    }),
  ).description('Who would read what no more.'),
  still: list(
    shape({ login: text, tables: number, by: list(shape({ how, holder: text, through: nullable(text) })) }),
  ).description('Who would read what is to be closed all the same, by another right.'),
});
export type ClosingPlanAnswer = Of<typeof ClosingPlanAnswer>;

const party = shape({ id: text, name: text });
export const NativeRoleAnswer = shape({
  name: text,
  login: flag.description('Whether somebody can come in as it.'),
  comesIn: flag.description('Whether it may come into this database.'),
  superuser: flag,
  scans: flag.description(
    'Whether it is Idrel’s own: the source is scanned with it, or by it policies are made to hold there.',
  ),
  memberOf: list(text),
  people: list(party),
  groups: list(party),
  program: flag,
  said: nullable(shape({ by: nullable(text), at: moment })),
  suggestions: list(shape({ id: text, name: text, isGroup: flag, why: text })).description(
    'Who may come in as it, by its name; for logins of which nothing was said.',
  ),
  version: whole.description('0 where nothing was said yet.'),
});
export type NativeRoleAnswer = Of<typeof NativeRoleAnswer>;
export const NativeRolesAnswer = shape({
  readAt: nullable(moment).description('Null where rights of the source were never read.'),
  roles: list(NativeRoleAnswer),
  mayMatch: flag,
});
export type NativeRolesAnswer = Of<typeof NativeRolesAnswer>;

const ids = withDefault(list(id).max(500).unique(), []);
export const MatchBody = shape({
  role: roleName,
  personIds: ids,
  groupIds: ids,
  program: withDefault(Joi.boolean(), false).description('A program comes in as it: nobody else.'),
});
export type MatchBody = Of<typeof MatchBody>;

/** A right at the source by which somebody reads a table. */
export const NativeWayAnswer = shape({
  login: text,
  how,
  holder: text.description(HOLDER),
  through: nullable(text).description(THROUGH),
  chain: list(text),
  columns: nullable(list(text)).description('Null for all.'),
  since: nullable(moment),
  limited: flag.description('Whether row policies of the table itself limit what comes.'),
});
export type NativeWayAnswer = Of<typeof NativeWayAnswer>;

const MAY_MEND = { words: 'policy administrator in the domain of the source' } as const;

export const PlanBody = extended(which, {
  scope: oneOf(['these', 'schema', 'all']).description(
    'The tables of which it opens what it should not; all that it opens in the schema; all that it opens.',
  ),
  tableIds: withDefault(list(id).max(1000).unique(), []).description('Of these tables only some; none: all of them.'),
  keepColumns: withDefault(Joi.boolean(), true).description('Columns that no policy keeps from anybody stay open.'),
  later: withDefault(Joi.boolean(), true).description('Tables that are made later are closed to it as well.'),
});
export type PlanBody = Of<typeof PlanBody>;
export const AcceptBody = extended(which, {
  reason: Joi.string().trim().min(1).max(500),
  until: withDefault(nullable(moment), null).description('When it is to be looked at again.'),
});
export type AcceptBody = Of<typeof AcceptBody>;

export const nativeEndpoints = {
  bypasses: endpoint({
    id: 'bypasses',
    method: 'get',
    path: '/access/bypasses',
    area: 'access',
    summary: 'Rights at the sources that give more than the policies do',
    may: role('policy administrator', 'any domain'),
    query: shape({
      source: optional(id),
      policy: optional(id).description('Only those that give what this policy keeps.'),
      asset: optional(id).description('Only those that open this table, or something below it.'),
    }),
    heavy: true,
    problems: ['not-found'],
    answer: BypassesAnswer,
    answers:
      'Each right with who reads by it and what it opens, of tables in domains whose policies you administer. What the role that scans can read counts not. At most 200, those against a policy first.',
  }),
  closingPlan: endpoint({
    id: 'closingPlan',
    method: 'post',
    path: '/access/bypasses/plan',
    area: 'access',
    summary: 'A plan that closes a right at a source, with what takes it back',
    may: MAY_MEND,
    body: PlanBody,
    heavy: true,
    problems: ['not-found'],
    answer: ClosingPlanAnswer,
    answers: 'Statements for whoever runs the database, and who would lose what by them; nothing is run.',
  }),
  accept: endpoint({
    id: 'acceptBypass',
    method: 'put',
    path: '/access/bypasses/accepted',
    area: 'access',
    summary: 'Accept that a right at a source gives more than the policies do',
    may: MAY_MEND,
    body: AcceptBody,
    heavy: true,
    problems: ['not-found'],
    answers: 'Nothing. What it opens beyond what it opens now is told all the same.',
  }),
  accepted: endpoint({
    id: 'forgetAccepted',
    method: 'delete',
    path: '/access/bypasses/accepted/:id',
    area: 'access',
    summary: 'Accept a right at a source no longer',
    may: MAY_MEND,
    params: idParam,
    answers: 'Nothing.',
  }),
  roles: endpoint({
    id: 'nativeRoles',
    method: 'get',
    path: '/sources/:id/native-roles',
    area: 'access',
    summary: 'Roles at a source, and who comes in as them',
    may: { words: 'policy administrator in any domain' },
    params: idParam,
    answer: NativeRolesAnswer,
    answers: 'Logins first; at most 2000.',
  }),
  match: endpoint({
    id: 'matchNativeRole',
    method: 'put',
    path: '/sources/:id/native-roles',
    area: 'access',
    summary: 'Say who comes in as a role',
    may: MAY_MEND,
    params: idParam,
    body: MatchBody,
    versioned: true,
    answer: NativeRoleAnswer,
    answers: 'The role.',
  }),
};
