import { STANDINGS } from '@idrel/core/catalog';
import { TERM_MOST, TERM_STATUSES } from '@idrel/core/glossary';
import { VALUE_KINDS } from '@idrel/core/lineage';
import { tagFields } from '../curation/index.ts';
import {
  either,
  endpoint,
  flag,
  Joi,
  list,
  moment,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  record,
  type Scope,
  shape,
  THREAD_PROBLEMS,
  text,
  whole,
  withDefault,
} from '../http/index.ts';
import { PUSHED_KINDS } from '../sources/index.ts';

/** An asset as lines name it: by its readable address, or by its id. */
const of = Joi.string()
  .max(4000)
  .pattern(
    /^(\/at\/.+|[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12})$/,
    'an address as in /at/Warehouse/core/passenger, or an id',
  );
const name = Joi.string()
  .min(1)
  .max(1000)
  .pattern(/^\P{Cc}*$/u, 'a name without control characters');
const comment = optional(Joi.string().allow('').max(20_000));
const facts = optional(
  record(nullable(either(Joi.string().allow('').max(20_000), Joi.number(), Joi.boolean())), 60).max(50),
).description('What the source says of it, by name.');
const called = Joi.string().trim().min(1).max(400);

/** What a source that programs push to holds. What a line does not speak of stays; where it speaks of columns, it has all of them, with all that is known of each. */
export const AssetLine = shape({
  of: Joi.string()
    .max(4000)
    .pattern(/^\/at\/[^/]+\/.+$/, 'an address as in /at/Harbour feed/berths/log')
    .description('The source and the names from the top, as in `/at/Harbour%20feed/berths/log`.'),
  kind: oneOf(PUSHED_KINDS.filter((kind) => kind !== 'column')),
  comment,
  facts,
  rows: optional(Joi.number().min(0)),
  columns: optional(
    list(
      shape({
        name,
        type: optional(Joi.string().max(500)),
        nullable: optional(Joi.boolean()),
        comment,
        facts,
        values: optional(list(nullable(Joi.string().allow('').max(4000))).max(10_000)).description(
          'A sample: it is profiled and recognised, and not kept.',
        ),
      }),
    )
      .max(10_000)
      .unique('name'),
  ).description('All that it has; left out: they stay as they are.'),
});
export type AssetLine = Of<typeof AssetLine>;

/** What people say of an asset, that a line can say. */
export const SAID_FIELDS = ['description', 'owner', 'stewards', 'custodians', 'terms', 'tags', 'standing'] as const;
export type SaidField = (typeof SAID_FIELDS)[number];
/** What people say of an asset: what a line does not speak of stays. */
export const SaidLine = shape({
  of,
  description: optional(nullable(Joi.string().trim().allow('').max(20_000))),
  owner: optional(nullable(called)).description(
    'A person or a group: by name, or where several have it by e-mail address, or as `group/` and the name.',
  ),
  stewards: optional(list(called).max(20)),
  custodians: optional(list(called).max(20)),
  terms: optional(list(called).max(50)).description('By name, or as scheme/name.'),
  tags: optional(list(called).max(50)).description('By name, with a value as name/value.'),
  standing: optional(oneOf(STANDINGS)),
  keep: withDefault(list(oneOf(SAID_FIELDS)).unique(), []).description(
    'Where somebody decided one of these by hand last, theirs stays, and the answer says whose it is.',
  ),
});
export type SaidLine = Of<typeof SaidLine>;

export const TermOfLine = shape({
  name: Joi.string().trim().min(1).max(TERM_MOST.name),
  scheme: optional(called).description('Left out: the first one.'),
  definition: optional(Joi.string().trim().allow('').max(TERM_MOST.text)),
  alternatives: optional(list(Joi.string().trim().min(1).max(TERM_MOST.name)).max(TERM_MOST.labels)),
  broader: optional(list(called).max(TERM_MOST.broader)).description('Terms of the same scheme, by name.'),
  status: optional(oneOf(TERM_STATUSES)),
  owner: optional(nullable(called)).description('A person, by e-mail address.'),
});
export type TermOfLine = Of<typeof TermOfLine>;

/** A tag, known by its name. */
export const TagOfLine = shape({
  name: tagFields.name,
  description: optional(tagFields.description),
  permitted: optional(tagFields.permitted),
  kinds: optional(tagFields.kinds),
});
export type TagOfLine = Of<typeof TagOfLine>;

/** A person, known by the e-mail address. What they may do is not said by lines. */
export const PersonOfLine = shape({
  email: Joi.string().email({ tlds: false }).max(200),
  name: optional(Joi.string().trim().min(1).max(120)),
  job: optional(Joi.string().trim().allow('').max(120)),
  groups: optional(list(called).max(200)).description('All groups that they are in, by name; left out: they stay.'),
});
export type PersonOfLine = Of<typeof PersonOfLine>;

/** An edge of lineage, as a person says one. */
export const EdgeOfLine = shape({
  from: of,
  to: of,
  kind: withDefault(oneOf(VALUE_KINDS), 'copied'),
  note: withDefault(Joi.string().trim().allow('').max(2000), ''),
});
export type EdgeOfLine = Of<typeof EdgeOfLine>;

/** Kinds of lines, and what a key of a program needs for each. */
export const LINE_SCOPES = {
  asset: 'scan',
  said: 'write',
  edge: 'lineage',
  term: 'write',
  tag: 'write',
  person: 'admin',
} as const satisfies Record<string, Scope>;
export type LineKind = keyof typeof LINE_SCOPES;

/** One line: one thing, under the name of its kind. */
export const Line = shape({
  asset: optional(AssetLine),
  said: optional(SaidLine),
  edge: optional(EdgeOfLine),
  term: optional(TermOfLine),
  tag: optional(TagOfLine),
  person: optional(PersonOfLine),
})
  .length(1)
  .messages({
    'object.length': 'a line says one thing, under the name of its kind: asset, said, edge, term, tag or person',
  });
export type Line = Of<typeof Line>;

export const LINE_OUTCOMES = ['made', 'changed', 'same', 'refused'] as const;
export const LineAnswer = shape({
  line: whole.description('Which line, from 1.'),
  outcome: oneOf(LINE_OUTCOMES),
  id: optional(text).description('Of what the line is about.'),
  changes: optional(list(shape({ field: text, before: text, after: text }))).description(
    'Of what people say: what is other now.',
  ),
  kept: optional(list(shape({ field: text, by: text, at: moment }))).description(
    'Of what people say: what somebody decided by hand, and is as they left it.',
  ),
  code: optional(text),
  why: optional(text),
  mend: optional(text),
});
export type LineAnswer = Of<typeof LineAnswer>;
/** The last line of an answer: without it, the answer is not whole. */
export const LinesEnd = shape({
  end: flag,
  lines: number,
  made: number,
  changed: number,
  same: number,
  refused: number,
  problem: optional(text).description('Why the rest was not read.'),
});
export type LinesEnd = Of<typeof LinesEnd>;

export const lineEndpoints = {
  take: endpoint({
    id: 'takeLines',
    method: 'post',
    path: '/lines',
    area: 'exchange',
    summary: 'Say many things, a line each',
    may: 'signed in',
    query: shape({ preview: withDefault(Joi.boolean(), false).description('Only say what would come of it.') }),
    lines: Line,
    stream: 'lines',
    answer: either(LineAnswer, LinesEnd),
    problems: [...THREAD_PROBLEMS],
    answers:
      'As NDJSON, while it is read: what became of each line, in their order, and at the end how many of each. What is said again changes nothing. A line that is refused says why, and holds up no other. Keys need for each line the scope of its kind: assets scan, edges lineage, people admin, all else write.',
  }),
};
