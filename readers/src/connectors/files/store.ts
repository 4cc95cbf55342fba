import type { Walked, WalkedFile, WalkedPart } from '../../files/index.ts';

/** Something that holds files: a folder, or a bucket of an object store. */
export interface FileStore {
  /** Name of the top. */
  readonly top: string;
  readonly native: Readonly<Record<string, unknown>>;
  /** Its files are read where they lie: nothing is fetched for it. */
  readonly inPlace?: boolean;
  /** Files that are not looked into, by their paths below the top. */
  readonly skip?: readonly string[];
  /** Is told what is looked into next. */
  readonly reading?: (label: string) => void;
  /** Everything in it, by name; or one part of it. */
  walk(part?: WalkedPart): Promise<Walked>;
  /**
   * The file, or as much of its beginning as is worth looking into, where DuckDB can read it.
   * @throws when it cannot be had; the others go on
   */
  local(file: WalkedFile): Promise<LocalFile>;
}

export interface LocalFile {
  readonly file: WalkedFile;
  /** Which part of the file this is, 0 to 1. */
  readonly part: number;
}
