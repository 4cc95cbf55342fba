import { COMPARED, type ComparedField, GLOSSARY_FORMATS, type GlossaryFormat } from '@idrel/core/glossary';
import { FileAnswer, Flaw } from '../curation/index.ts';
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
  text,
  withDefault,
} from '../http/index.ts';

export { GLOSSARY_FORMATS, type GlossaryFormat } from '@idrel/core/glossary';

export const GlossaryChange = shape({
  schemes: list(text).description('Names of schemes that are new.'),
  fresh: list(shape({ at: text, name: text, definition: text, broader: list(text) })).description(
    'Terms that are new: the first 500.',
  ),
  freshCount: number,
  changed: list(
    shape({
      at: text,
      name: text,
      fields: list(shape({ field: oneOf(Object.keys(COMPARED) as ComparedField[]), before: text, after: text })),
    }),
  ).description('Terms that are changed: the first 500; of lists what goes and what comes, one a line.'),
  changedCount: number,
  same: number,
  flaws: list(Flaw).description('The first 500.'),
  flawCount: number,
  notKept: list(shape({ what: text, times: number })),
  seen: text.description(
    'What was compared: the import names it, and is refused where something else would come of it.',
  ),
  written: flag,
});
export type GlossaryChange = Of<typeof GlossaryChange>;

export const exchangeEndpoints = {
  exported: endpoint({
    id: 'exportGlossary',
    method: 'get',
    path: '/glossary-file',
    area: 'glossary',
    summary: 'Terms as a file',
    may: 'signed in',
    query: shape({ format: oneOf(Object.keys(GLOSSARY_FORMATS) as GlossaryFormat[]), scheme: optional(id) }),
    heavy: true,
    problems: ['not-found'],
    answer: FileAnswer,
    answers: 'A file of the kind that the import takes; of one scheme or of all.',
  }),
  imported: endpoint({
    id: 'importGlossary',
    method: 'post',
    path: '/glossary-file',
    area: 'glossary',
    summary: 'Take terms from a file',
    may: role('editor', 'any domain', 'steward where the file brings schemes of its own'),
    query: shape({ preview: withDefault(Joi.boolean(), false) }),
    body: shape({
      name: Joi.string().min(1).max(255).description('Its ending says what it is: .ttl, .jsonld, .csv or .xlsx.'),
      content: Joi.string().base64().max(28_000_000),
      schemeId: optional(id).description('For terms of which the file does not say the scheme; else the oldest.'),
      leave: withDefault(list(Joi.string().max(1000)).max(20_000), []).description(
        'Where terms stand in the file that are to be left as they are (`at`).',
      ),
      seen: optional(Joi.string().max(100)).description('What the preview said.'),
    }),
    bodyBytes: 32 << 20,
    heavy: true,
    problems: ['not-found', 'differs-now'],
    answer: GlossaryChange,
    answers: 'What is new, changed, or the same; with `preview` nothing is written.',
  }),
};
