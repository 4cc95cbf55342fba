import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { seedNames, traveller, withLuhn } from './personal.ts';
import { day, daysBefore, seeded } from './random.ts';

export const SHORE_BUCKET = 'tarnholm-shore';
const KEY = 'SHOREREADER';

/** Where the stand-ins of outside services find what they show. */
export const standInsFolder = (folder: string): string => join(folder, 'services');

/** The key pair with which the Shore store is read. */
export function shoreKey(folder: string): { key: string; secret: string } {
  const keys = JSON.parse(readFileSync(join(standInsFolder(folder), 'store', 'keys.json'), 'utf8')) as Record<
    string,
    { secret: string }
  >;
  return { key: KEY, secret: keys[KEY]?.secret ?? '' };
}

/** Writes the Shore store: exports of the tills on board by day, and what the harbours ask to be paid. */
export function writeShoreStore(folder: string, today: Date): void {
  const root = join(standInsFolder(folder), 'store');
  const bucket = join(root, SHORE_BUCKET);
  rmSync(bucket, { recursive: true, force: true });
  mkdirSync(bucket, { recursive: true });
  const keysFile = join(root, 'keys.json');
  if (!existsSync(keysFile))
    writeFileSync(
      keysFile,
      JSON.stringify({
        [KEY]: { secret: randomBytes(24).toString('base64url'), list: [SHORE_BUCKET], read: [SHORE_BUCKET] },
      }),
      { mode: 0o600 },
    );
  const random = seeded(59);
  seedNames(59);
  const put = (key: string, content: string | Buffer) => {
    const path = join(bucket, key);
    mkdirSync(dirname(path), { recursive: true });
    writeFileSync(path, content);
  };
  for (let back = 1; back <= 60; back += 1) {
    const date = day(daysBefore(today, back));
    for (const till of ['cafe', 'shop']) {
      const lines = Array.from({ length: 40 }, (_, index) =>
        JSON.stringify({
          receipt: `${till}-${date}-${index}`,
          vessel: random.pick(['Wakerunner', 'Kelpie', 'Ardent', 'Grey Tern']),
          product: random.pick(['coffee', 'sandwich', 'newspaper', 'chocolate', 'souvenir']),
          amount: (20 + random.below(400)) / 10,
          // Every third pays by card; the till writes the whole number.
          paid_with: index % 3 === 0 ? withLuhn(`4${random.digits(14)}`, true) : 'cash',
          // Tills since last month ask for an address to send the receipt to.
          ...(back <= 30 ? { receipt_to: index % 4 === 0 ? traveller(random, index).email : null } : {}),
        }),
      );
      put(`tills/day=${date}/${till}.ndjson.gz`, gzipSync(`${lines.join('\n')}\n`));
    }
  }
  for (const port of ['ulvey', 'kessgar', 'marrick']) {
    const lines = Array.from({ length: 120 }, (_, index) =>
      [
        `H${port[0]?.toUpperCase()}${1000 + index}`,
        day(daysBefore(today, index * 3)),
        180 + random.below(900),
        `NO${random.digits(13)}`,
      ].join(','),
    );
    put(`harbour invoices/${port}.csv`, `invoice,issued,amount,account\n${lines.join('\n')}\n`);
  }
  put('read me.txt', 'Exports of the tills arrive here every night. Kept for 60 days.\n');
}
