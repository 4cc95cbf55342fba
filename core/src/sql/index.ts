export { readMariaScript } from './mariadb.ts';
export type { ParsedScript, ParsedStatement, RejectedStatement } from './parse.ts';
export { loadParser, parseOne, parserReason, parseScript } from './parse.ts';
export { checksOfSqliteTable, queryOfSqliteView } from './sqlite.ts';
