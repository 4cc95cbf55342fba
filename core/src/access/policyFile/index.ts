export { comparePolicies, type PolicyChange, type PolicyComparison } from './compare.ts';
export { fromOdrl, toOdrl } from './odrl.ts';
export { type FileEntry, type FileFlaw, type PolicyInFile, plainly } from './types.ts';
export { fromYaml, toYaml, YAML_FORMAT } from './yaml.ts';
