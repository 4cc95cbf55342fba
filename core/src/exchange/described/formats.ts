/** Open formats in which an asset is described, with their media types and the endings of their files. */
export const DESCRIBED_AS = {
  ttl: {
    type: 'text/turtle',
    ending: '.ttl',
    name: 'Turtle',
    about: 'What it is and means, its columns, who answers for it, where it comes from: DCAT, CSVW and PROV-O',
  },
  jsonld: { type: 'application/ld+json', ending: '.jsonld', name: 'JSON-LD', about: 'The same as Turtle, as JSON' },
  csvw: {
    type: 'application/csvm+json',
    ending: '.csv-metadata.json',
    name: 'CSVW',
    about: 'How a CSV of its rows is read (CSV on the Web)',
  },
  'table-schema': {
    type: 'application/vnd.tableschema+json',
    ending: '.tableschema.json',
    name: 'Table Schema',
    about: 'Its columns with their types and keys, as JSON',
  },
} as const;
export type DescribedAs = keyof typeof DESCRIBED_AS;
/** Those of any asset, and of many at once; the others are for what has columns. */
export const DESCRIBED_MANY_AS = ['ttl', 'jsonld'] as const satisfies readonly DescribedAs[];
