import { VALUE_KINDS } from '@idrel/core/lineage';
import { Flaw } from '../curation/sheets.ts';
import {
  either,
  endpoint,
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
  withDefault,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';

/** So many edges can be said at once. */
export const EDGES_MOST = 500;

/** An end of an edge: by its id, or by its readable address. */
const end = either(
  shape({ id }),
  shape({ address: Joi.string().max(4000).description('As in /at/Warehouse/core/passenger/email') }),
);
export const EdgeBody = shape({
  from: end,
  to: end,
  kind: withDefault(oneOf(VALUE_KINDS), 'copied'),
  flow: withDefault(nullable(id), null),
  note: withDefault(Joi.string().trim().allow('').max(2000), ''),
});
export type EdgeBody = Of<typeof EdgeBody>;

const SAID_STATES = ['said', 'changed', 'as it was', 'found already', 'refused'] as const;
/** What became of an edge that was said. */
export const SaidAnswer = shape({
  state: oneOf(SAID_STATES),
  id: optional(text),
  why: optional(text),
  mend: optional(text),
});
export type SaidAnswer = Of<typeof SaidAnswer>;

const edgeEnd = shape({ id: text, kind: assetKind, name: text, path: text, tableId: text });
/** An edge into an asset or out of it, with who or what tells of it. */
export const EdgeRow = shape({
  from: edgeEnd,
  to: edgeEnd,
  kind: oneOf(VALUE_KINDS),
  origin: text.description('What told of it: a view, a script, an event of a run, a person …'),
  flow: nullable(shape({ id: text, name: text })),
  line: nullable(number).description('Where in the statement of the flow it is said.'),
  expression: nullable(text).description(
    'What happens to the value, in SQL: a line for each expression that it goes through. Null: it comes as it is, that is not known, or stands in a text that you may not see.',
  ),
  since: moment,
  lastSeen: moment.description('When it was told last.'),
  until: nullable(moment).description('Since when it is told no more; null: it stands.'),
  run: nullable(text).description('The scan by which it came, while that is kept.'),
  said: nullable(shape({ id: text, by: nullable(text), at: moment, note: text, version: number })),
  wrong: nullable(shape({ by: nullable(text), at: moment, reason: text })),
  mayEdit: flag,
});
export type EdgeRow = Of<typeof EdgeRow>;
export const EdgesAnswer = shape({ items: list(EdgeRow), total: number });
export type EdgesAnswer = Of<typeof EdgesAnswer>;

/** What became, or would become, of each line of a sheet of edges. */
export const EdgesTaken = shape({
  rows: list(
    shape({
      at: text,
      from: text,
      to: text,
      kind: oneOf(VALUE_KINDS),
      state: oneOf(SAID_STATES),
      why: optional(text),
      mend: optional(text),
    }),
  ),
  said: number.description('New or changed.'),
  same: number,
  refused: number,
  flaws: list(Flaw),
  notKept: list(shape({ what: text, times: number })),
  seen: text.description(
    'What was compared: the import names it, and is refused where something else would come of it.',
  ),
  written: flag,
});
export type EdgesTaken = Of<typeof EdgesTaken>;

const editor = role('editor', 'its domain', 'of what the edge leads to');
const pair = { from: id, to: id };

export const saidEndpoints = {
  edges: endpoint({
    id: 'lineageEdges',
    method: 'get',
    path: '/lineage/edges',
    area: 'lineage',
    summary: 'Edges into an asset and out of it, with who or what tells of them',
    may: 'signed in',
    query: shape({
      asset: id,
      direction: withDefault(oneOf(['upstream', 'downstream']), 'upstream'),
      ended: withDefault(flag, false).description('Those that stand no more, the latest first.'),
      limit: withDefault(Joi.number().integer().min(1).max(500), 200),
    }),
    problems: ['not-found'],
    answer: EdgesAnswer,
    answers: 'Of a table those of its columns, too. Edges whose other end you may not see are not among them.',
  }),
  say: endpoint({
    id: 'sayEdges',
    method: 'post',
    path: '/lineage/edges',
    area: 'lineage',
    summary: 'Say edges that no source tells of',
    may: editor,
    body: shape({ edges: list(EdgeBody).min(1).max(EDGES_MOST) }),
    answer: list(SaidAnswer),
    answers:
      'What became of each, in their order. The same again changes nothing; what is refused says why, and the others are said.',
  }),
  sheet: endpoint({
    id: 'takeEdges',
    method: 'post',
    path: '/lineage/edges-file',
    area: 'lineage',
    summary: 'Say many edges by a sheet',
    may: editor,
    query: shape({ preview: withDefault(Joi.boolean(), false) }),
    body: shape({
      name: Joi.string().min(1).max(255).description('Its ending says what it is: .csv or .xlsx.'),
      content: Joi.string().base64().max(4_000_000),
      leave: withDefault(list(Joi.string().max(100)).max(EDGES_MOST), []).description(
        'Lines of the sheet that are to be left (`at`).',
      ),
      seen: optional(Joi.string().max(100)).description('What the preview said.'),
    }),
    bodyBytes: 6 << 20,
    heavy: true,
    problems: ['differs-now'],
    answer: EdgesTaken,
    answers:
      'What became of each line; with `preview` what would become of it, and nothing is written. Columns: from, to, what happens, through, note.',
  }),
  unsay: endpoint({
    id: 'unsayEdge',
    method: 'delete',
    path: '/lineage/edges/:id',
    area: 'lineage',
    summary: 'Take back an edge that was said',
    may: editor,
    params: idParam,
    answers: 'Nothing.',
  }),
  wrong: endpoint({
    id: 'sayWrong',
    method: 'put',
    path: '/lineage/wrong',
    area: 'lineage',
    summary: 'Say that a found edge is wrong',
    may: editor,
    body: shape({ ...pair, reason: Joi.string().trim().min(1).max(2000) }),
    problems: ['not-found'],
    answers:
      'Nothing. It stays struck however often it is found. Policies and levels that follow lineage go on following it.',
  }),
  right: endpoint({
    id: 'sayRight',
    method: 'delete',
    path: '/lineage/wrong',
    area: 'lineage',
    summary: 'Take back that a found edge is wrong',
    may: editor,
    query: shape(pair),
    problems: ['not-found'],
    answers: 'Nothing.',
  }),
};
