import { DESCRIBED_AS, DESCRIBED_MANY_AS, type DescribedAs } from '@idrel/core/exchange/formats';
import { endpoint, id, Joi, oneOf, optional, shape, THREAD_PROBLEMS, withDefault } from '../http/index.ts';

export { DESCRIBED_AS, DESCRIBED_MANY_AS, type DescribedAs } from '@idrel/core/exchange/formats';
/** So many assets are described at most in one answer. */
export const DESCRIBED_MOST = 200_000;

export const describedEndpoints = {
  one: endpoint({
    id: 'described',
    method: 'get',
    path: '/described',
    area: 'exchange',
    summary: 'An asset in an open format',
    may: 'signed in',
    query: shape({
      address: Joi.string()
        .max(4000)
        .description('Its own: as in /at/Warehouse/core/passenger or /assets/…; whole, or without the server'),
      as: oneOf(Object.keys(DESCRIBED_AS) as DescribedAs[]),
    }),
    stream: 'bytes',
    media: Object.values(DESCRIBED_AS).map(({ type }) => type),
    // The last one at the asset's own address, where the type is asked for by a header.
    problems: ['not-found', ...THREAD_PROBLEMS, 'other-format'],
    answers:
      'What it is, where it lies, what it means, who answers for it, its columns, where it comes from and goes to: by DCAT 3 with CSVW and PROV-O as RDF, or its columns alone as CSVW or Table Schema. The same is served at the asset’s own address to who asks for such a type there (Accept).',
  }),
  many: endpoint({
    id: 'describedMany',
    method: 'get',
    path: '/described-many',
    area: 'exchange',
    summary: 'What a filter finds as a DCAT catalog',
    may: 'signed in',
    query: shape({
      as: oneOf(DESCRIBED_MANY_AS),
      filter: withDefault(Joi.string().allow('').max(2000), ''),
      under: optional(id).description('Only what lies below this asset'),
    }),
    stream: 'bytes',
    media: DESCRIBED_MANY_AS.map((as) => DESCRIBED_AS[as].type),
    problems: [...THREAD_PROBLEMS],
    answers:
      'A dcat:Catalog with each asset that is found as a dataset or resource of it, sent bit by bit: at most 200,000. What is gone stands in it where the filter asks for it, marked as such.',
  }),
};
