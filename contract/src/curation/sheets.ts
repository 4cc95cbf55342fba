import { SHEET_FIELD_NAMES, SHEET_FORMATS, type SheetFormat } from '@idrel/core/catalog';
import {
  endpoint,
  flag,
  id,
  Joi,
  list,
  number,
  type Of,
  oneOf,
  optional,
  role,
  shape,
  THREAD_PROBLEMS,
  text,
  withDefault,
} from '../http/index.ts';

export { SHEET_FORMATS, type SheetFormat } from '@idrel/core/catalog';

/** So many assets stand in a sheet, and so many are changed by one. */
export const SHEET_MOST = { out: 20_000, changed: 2000 } as const;

/** A file, as its bytes in base64. */
export const FileAnswer = shape({
  name: text,
  type: text.description('The media type of the content.'),
  content: text.description('The bytes of the file in base64.'),
});
export type FileAnswer = Of<typeof FileAnswer>;
export const Flaw = shape({ at: text, what: text, mend: text });

export const SheetChange = shape({
  cells: list(
    shape({
      at: text,
      id: text,
      path: text,
      field: oneOf(SHEET_FIELD_NAMES),
      before: text,
      after: text,
      newer: flag.description('The asset was changed since the sheet was made: the catalog may hold the newer word.'),
    }),
  ).description('The first 2,000.'),
  cellCount: number,
  assets: number.description('How many assets have such a cell.'),
  same: number.description('Lines that say what stands there already.'),
  flaws: list(Flaw).description('The first 500.'),
  flawCount: number,
  notKept: list(shape({ what: text, times: number })),
  seen: text.description(
    'What was compared: the import names it, and is refused where something else would come of it.',
  ),
  changed: number.description('How many assets were changed; 0 with `preview`.'),
  refused: list(shape({ at: text, path: text, why: text })).description(
    'Assets that stay as they are, since what the sheet says of them cannot be.',
  ),
});
export type SheetChange = Of<typeof SheetChange>;

export const sheetEndpoints = {
  out: endpoint({
    id: 'exportAssets',
    method: 'get',
    path: '/assets-file',
    area: 'curation',
    summary: 'What a filter finds as a sheet',
    may: 'signed in',
    query: shape({
      format: oneOf(Object.keys(SHEET_FORMATS) as SheetFormat[]),
      filter: withDefault(Joi.string().allow('').max(2000), ''),
      under: optional(id).description('Only what lies below this asset'),
    }),
    problems: [...THREAD_PROBLEMS],
    answer: FileAnswer,
    answers: 'At most 20,000 assets, with what people say of them. The import takes it back.',
  }),
  back: endpoint({
    id: 'importAssets',
    method: 'post',
    path: '/assets-file',
    area: 'curation',
    summary: 'Take a sheet of assets back',
    may: role('editor', 'any domain', 'and in the domain of each asset; steward for the standing'),
    query: shape({ preview: withDefault(Joi.boolean(), false) }),
    body: shape({
      name: Joi.string().min(1).max(255).description('Its ending says what it is: .csv or .xlsx.'),
      content: Joi.string().base64().max(28_000_000),
      leave: withDefault(list(Joi.string().max(100)).max(100_000), []).description(
        'Cells that are left as they are: where they stand, a space, the field (`line 3 description`).',
      ),
      seen: optional(Joi.string().max(100)).description('What the preview said.'),
    }),
    bodyBytes: 32 << 20,
    heavy: true,
    problems: ['differs-now'],
    answer: SheetChange,
    answers:
      'Each cell that differs; with `preview` nothing is written. At most 2,000 assets are changed by one sheet.',
  }),
};
