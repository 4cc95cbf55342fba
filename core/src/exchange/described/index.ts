export { toCsvw } from './csvw.ts';
export { catalogStatements, DCAT_PREFIXES, type DescribedCatalog, dcatStatements } from './dcat.ts';
export type {
  Called,
  Described,
  DescribedColumn,
  DescribedPerson,
  DescribedReference,
  DescribedRun,
} from './described.ts';
export { toTableSchema } from './tableSchema.ts';
export { mostLetters, type ValueType, valueTypeOf } from './valueTypes.ts';
