import { readdirSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { recogniseTable } from '../../core/dist/recognition/index.js';
import { describeFile, openDuck, sampleFile } from '../../readers/dist/files/index.js';

// node bench/unseen/claims.mjs FOLDER: what recognition says of the columns of CSV files that nobody here made, with some of their values, for a person to judge;
// then the columns of texts of which it says nothing.
if (!process.argv[2]) throw new Error('Name a folder of CSV files.');
const folder = resolve(process.argv[2]);
const files = readdirSync(folder).filter((name) => name.endsWith('.csv'));
const setting = { today: new Date(), countries: ['GB', 'NO', 'DK', 'SE', 'DE', 'NL', 'US'] };
const isNumber = (value) => /^[-+\d.eE]*$/.test(value);
const claimed = [];
const silent = [];
let looked = 0;
for (const name of files.sort()) {
  const file = { path: join(folder, name), format: 'csv', bytes: statSync(join(folder, name)).size };
  const duck = await openDuck(folder, 2048);
  const { columns } = await describeFile(duck, file);
  const names = columns.map((column) => column.name);
  const values = await sampleFile(duck, file, names, 10_000, 'first');
  duck.closeSync();
  const found = recogniseTable(
    columns.map((column, at) => ({ name: column.name, type: column.valueType, values: values[at] ?? [] })),
    setting,
  );
  for (const [at, column] of names.entries()) {
    looked += 1;
    const different = [...new Set((values[at] ?? []).filter(Boolean))];
    const shown = different.slice(0, 6).map((value) => value.slice(0, 24));
    for (const finding of found[at] ?? [])
      claimed.push(
        `${name} ${column}: ${finding.classKey} (${finding.state}, ${finding.confidence}) | ${shown.join(' ; ')}`,
      );
    if (
      !found[at]?.length &&
      different.length > 3 &&
      different.filter((value) => !isNumber(value)).length > different.length / 2
    )
      silent.push(`${name} ${column} | ${shown.join(' ; ')}`);
  }
}
console.log(
  `${claimed.join('\n')}\n\n${claimed.length} claims of ${looked} columns of ${files.length} files. Of these nothing is said:\n\n${silent.join('\n')}`,
);
