import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { convertToLines, type FileFormat, isConverted, isRead, openDuck, type Walked } from '../../files/index.ts';
import { type ConnectorInput, OUTLINE_MOST, type Reading } from '../types.ts';
import { rowsOfFiles } from './rows.ts';
import type { FileStore, LocalFile } from './store.ts';
import { type Dataset, outlineOf, profileDataset, readFiles, sampleDataset } from './structure.ts';

/** Reads a store of files through DuckDB, which may see one folder and nothing else. @param limits memory, and the kinds of files that are read @param close what is left to do when the reading ends */
export async function openFiles(
  own: FileStore,
  folder: string,
  limits: Pick<ConnectorInput, 'memoryMb' | 'fileKinds' | 'skip' | 'reading'>,
  close: () => Promise<void> = async () => undefined,
): Promise<Reading> {
  const aside = mkdtempSync(join(tmpdir(), 'idrel-converted-'));
  const { fileKinds } = limits;
  const careful: FileStore = { ...own, skip: limits.skip ?? [], reading: limits.reading ?? (() => undefined) };
  const store = convertingStore(
    fileKinds ? { ...careful, walk: async (part) => ofKinds(await own.walk(part), fileKinds) } : careful,
    aside,
  );
  const duck = await openDuck(folder, limits.memoryMb, aside);
  const datasets = new Map<string, Dataset>();
  let stopped = false;
  const datasetOf = (key: string) => {
    const dataset = datasets.get(key);
    if (!dataset) throw new Error('The file is no longer there.');
    return dataset;
  };
  return {
    outline: async () => outlineOf(await store.walk()).slice(0, OUTLINE_MOST),
    structure: (progress, known) =>
      readFiles(
        store,
        duck,
        datasets,
        (objects, columns) => {
          if (stopped) throw new Error('The reading was terminated.');
          progress(objects, columns);
        },
        known,
      ),
    sample: async (table, rows, method) => {
      careful.reading?.(table.label);
      return sampleDataset(store, duck, datasetOf(table.key), table, rows, method);
    },
    profile: async (table, measures, rows) => {
      careful.reading?.(table.label);
      return profileDataset(store, duck, datasetOf(table.key), table, measures, rows);
    },
    rows: (wanted) => rowsOfFiles(store, duck, wanted),
    flows: async () => [],
    abort: () => {
      stopped = true;
      duck.interrupt();
    },
    close: async () => {
      duck.closeSync();
      rmSync(aside, { recursive: true, force: true });
      await close();
    },
  };
}

const ofKinds = (walked: Walked, kinds: readonly FileFormat[]): Walked => ({
  ...walked,
  files: walked.files.filter((file) => isRead(file.names.at(-1) ?? '', kinds)),
});

/** Files of formats that DuckDB does not read are written aside as lines of JSON, once, when they are looked into. */
function convertingStore(store: FileStore, aside: string): FileStore {
  const done = new Map<string, LocalFile>();
  return {
    ...store,
    async local(file) {
      const local = done.get(file.path) ?? (await store.local(file));
      if (!isConverted(local.file))
        return local.file.encoding === file.encoding || !file.encoding
          ? local
          : { ...local, file: { ...local.file, encoding: file.encoding } };
      const path = join(aside, `${done.size}.ndjson`);
      const whole = await convertToLines(local.file, path);
      const converted: LocalFile = {
        file: { ...local.file, path, format: 'ndjson', bytes: statSync(path).size },
        part: whole ? local.part : Math.min(local.part, 0.5),
      };
      done.set(file.path, converted);
      return converted;
    },
  };
}
