export { ASKED_HOW, type Asked, type AskedFor, type AskedHow, readAsked } from './asked.ts';
export { CAUSE_KINDS, type CauseKind, dueAgain, type Happened, inOrder, likelihood } from './causes.ts';
export {
  CHANGES,
  changesBetween,
  type MadeByScripts,
  madeByScripts,
  type ScriptChange,
  type ScriptFile,
} from './changed.ts';
export { type EdgeLine, type EdgeSheet, readEdgeSheet } from './edgeSheet.ts';
export {
  type CatalogExport,
  EXPORTED_KEYS,
  ExportError,
  type ExportedAsset,
  ExportedLineage,
  exportRule,
  type MadeOf,
  readExport,
  writeExport,
} from './exported.ts';
export { without } from './leftOut.ts';
export { type JobEvent, type NamedDataset, toOpenLineage } from './openLineage.ts';
export { type Inherited, inheritedPriority } from './priority.ts';
export {
  CONSEQUENCES,
  type Consequence,
  consequencesOf,
  type Made,
  type MadeEdge,
  type Maker,
  PROPOSALS,
  type ProposedChange,
  suitable,
  type Told,
} from './proposed.ts';
export { PICTURE_MOST, PICTURE_WITH_COLUMNS, type Reached, reachable, type Step } from './reachable.ts';
export { type RoutineLineage, readRoutineText } from './routine.ts';
export { type Dialect, type KnownFunction, type KnownRelation, SchemaCatalog } from './schema.ts';
export { EDGE_HEADS, type ShownLineage, toMermaid, toRows } from './shown.ts';
export { readDefinition, readScript, type ScriptLineage } from './statements.ts';
export {
  type ColumnName,
  FLOW_ORIGINS,
  type FlowOrigin,
  INFLUENCE_KINDS,
  type Influence,
  type InfluenceKind,
  type StatementLineage,
  type Unresolved,
  VALUE_KINDS,
  type ValueEdge,
  type ValueKind,
} from './types.ts';
