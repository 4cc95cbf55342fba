/** A file as grouping needs it: names from the top of the folder or bucket to the file. */
export interface NamedFile {
  readonly names: readonly string[];
  readonly format: string | null;
  readonly bytes: number;
}

/** Many files that are parts of one dataset. */
export interface FileSet<F extends NamedFile> {
  /** Folders in which all parts lie. */
  readonly folder: readonly string[];
  /** How the rest of their paths is built: `year=*` + `/` + `part-*.parquet`. */
  readonly pattern: string;
  readonly format: string | null;
  /** Names of the keys in `key=value` folders, from the outside in. */
  readonly keys: readonly string[];
  /** Parts in order of their paths, with the values of the keys. */
  readonly parts: readonly { readonly file: F; readonly values: readonly string[] }[];
}

export interface Grouped<F extends NamedFile> {
  readonly sets: readonly FileSet<F>[];
  readonly single: readonly F[];
}

const KEYED = /^([A-Za-z_][\w.-]*)=(.*)$/;
/** Runs of digits, and what joins the numbers of a date, a time or a UUID. */
const COUNTED = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}|\d+(?:[-_.:T]\d+)*/gi;
/** Fewer parts than this are told from single files by `key=value` folders alone. */
const FEWEST = 3;

const patternOfName = (name: string): string => {
  const dot = name.indexOf('.', 1);
  const [stem, ending] = dot < 0 ? [name, ''] : [name.slice(0, dot), name.slice(dot)];
  return stem.replace(COUNTED, '*') + ending;
};

/**
 * Finds the files that are parts of one dataset: those below the same `key=value` folders (the layout that Hive introduced and most engines read),
 * and three or more in one folder whose names differ by numbers, dates or UUIDs alone. Files of which only one is there stay files.
 */
export function groupFiles<F extends NamedFile>(files: readonly F[]): Grouped<F> {
  const groups = new Map<
    string,
    {
      folder: readonly string[];
      pattern: string;
      format: string | null;
      keys: readonly string[];
      parts: { file: F; path: string; values: readonly string[] }[];
    }
  >();
  // Files of one folder come one after the other: what its path says is worked out once.
  let around: Around | undefined;
  for (const file of files) {
    if (!around || !isIn(around, file.names)) around = aroundOf(file.names.slice(0, -1));
    const { folder, below, keys, values, top } = around;
    const name = file.names.at(-1) ?? '';
    const pattern = below + patternOfName(name);
    const key = `${top}${pattern}\u0000${file.format}`;
    let group = groups.get(key);
    if (!group) {
      group = { folder, pattern, format: file.format, keys, parts: [] };
      groups.set(key, group);
    }
    group.parts.push({ file, path: around.path + name, values });
  }
  const sets: FileSet<F>[] = [];
  const single: F[] = [];
  for (const group of groups.values()) {
    const counted = group.pattern.includes('*');
    if (
      group.format !== null &&
      counted &&
      (group.keys.length > 0 ? group.parts.length > 1 : group.parts.length >= FEWEST)
    ) {
      group.parts.sort((a, b) => (a.path < b.path ? -1 : 1));
      sets.push(group);
    } else single.push(...group.parts.map((part) => part.file));
  }
  return { sets, single };
}

/** What the folders around a file say: where its dataset would lie, the pattern of the folders below that, and the values of their keys. */
interface Around {
  readonly folders: readonly string[];
  readonly folder: readonly string[];
  readonly below: string;
  readonly keys: readonly string[];
  readonly values: readonly string[];
  /** The folder of the dataset, and all folders, each as a path that ends with a slash. */
  readonly top: string;
  readonly path: string;
}

const isIn = ({ folders }: Around, names: readonly string[]): boolean =>
  folders.length === names.length - 1 && folders.every((name, index) => name === names[index]);

function aroundOf(folders: readonly string[]): Around {
  const first = folders.findIndex((name) => KEYED.test(name));
  const folder = first < 0 ? folders : folders.slice(0, first);
  const keys: string[] = [];
  const values: string[] = [];
  const below = (first < 0 ? [] : folders.slice(first)).map((name) => {
    const [, key = '', value = ''] = KEYED.exec(name) ?? [];
    if (key === '') return `${name}/`;
    keys.push(key);
    values.push(decode(value));
    return `${key}=*/`;
  });
  const path = (names: readonly string[]) => names.map((name) => `${name}/`).join('');
  return { folders, folder, below: below.join(''), keys, values, top: path(folder), path: path(folders) };
}

/** Values of keys are percent-encoded where a path could not hold them. */
function decode(value: string): string {
  try {
    return decodeURIComponent(value);
  } catch {
    return value;
  }
}

/** Some of many, evenly spread, always with the first and the last: what is looked into when all would be too much. */
export function spread<T>(items: readonly T[], most: number): T[] {
  if (items.length <= most) return [...items];
  return Array.from({ length: most }, (_, index) => items[Math.round((index * (items.length - 1)) / (most - 1))] as T);
}

/** A column of a file. */
interface Typed {
  readonly name: string;
  readonly type: string;
}

/** What is different in the schemas of parts that were looked into. */
export interface SchemaVariant {
  /** The first part that has it, and how many of those looked into do. */
  readonly part: string;
  readonly parts: number;
  /** Against the newest part: `+ name type` (more), `- name` (missing), `name: type → type`. */
  readonly differences: readonly string[];
}

/** Puts the schemas of parts together: columns of the newest first, then those that only others have; and what differs. */
export function mergeSchemas<C extends Typed>(
  schemas: readonly { readonly part: string; readonly columns: readonly C[] }[],
): { columns: C[]; variants: SchemaVariant[] } {
  const newest = schemas.at(-1);
  if (!newest) return { columns: [], variants: [] };
  const columns = new Map(newest.columns.map((column) => [column.name, column]));
  const variants = new Map<string, { part: string; parts: number; differences: string[] }>();
  const wanted = new Map(newest.columns.map((column) => [column.name, column.type]));
  for (const { part, columns: own } of schemas) {
    for (const column of own) if (!columns.has(column.name)) columns.set(column.name, column);
    const has = new Map(own.map((column) => [column.name, column.type]));
    const differences = [
      ...own.filter((column) => !wanted.has(column.name)).map((column) => `+ ${column.name} ${column.type}`),
      ...newest.columns.filter((column) => !has.has(column.name)).map((column) => `- ${column.name}`),
      ...own
        .filter((column) => wanted.has(column.name) && wanted.get(column.name) !== column.type)
        .map((column) => `${column.name}: ${column.type} → ${wanted.get(column.name)}`),
    ];
    if (differences.length === 0) continue;
    const known = variants.get(differences.join('\n'));
    if (known) known.parts += 1;
    else variants.set(differences.join('\n'), { part, parts: 1, differences });
  }
  return { columns: [...columns.values()], variants: [...variants.values()] };
}
