import type { ValueType } from '@idrel/core/recognition';
import { digest, type FoundAsset, isUnchanged, type Known, keyOf, type Mark, type Sampleable, type Structure } from './types.ts';

/** A column as a database describes it. */
export interface ColumnFacts {
  readonly name: string;
  readonly position: number;
  readonly type: string;
  readonly valueType: ValueType;
  readonly nullable: boolean;
  readonly default: string | null;
  readonly generated: boolean;
  readonly primaryKey: boolean;
  readonly unique: boolean;
  /** What it refers to, as `schema.table.column`. */
  readonly references: readonly string[];
  readonly comment: string | null;
}

/** A table or view as a database describes it; `names` are those below the database. */
export interface RelationFacts {
  readonly names: readonly string[];
  readonly kind: string;
  readonly comment: string | null;
  /** Estimated rows; null when nothing is known. */
  readonly rows: number | null;
  readonly bytes: number | null;
  readonly native: Readonly<Record<string, unknown>>;
  readonly columns: ColumnFacts[];
}

/** For a source whose structure is read whole in any case: what has not changed is not written, and not sampled, again. */
export interface Marking {
  readonly known: Known;
  /** Mark of the values of every table; empty when nothing is known of them. */
  readonly data: string;
}

/** Makes the assets of a database from what it says of its relations: the same shape, whatever the system. */
export function relationAssets(
  top: { readonly name: string; readonly native: Record<string, unknown>; readonly stats: Record<string, unknown> },
  schemas: readonly { readonly name: string; readonly comment: string | null; readonly native?: Readonly<Record<string, unknown>> }[],
  relations: readonly RelationFacts[],
  marking?: Marking,
): Structure {
  const root = keyOf(top.name);
  const assets: FoundAsset[] = [{ key: root, parentKey: null, kind: 'database', name: top.name, depth: 0, position: 0, comment: null, native: top.native, stats: top.stats }];
  for (const schema of schemas)
    assets.push({ key: keyOf(root, schema.name), parentKey: root, kind: 'schema', name: schema.name, depth: 1, position: 0, comment: schema.comment, native: schema.native ?? {}, stats: {} });
  const sampleable: Sampleable[] = [];
  const marks = new Map<string, Mark>();
  const unchanged = new Set<string>();
  for (const relation of relations) {
    const key = keyOf(root, ...relation.names);
    if (marking) {
      const mark = { structure: digest(relation), data: relation.kind === 'view' ? '' : marking.data };
      marks.set(key, mark);
      if (isUnchanged(marking.known, key, mark)) {
        unchanged.add(key);
        continue;
      }
    }
    const depth = relation.names.length;
    const stats = { ...(relation.rows === null ? {} : { rows: relation.rows }), ...(relation.bytes === null ? {} : { bytes: relation.bytes }) };
    assets.push({
      key,
      parentKey: keyOf(root, ...relation.names.slice(0, -1)),
      kind: relation.kind,
      name: relation.names.at(-1) ?? '',
      depth,
      position: 0,
      comment: relation.comment,
      native: relation.native,
      stats,
    });
    const columns = relation.columns.map((column) => ({ asset: columnAsset(key, depth + 1, column), facts: column }));
    for (const { asset } of columns) assets.push(asset);
    sampleable.push({
      key,
      names: relation.names,
      label: relation.names.join('.'),
      estimatedRows: relation.rows ?? 0,
      columns: columns.filter(({ facts }) => !isBinary(facts)).map(({ asset, facts }) => ({ key: asset.key, name: facts.name, type: facts.valueType })),
    });
  }
  return { assets, sampleable, ...(marking ? { marks, unchanged } : {}) };
}

const isBinary = (column: ColumnFacts) => /^(bytea|.*blob|(var)?binary.*)$/.test(column.type);

function columnAsset(parentKey: string, depth: number, column: ColumnFacts): FoundAsset {
  return {
    key: keyOf(parentKey, column.name),
    parentKey,
    kind: 'column',
    name: column.name,
    depth,
    position: column.position,
    comment: column.comment,
    native: {
      type: column.type,
      nullable: column.nullable,
      ...(column.default !== null && !column.generated ? { default: column.default } : {}),
      ...(column.generated ? { generated: column.default ?? true } : {}),
      ...(column.primaryKey ? { primaryKey: true } : {}),
      ...(column.unique ? { unique: true } : {}),
      ...(column.references.length > 0 ? { references: column.references } : {}),
    },
    stats: {},
  };
}
