declare module 'rdf-parser-csvw' {
  import type { Quad } from 'n3';
  // biome-ignore lint/style/noDefaultExport: so it is exported
  export default class CsvParser {
    constructor(options: { metadata: unknown; baseIRI: string; timezone?: string });
    import(input: NodeJS.ReadableStream): AsyncIterable<Quad>;
  }
}
