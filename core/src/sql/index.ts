export type { ParsedScript, ParsedStatement, RejectedStatement } from './parse.ts';
export { loadParser, parseOne, parserReason, parseScript } from './parse.ts';
export { queryOfSqliteView } from './sqlite.ts';
