import type { ValueType } from '@idrel/core/recognition';
import type { Part } from '@idrel/core/scanning';
import { type CheckDialect, permittedByCheck } from '@idrel/core/sql';
import type { AssetKind } from '@idrel/core/things';
import {
  digest,
  type FoundAsset,
  isUnchanged,
  type Known,
  keyOf,
  type Mark,
  type Sampleable,
  type Structure,
} from './types.ts';

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
  /** How it gives numbers of its own. */
  readonly identity?: 'always' | 'by default' | null;
  /** The type that somebody made and it has, or has an array of, by its names below the database joined by dots. */
  readonly ofType?: string | null;
  /** The values that its type or a check permits, in their order. */
  readonly permitted?: readonly string[] | null;
}

/** Columns with the values that checks of their table list for them; what a type permits stands. Needs the parser of SQL to be loaded. */
export function withChecks(
  columns: readonly ColumnFacts[],
  checks: readonly Part[] | undefined,
  dialect: CheckDialect,
): ColumnFacts[] {
  // A check that is not held to the rows says nothing of them.
  const listed = new Map(
    (checks ?? [])
      .filter((check) => !check.off)
      .flatMap((check) =>
        permittedByCheck(check.definition, dialect).map(
          ({ column, values }) => [column.toLowerCase(), values] as const,
        ),
      ),
  );
  return columns.map((column) => {
    const values = column.permitted ? undefined : listed.get(column.name.toLowerCase());
    return values ? { ...column, permitted: values } : column;
  });
}

/** Something other than a table that a database holds: a routine, a type, a sequence. */
export interface ObjectFacts {
  readonly names: readonly string[];
  readonly kind: 'function' | 'procedure' | 'type' | 'sequence';
  readonly comment: string | null;
  readonly native: Readonly<Record<string, unknown>>;
}
/** The order in which they stand, behind the tables. */
const OBJECT_ORDER: readonly ObjectFacts['kind'][] = ['type', 'sequence', 'procedure', 'function'];

/** A table or view as a database describes it; `names` are those below the database. */
export interface RelationFacts {
  readonly names: readonly string[];
  readonly kind: AssetKind;
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
  schemas: readonly {
    readonly name: string;
    readonly comment: string | null;
    readonly native?: Readonly<Record<string, unknown>>;
  }[],
  relations: readonly RelationFacts[],
  marking?: Marking,
): Structure {
  const root = keyOf(top.name);
  const assets: FoundAsset[] = [
    {
      key: root,
      parentKey: null,
      kind: 'database',
      name: top.name,
      depth: 0,
      position: 0,
      comment: null,
      native: top.native,
      stats: top.stats,
    },
  ];
  for (const schema of schemas)
    assets.push({
      key: keyOf(root, schema.name),
      parentKey: root,
      kind: 'schema',
      name: schema.name,
      depth: 1,
      position: 0,
      comment: schema.comment,
      native: schema.native ?? {},
      stats: {},
    });
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
    const stats = {
      ...(relation.rows === null ? {} : { rows: relation.rows }),
      ...(relation.bytes === null ? {} : { bytes: relation.bytes }),
    };
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
      columns: columns
        .filter(({ facts }) => !isBinary(facts))
        .map(({ asset, facts }) => ({
          key: asset.key,
          name: facts.name,
          type: facts.valueType,
          ...(facts.permitted ? { permitted: facts.permitted } : {}),
        })),
    });
  }
  return { assets, sampleable, ...(marking ? { marks, unchanged } : {}) };
}

/**
 * Puts what a database holds beside its tables to its structure. Values are none of theirs: that they are as they were is told by their description alone.
 */
export function withObjects(
  structure: Structure,
  top: string,
  objects: readonly ObjectFacts[],
  known: Known | undefined,
): Structure {
  const root = keyOf(top);
  const taken = new Set(structure.assets.map((asset) => asset.key));
  const assets: FoundAsset[] = [];
  const marks = new Map(structure.marks);
  const unchanged = new Set(structure.unchanged);
  for (const object of objects) {
    let key = keyOf(root, ...object.names);
    // A table may well be called "f(integer)": what stands at its side then says its kind.
    if (taken.has(key) || unchanged.has(key))
      key = keyOf(root, ...object.names.slice(0, -1), `${object.names.at(-1)} (${object.kind})`);
    if (taken.has(key)) continue;
    taken.add(key);
    if (known) {
      const mark = { structure: digest(object), data: '' };
      marks.set(key, mark);
      if (known.marks.get(key)?.structure === mark.structure) {
        unchanged.add(key);
        continue;
      }
    }
    assets.push({
      key,
      parentKey: keyOf(root, ...object.names.slice(0, -1)),
      kind: object.kind,
      name: object.names.at(-1) ?? '',
      depth: object.names.length,
      position: OBJECT_ORDER.indexOf(object.kind) + 1,
      comment: object.comment,
      native: object.native,
      stats: {},
    });
  }
  return { ...structure, assets: [...structure.assets, ...assets], ...(known ? { marks, unchanged } : {}) };
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
      ...(column.identity ? { identity: column.identity } : {}),
      ...(column.ofType ? { ofType: column.ofType } : {}),
      // A type that is an asset of its own tells its values there.
      ...(column.permitted && !column.ofType ? { permitted: column.permitted } : {}),
      ...(column.references.length > 0 ? { references: column.references } : {}),
    },
    stats: {},
  };
}
