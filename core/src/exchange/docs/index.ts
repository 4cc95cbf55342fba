export { type CommentsOf, readComments } from './comments.ts';
export { COMMENT_SIGNS, HEADER_MOST, madeIn, withHeader, withoutHeader } from './headers.ts';
export { DOC_FIELDS, DOCS_FORMAT, DOCS_SCHEMA, type DocField } from './schema.ts';
export { type DocsFile, saidOnce } from './together.ts';
export { type DocEntry, type DocFlaw, type DocsRead, isDocs, readDocs } from './yaml.ts';
