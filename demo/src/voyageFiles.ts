import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import writeXlsxFile from 'write-excel-file/node';
import { seedNames, traveller } from './personal.ts';
import { day, daysBefore, seeded } from './random.ts';

/** A workbook with one sheet: names of columns, then the rows. */
async function writeWorkbook(path: string, rows: readonly Record<string, string | number | Date>[]): Promise<void> {
  const cell = (value: string | number | Date) =>
    value instanceof Date ? { value, type: Date, format: 'yyyy-mm-dd' } : { value };
  await writeXlsxFile(
    [
      Object.keys(rows[0] ?? {}).map((value) => ({ value, fontWeight: 'bold' as const })),
      ...rows.map((row) => Object.values(row).map(cell)),
    ],
    { sheet: 'Dangerous goods' },
  ).toFile(path);
}

/** Writes the Voyage files: tide gauges, fuel logs, freight manifests, passenger counts, CCTV index, letters. */
export async function writeVoyageFiles(root: string, today: Date): Promise<void> {
  const random = seeded(31);
  seedNames(31);
  const write = (names: string[], text: string) => {
    mkdirSync(join(root, ...names.slice(0, -1)), { recursive: true });
    writeFileSync(join(root, ...names), text);
  };
  for (const port of ['tarnholm', 'ulvey', 'kessgar']) {
    const lines = Array.from(
      { length: 2000 },
      (_, i) =>
        `${daysBefore(today, i / 24).toISOString()},${(1.8 + Math.sin(i / 2) + random.next() / 5).toFixed(3)},${(900 + random.below(130)) / 1}`,
    );
    write(['tide_gauges', `${port}.csv`], `read_at,height_m,pressure_hpa\n${lines.join('\n')}\n`);
  }
  write(
    ['fuel_log.ndjson'],
    `${Array.from({ length: 1500 }, (_, i) =>
      JSON.stringify({
        vessel: random.pick(['Wakerunner', 'Kelpie', 'Ardent']),
        at: daysBefore(today, i / 10).toISOString(),
        litres: 200 + random.below(4000),
        position: `${(58.5 + random.next()).toFixed(5)}, ${(4.9 + random.next()).toFixed(5)}`,
        bunkered_by: (() => {
          const who = traveller(random, i);
          return `${who.given} ${who.family}`;
        })(),
      }),
    ).join('\n')}\n`,
  );
  const manifest = Array.from({ length: 1200 }, (_, i) => {
    const who = traveller(random, i);
    return [
      `FM${String(i).padStart(6, '0')}`,
      `"${who.given} ${who.family}"`,
      who.email,
      `"${who.phone}"`,
      `"${who.street}, ${who.postcode} ${who.town}"`,
      `${random.pick(['EK', 'SV'])} ${random.digits(5)}`,
      200 + random.below(22_000),
    ].join(',');
  });
  write(
    ['freight', 'manifest.csv'],
    `manifest_no,consignor,contact,mobile,delivered_to,trailer,weight_kg\n${manifest.join('\n')}\n`,
  );
  write(
    ['cctv_index.json'],
    JSON.stringify(
      Array.from({ length: 300 }, (_, i) => ({
        camera: `deck-${1 + (i % 6)}`,
        from: daysBefore(today, i / 4).toISOString(),
        address: `10.20.${i % 6}.${10 + (i % 200)}`,
        file: `https://cctv.tarnholm.example/clip/${i}`,
      })),
      null,
      1,
    ),
  );
  for (let i = 0; i < 12; i += 1) {
    const who = traveller(random, 400 + i);
    const answer =
      i % 3 === 0
        ? `Please write to ${who.email} or call me on ${who.phone} before the weekend.`
        : 'I expect an answer by post within the month.';
    write(
      ['letters', `complaint_${String(i + 1).padStart(2, '0')}.txt`],
      `To whom it may concern,\n\nthe crossing on ${day(daysBefore(today, i * 9))} was late again, and nobody on board could say why.\n${answer}\n\n${who.given} ${who.family}\n`,
    );
  }
  const dangerous = Array.from({ length: 140 }, (_, i) => {
    const who = traveller(random, 700 + i);
    return {
      declared_on: daysBefore(today, i),
      un_number: 1000 + random.below(2500),
      tonnes: (1 + random.below(180)) / 10,
      driver: `${who.given} ${who.family}`,
      driver_mobile: who.phone,
    };
  });
  await writeWorkbook(join(root, 'freight', 'dangerous_goods.xlsx'), dangerous);
  const duck = await (await DuckDBInstance.create(':memory:')).connect();
  const year = today.getUTCFullYear();
  for (let month = 1; month <= Math.max(3, today.getUTCMonth() + 1); month += 1) {
    const folder = join(root, 'passenger_counts', `year=${year}`, `month=${String(month).padStart(2, '0')}`);
    mkdirSync(folder, { recursive: true });
    await duck.run(
      `copy (select (date '${year}-${String(month).padStart(2, '0')}-01' + (i % 28)::int) as sailing_date, 1 + i % 6 as route_id, 1 + i % 11 as vessel_id, 20 + (hash(i + ${month}) % 400)::int as counted from range(900) t(i)) to '${join(folder, 'part-0001.parquet')}' (format parquet)`,
    );
  }
  duck.closeSync();
}
