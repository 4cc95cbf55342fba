import { INFLUENCE_KINDS, PICTURE_MOST, PICTURE_WITH_COLUMNS, VALUE_KINDS } from '@idrel/core/lineage';
import { NoticeBrief } from '../catalog/index.ts';
import { FileAnswer } from '../curation/index.ts';
import {
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
  shape,
  text,
  withDefault,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';

import { proposedFields } from './proposed.ts';

export * from './causes.ts';
export * from './proposed.ts';
export * from './runEvents.ts';
export * from './said.ts';
export * from './statements.ts';
export * from './views.ts';

export const LineageColumn = shape({
  id: text,
  name: text,
  type: nullable(text),
  classes: list(text),
  level: nullable(number),
});
export type LineageColumn = Of<typeof LineageColumn>;
export const LineageNode = shape({
  id: text,
  kind: assetKind,
  name: text,
  path: text,
  sourceId: text,
  source: text,
  domain: text,
  standing: text,
  notices: list(NoticeBrief).description('Those that hold today, the gravest first.'),
  level: nullable(number),
  columns: list(LineageColumn).description('None where columns are told of unfolded tables alone.'),
  columnCount: number,
  statement: nullable(text),
  problems: list(text),
  goneAt: nullable(moment).description('Since when it is gone from its source: only in pictures of the past.'),
  more: shape({ upstream: number, downstream: number }),
});
export type LineageNode = Of<typeof LineageNode>;
/** Of two moments that are compared: what came since the earlier one, and what went. Null: as it was, or nothing is compared. */
const change = nullable(oneOf(['came', 'went']));
export const LineageLink = shape({
  from: text,
  to: text,
  fromTable: text,
  toTable: text,
  kind: oneOf(VALUE_KINDS),
  wrong: flag.description('A person said that it is wrong: it is followed no further.'),
  said: flag.description('A person said it.'),
  change,
  flow: nullable(text).description(
    'The flow that the value takes, where that is an asset of its own and stands in the picture.',
  ),
});
export type LineageLink = Of<typeof LineageLink>;
export const LineageInfluence = shape({
  from: text,
  fromTable: text,
  toTable: text,
  kind: oneOf(INFLUENCE_KINDS),
  change,
});
export type LineageInfluence = Of<typeof LineageInfluence>;
/** A flow that is an asset of its own: a load, a job, a function. Views are the tables that they make. */
export const LineageFlow = shape({
  id: text,
  kind: assetKind,
  name: text,
  path: text,
  sourceId: text,
  source: text,
  statement: nullable(text),
  problems: list(text),
  lastRun: nullable(shape({ state: text, at: nullable(moment), message: nullable(text) })),
  from: list(text).description('Tables of the picture that it reads.'),
  to: list(text).description('Tables of the picture that it writes.'),
});
export type LineageFlow = Of<typeof LineageFlow>;
export const LineageAnswer = shape({
  focus: text,
  nodes: list(LineageNode),
  flows: list(LineageFlow).description('Flows between the tables shown.'),
  links: list(LineageLink),
  influences: list(LineageInfluence),
  sources: list(
    shape({ name: text, readAt: nullable(moment).description('When it was last read; null: never by Idrel.') }),
  ).description('The sources of what is shown: how fresh that is.'),
  coarse: flag.description(
    'The tables are too many for their columns: edges are told between tables, an edge for each kind of them; `POST /lineage/columns` tells the columns of some.',
  ),
  nearest: flag.description('There are more than can be shown: these are the nearest.'),
});
export type LineageAnswer = Of<typeof LineageAnswer>;
export const ImpactRow = shape({
  id: text,
  kind: assetKind,
  name: text,
  path: text,
  source: text,
  domain: text,
  standing: text,
  within: nullable(shape({ id: text, kind: assetKind, path: text, standing: text })).description(
    'Of a column: the table, file or report that it lies in.',
  ),
  matches: flag.description('It, or what it lies in, is among what the rule of the question finds.'),
  distance: number,
  way: list(text),
  owners: list(text),
  level: nullable(number),
  how: text,
});
export type ImpactRow = Of<typeof ImpactRow>;

/** Columns of tables of a picture, and their edges. */
export const LineageColumns = shape({
  tables: list(shape({ id: text, columns: list(LineageColumn) })),
  links: list(LineageLink),
});
export type LineageColumns = Of<typeof LineageColumns>;

/** A moment at which edges into an asset, or out of it, came or went. */
export const LineageMoment = shape({
  at: moment,
  came: number,
  went: number,
  run: nullable(shape({ id: text, source: text })).description('The scan that told it.'),
});
export type LineageMoment = Of<typeof LineageMoment>;

/** Where the fields of an asset come from, in one step. */
export const FieldOrigins = list(
  shape({
    id: text,
    name: text,
    from: list(
      shape({
        id: nullable(text).description('Null: it is not in the catalog, but named by what derives the field.'),
        path: text,
        source: text.description('The source it lies in; of what is not in the catalog, its place.'),
        kind: oneOf(VALUE_KINDS),
      }),
    ).description('At most 20.'),
    more: number,
    hidden: number.description('How many lie in domains that the person may not see.'),
  }),
);
export type FieldOrigins = Of<typeof FieldOrigins>;

/** Of when edges are told. */
const moments = {
  at: optional(moment).description('As it stood then; left out: as it stands.'),
  before: optional(moment).description('An earlier moment to compare with: edges say what came since, and what went.'),
};
/** What a picture is asked for by. */
const picture = {
  focus: id,
  upstream: withDefault(Joi.number().integer().min(0).max(20), 3),
  downstream: withDefault(Joi.number().integer().min(0).max(20), 3),
  ...moments,
  column: optional(id).description(
    'A column of the asset that is followed: only tables on the way of its values are shown, however far.',
  ),
};

export const lineageEndpoints = {
  origins: endpoint({
    id: 'fieldOrigins',
    method: 'get',
    path: '/lineage/origins',
    area: 'lineage',
    summary: 'Where the fields of a report, or the columns of a table, come from in one step',
    may: 'signed in',
    query: shape({ asset: id }),
    problems: ['not-found'],
    answer: FieldOrigins,
    asOther: true,
    answers: 'The first 500 fields in their order, each with the columns that it takes its values from.',
  }),
  picture: endpoint({
    id: 'lineage',
    method: 'get',
    path: '/lineage',
    area: 'lineage',
    summary: 'The lineage around an asset',
    may: 'signed in',
    query: shape(picture),
    problems: ['not-found'],
    answer: LineageAnswer,
    asOther: true,
    answers:
      'Tables and views with their columns, and the edges between columns. Of the past, edges are told as they stood; names, levels and classes are those of today.',
  }),
  columns: endpoint({
    id: 'lineageColumns',
    method: 'post',
    path: '/lineage/columns',
    area: 'lineage',
    summary: 'The columns of some tables of a picture of lineage, with their edges',
    may: 'signed in',
    body: shape({
      tables: list(id).max(PICTURE_WITH_COLUMNS),
      among: list(id)
        .max(PICTURE_MOST + 1)
        .description('The tables of the picture: edges that lead to them, or come from them, are told.'),
      ...moments,
    }),
    answer: LineageColumns,
    answers:
      'Those that you may see, in the order of the tables, and the edges between their columns and those of the picture.',
  }),
  pictureFile: endpoint({
    id: 'lineageFile',
    method: 'get',
    path: '/lineage/file',
    area: 'lineage',
    summary: 'The lineage around an asset as a file',
    may: 'signed in',
    query: shape({
      ...picture,
      format: withDefault(oneOf(['csv', 'mermaid', 'openlineage']), 'csv'),
      hide: optional(Joi.string().max(1000)).description(
        'Kinds of edges (`copied`, `decides rows`, …) and of assets that are left out, with commas between them.',
      ),
      only: optional(Joi.string().trim().min(1).max(4000)).description(
        'Filter language: what it does not find is left out, but for the asset itself.',
      ),
    }),
    problems: ['not-found'],
    answer: FileAnswer,
    answers:
      'CSV: an edge a row; texts that a spreadsheet would take for formulas are neutralised. Mermaid: a flowchart as text. OpenLineage: a list of events of jobs (`JobEvent`) with the lineage of columns.',
  }),
  exported: endpoint({
    id: 'lineageExport',
    method: 'get',
    path: '/sources/:id/lineage-export',
    area: 'lineage',
    summary: 'All that is made of a source, as a file to be asked where no server is',
    may: 'signed in',
    params: idParam,
    heavy: true,
    answer: FileAnswer,
    answers:
      'Newline-delimited JSON: a line that says what it is; then a line for each asset, with kind, domain, owners, standing, tags and classes; then one for each edge. `idrel impact --catalog` reads it.',
  }),
  moments: endpoint({
    id: 'lineageMoments',
    method: 'get',
    path: '/lineage/moments',
    area: 'lineage',
    summary: 'When the edges of an asset changed',
    may: 'signed in',
    query: shape({ asset: id }),
    problems: ['not-found'],
    answer: list(LineageMoment),
    asOther: true,
    answers: 'The last fifty, the latest first: how many edges into it and out of it came, and how many went.',
  }),
  impact: endpoint({
    id: 'impact',
    method: 'get',
    path: '/lineage/impact',
    area: 'lineage',
    summary: 'All that lies downstream or upstream of an asset or column',
    may: 'signed in',
    query: shape({
      asset: id,
      direction: withDefault(oneOf(['downstream', 'upstream']), 'downstream'),
      rule: optional(Joi.string().max(4000)).description('A filter: rows say whether they are among what it finds.'),
    }),
    problems: ['not-found'],
    answer: list(ImpactRow),
    asOther: true,
    answers: 'The impact list, nearest first, each with a shortest path.',
  }),
  impactSheet: endpoint({
    id: 'impactSheet',
    method: 'get',
    path: '/lineage/impact-sheet',
    area: 'lineage',
    summary: 'The impact list as a file',
    may: 'signed in',
    query: shape({
      asset: id,
      direction: withDefault(oneOf(['downstream', 'upstream']), 'downstream'),
      what: optional(proposedFields.what).description('Of a proposed change: what it would do, in place of the list.'),
      to: proposedFields.to,
      format: withDefault(oneOf(['csv', 'xlsx']), 'csv'),
    }),
    problems: ['not-found'],
    answer: FileAnswer,
    answers:
      'The rows of the list with the way to each, as a sheet in which owners, standing, notices and remarks can be filled in: `POST /assets-file` takes it back. Texts that a spreadsheet would take for formulas are neutralised.',
  }),
};
