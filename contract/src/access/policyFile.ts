import { FileAnswer, Flaw } from '../curation/sheets.ts';
import {
  endpoint,
  flag,
  Joi,
  list,
  moment,
  type Of,
  oneOf,
  optional,
  shape,
  text,
  whole,
  withDefault,
} from '../http/index.ts';
import { attributeKey } from '../people/index.ts';
import { ReachAnswer } from './reach.ts';
import { hours, howFar, least, mask, purpose } from './shapes.ts';

/** So many policies may be new, changed or removed by one file. */
export const POLICY_FILE_MOST = 2000;
const may = { words: 'policy administrator in the domains of what each policy is about' } as const;
const names = (longest: number) => optional(list(Joi.string().trim().min(1).max(longest)).max(500).unique());

/** A policy as a file has it: by names. */
export const PolicyInFile = shape({
  name: Joi.string().trim().min(1).max(160),
  effect: oneOf(['allow', 'protect', 'deny']),
  enabled: optional(Joi.boolean()),
  for: shape({
    everyone: optional(Joi.boolean()),
    groups: names(120),
    people: names(200).description('E-mail addresses.'),
    exceptGroups: names(120),
  }),
  on: shape({
    assets: names(4000).description('Addresses, as `Warehouse/mart/traveller_contact`.'),
    classes: names(80),
    filter: optional(Joi.string().trim().min(1).max(2000)),
    columns: names(63),
    allBut: names(63),
    carried: optional(Joi.boolean()),
  }),
  mask: optional(mask),
  rows: optional(
    shape({
      column: Joi.string().max(63),
      values: optional(list(Joi.string().max(200)).max(200)),
      attribute: optional(attributeKey),
      through: optional(
        shape({
          table: Joi.string().max(4000),
          column: Joi.string().max(63),
          reader: Joi.string().max(63),
          by: attributeKey,
        }),
      ),
      least: optional(least).description('Told only together: so many different values of the column at least.'),
    }),
  ),
  until: optional(moment),
  hours: optional(hours),
  purposes: optional(list(purpose).max(20).unique()),
  opens: optional(howFar),
  passesOn: optional(Joi.boolean()),
});

export const PolicyFilePlan = shape({
  fresh: list(shape({ at: text, name: text, effect: text })),
  changed: list(shape({ at: text, name: text, fields: list(shape({ field: text, before: text, after: text })) })),
  same: whole,
  absent: list(text).description('Policies that the file does not have: they stay, unless `removeAbsent` is said.'),
  removed: whole.description('How many of these go.'),
  flaws: list(Flaw),
  reach: ReachAnswer.description('What would change for whom; what lineage carries on is not told here.'),
  seen: text.description('What was compared: applying names it, and is refused where something else would come of it.'),
  written: flag,
});
export type PolicyFilePlan = Of<typeof PolicyFilePlan>;

export const policyFileEndpoints = {
  policiesOut: endpoint({
    id: 'exportPolicies',
    method: 'get',
    path: '/policies-file',
    area: 'access',
    summary: 'Policies as a file',
    may: 'signed in',
    query: shape({ format: oneOf(['yaml', 'odrl']) }),
    heavy: true,
    answer: FileAnswer,
    answers:
      'Those that you may change, by names: YAML to be kept in a repository, or ODRL (JSON-LD). What answers requests is not among them. The import takes both back.',
  }),
  policiesIn: endpoint({
    id: 'importPolicies',
    method: 'post',
    path: '/policies-file',
    area: 'access',
    summary: 'Take policies in from a file',
    may,
    query: shape({ preview: withDefault(Joi.boolean(), false) }),
    body: shape({
      name: Joi.string().min(1).max(255).description('Its ending says what it is: .yaml, .yml, .json or .jsonld.'),
      content: Joi.string().base64().max(6_000_000),
      leave: withDefault(list(Joi.string().max(400)).max(20_000), []).description(
        'Places of what is to be left (`at`).',
      ),
      removeAbsent: withDefault(Joi.boolean(), false).description(
        'Whether policies of yours that the file does not have go; none does while something in the file cannot be taken.',
      ),
      seen: optional(Joi.string().max(100)).description('What the preview said.'),
    }),
    bodyBytes: 8 << 20,
    heavy: true,
    problems: ['differs-now', 'name-taken'],
    answer: PolicyFilePlan,
    answers:
      'What is new, changed, the same, or not in the file, and who gains or loses what; with `preview` nothing is written.',
  }),
};
