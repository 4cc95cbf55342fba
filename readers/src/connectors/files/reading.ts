import { openDuck } from '../../files/index.ts';
import { OUTLINE_MOST, type Reading } from '../types.ts';
import type { FileStore } from './store.ts';
import { type Dataset, outlineOf, profileDataset, readFiles, sampleDataset } from './structure.ts';

/** Reads a store of files through DuckDB, which may see one folder and nothing else. @param close what is left to do when the reading ends */
export async function openFiles(store: FileStore, folder: string, memoryMb?: number, close: () => Promise<void> = async () => undefined): Promise<Reading> {
  const duck = await openDuck(folder, memoryMb);
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
    sample: async (table, rows) => sampleDataset(store, duck, datasetOf(table.key), table, rows),
    profile: async (table, measures, rows) => profileDataset(store, duck, datasetOf(table.key), table, measures, rows),
    flows: async () => [],
    abort: () => {
      stopped = true;
      duck.interrupt();
    },
    close: async () => {
      duck.closeSync();
      await close();
    },
  };
}
