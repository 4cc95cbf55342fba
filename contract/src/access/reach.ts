import { flag, list, moment, nullable, number, type Of, shape, text, whole } from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';
import { access, mask } from './shapes.ts';

export const ReachRow = shape({
  personId: text,
  person: text,
  tableId: text,
  table: text,
  column: text,
  classes: list(text),
  level: nullable(number),
  before: access,
  after: access,
  beforeMask: nullable(mask),
  afterMask: nullable(mask),
});
export type ReachRow = Of<typeof ReachRow>;
export const ReachAnswer = shape({
  people: number,
  tables: number,
  columns: number,
  sensitive: number,
  gains: number,
  losses: number,
  masked: number,
  rows: list(ReachRow),
  limited: list(
    shape({
      personId: text,
      person: text,
      tableId: text,
      table: text,
      before: list(text).description('Conditions that rows must fulfil; none: all rows are read.'),
      after: list(text),
    }),
  ).description('Who would get other rows of a table: at most 1000.'),
  used: list(
    shape({
      personId: text,
      person: text,
      tableId: text,
      table: text,
      column: nullable(text).description('Null where it is rows that they lose.'),
      at: moment.description('When they last asked for it.'),
      times: whole.description('How often they did.'),
    }),
  ).description('What people would lose, or get masked, that they asked for in the last 30 days: at most 200.'),
  unseen: list(shape({ personId: text, person: text, source: text, domain: text })).description(
    'Of those who gain something who does not see the source that it lies in: without a role in its domain nothing of it is there for them. At most 50.',
  ),
  sight: shape({
    gains: whole.description('People who come to see something.'),
    losses: whole.description('People who would see something no more.'),
    assets: whole.description(
      'Assets that are concerned, with all that lies in them; of more than 100,000 in one that many and one, which is more than a policy lets be seen.',
    ),
    rows: list(
      shape({ personId: text, person: text, assetId: text, kind: assetKind, path: text, comes: flag }),
    ).description('Who comes to see which of the listed assets, or sees it no more; at most 200.'),
  }).description('What changes of who sees that something is there, without a role in its domain.'),
  passedOn: list(
    shape({
      columnId: text,
      tableId: text,
      table: text,
      column: text,
      from: text.description('A guarded column from which they come.'),
      people: number,
    }),
  ).description(
    'Columns in which the guarded values can be read plain all the same, since a view or a load carries them on.',
  ),
  otherwise: list(shape({ columnId: text, tableId: text, table: text, column: text, why: text })).description(
    'Columns that are left empty because the mask chosen could not hide them.',
  ),
});
export type ReachAnswer = Of<typeof ReachAnswer>;
