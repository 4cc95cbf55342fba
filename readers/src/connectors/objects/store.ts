import { createHash } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { formatOf, type Walked, type WalkedFile, type WalkedPart } from '../../files/index.ts';
import type { FileStore, LocalFile } from '../files/store.ts';
import { SourceProblem } from '../types.ts';
import { type BucketAt, fetchObject, listObjects } from './client.ts';

const MOST = 1_000_000;
/** Of a file of lines its beginning tells enough; the others are fetched whole, up to a size. */
const BEGINNING = 8 * 1024 * 1024;
const WHOLE = 256 * 1024 * 1024;
/** What lies on this machine's disk at one time. */
const KEPT = 512 * 1024 * 1024;

/** A bucket as a store of files: objects are fetched to a folder of this process when they are looked into. */
export function bucketStore(
  at: BucketAt,
  top: string,
  native: Record<string, unknown>,
  stopped: () => boolean,
): { store: FileStore; folder: string; close: () => Promise<void> } {
  const folder = mkdtempSync(join(tmpdir(), 'idrel-objects-'));
  const kept = new Map<string, LocalFile>();
  let size = 0;
  const local = async (file: WalkedFile): Promise<LocalFile> => {
    const known = kept.get(file.path);
    if (known) return known;
    const inLines =
      (file.format === 'csv' || file.format === 'ndjson' || file.format === 'text') && !/\.(gz|zst)$/i.test(file.path);
    const cut = inLines && file.bytes > BEGINNING;
    if (!inLines && file.bytes > WHOLE)
      throw new SourceProblem(
        `It is larger than ${WHOLE / 1024 / 1024} MB and its kind is fetched whole.`,
        'Write it in several parts, or let an agent read the folder it comes from.',
      );
    let content = await fetchObject(at, file.path, cut ? BEGINNING : undefined);
    if (cut) content = content.subarray(0, content.lastIndexOf(10) + 1); // whole lines
    while (size + content.length > KEPT && kept.size > 0) await forget();
    const path = join(
      folder,
      `${createHash('sha256').update(file.path).digest('hex').slice(0, 24)}-${file.names
        .at(-1)
        ?.replace(/[^\w.-]/g, '_')
        .slice(-60)}`,
    );
    await writeFile(path, content);
    size += content.length;
    const one = {
      file: { ...file, path, bytes: content.length },
      part: file.bytes > 0 ? content.length / file.bytes : 1,
    };
    kept.set(file.path, one);
    return one;
  };
  const forget = async () => {
    const [oldest] = kept;
    if (!oldest) return;
    kept.delete(oldest[0]);
    size -= oldest[1].file.bytes;
    await rm(oldest[1].file.path, { force: true });
  };
  return {
    store: { top, native, walk: (part) => walkBucket(at, part, stopped), local },
    folder,
    close: async () => {
      at.client.destroy();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

/** The bucket, of which only keys are listed that begin as those of this part do. */
const withinBucket = (at: BucketAt, { below, name }: WalkedPart): BucketAt =>
  // A prefix that ends within a name leaves open how the keys go on.
  at.prefix === '' || at.prefix.endsWith('/') ? { ...at, prefix: at.prefix + [...below, name ?? ''].join('/') } : at;

/** Keys as files in folders; a store has no folders but what slashes make of it. Empty names and markers of folders are passed over. */
async function walkBucket(at: BucketAt, part: WalkedPart | undefined, stopped: () => boolean): Promise<Walked> {
  const folders = new Map<string, readonly string[]>();
  const files: WalkedFile[] = [];
  const skipped: string[] = [];
  for (const { key, bytes, modified, tag } of await listObjects(part ? withinBucket(at, part) : at, MOST, stopped)) {
    const below = key.slice(at.prefix.length).replace(/^\//, '');
    const names = below.split('/');
    const marker = names.at(-1) === '';
    if (marker) names.pop();
    if (names.some((name) => name === '')) {
      skipped.push(`${key} has an empty name in its path and was passed over`);
      continue;
    }
    for (let length = 1; length < names.length + (marker ? 1 : 0); length += 1)
      folders.set(names.slice(0, length).join('/'), names.slice(0, length));
    if (!marker && names.length > 0)
      files.push({
        path: key,
        names,
        bytes,
        modified: Date.parse(modified),
        tag,
        format: formatOf(names.at(-1) ?? ''),
      });
  }
  const byName = (a: readonly string[], b: readonly string[]) => a.join('/').localeCompare(b.join('/'), 'en');
  return {
    folders: [...folders.values()].sort(byName),
    files: files.sort((a, b) => byName(a.names, b.names)),
    skipped,
  };
}
