export {
  compareDirectory,
  type Directory,
  type DirectoryChange,
  directoryRows,
  type Known,
  LISTED_FIELDS,
  type Listed,
  type ListedField,
  type PersonChange,
  readDirectory,
} from './directory.ts';
export { chainOf, type Given, INCLUDES, includes, type RightsChange, type Role, rightsChange } from './rights.ts';
