import { openDuck } from '../../files/index.ts';
import { OUTLINE_MOST, type Reading } from '../types.ts';
import type { FileStore } from './store.ts';
import { type Dataset, outlineOf, readFiles, sampleDataset } from './structure.ts';

/** Reads a store of files through DuckDB, which may see one folder and nothing else. @param close what is left to do when the reading ends */
export async function openFiles(store: FileStore, folder: string, memoryMb?: number, close: () => Promise<void> = async () => undefined): Promise<Reading> {
  const duck = await openDuck(folder, memoryMb);
  const datasets = new Map<string, Dataset>();
  let stopped = false;
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
    async sample(table, rows) {
      const dataset = datasets.get(table.key);
      if (!dataset) throw new Error('The file is no longer there.');
      return sampleDataset(store, duck, dataset, table, rows);
    },
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
