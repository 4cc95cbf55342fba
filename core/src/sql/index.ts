export { expressionText } from './expressionText.ts';
export { type MariaDigest, readMariaDigest } from './mariaDigest.ts';
export { mariaStatement, readMariaScript } from './mariadb.ts';
export { type NamedRelation, namedIn } from './named.ts';
export type { ParsedScript, ParsedStatement, RejectedStatement } from './parse.ts';
export {
  loadParser,
  parseOne,
  parserReason,
  parseScript,
  printOf,
  SyntaxProblem,
  statementsOf,
  withoutValues,
} from './parse.ts';
export { type CheckDialect, type Permits, permittedByCheck } from './permits.ts';
export {
  assignedIn,
  type BodyDatum,
  type BodyExpression,
  type BodyStatement,
  type BodyStatementParts,
  optionOf,
  type ParsedBody,
  parseBody,
} from './plpgsql.ts';
export { checksOfSqliteTable, queryOfSqliteView } from './sqlite.ts';
