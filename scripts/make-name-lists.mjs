/**
 * Makes core/src/recognition/data/personNames.json: given and family names of all locales that write Latin letters, from the lists of @faker-js/faker (MIT).
 * Run by hand when the list should change; the result is kept in the repository so that nothing else depends on the generator.
 */
import { writeFileSync } from 'node:fs';
import { allLocales } from '@faker-js/faker';

const LOCALES = Object.keys(allLocales);
const fold = (text) => text.normalize('NFD').replace(/\p{M}/gu, '').replaceAll('ø', 'o').replaceAll('ł', 'l').replaceAll('æ', 'ae').replaceAll('ß', 'ss').toLowerCase();
const strings = (value) => (Array.isArray(value) ? value : Object.values(value ?? {}).flat()).filter((entry) => typeof entry === 'string');

function collect(field) {
  const names = new Set();
  for (const locale of LOCALES) {
    for (const name of strings(allLocales[locale]?.person?.[field])) {
      for (const part of fold(name)
        .replace(/[øł]/g, '')
        .split(/[^\p{L}']+/u))
        if (part.length > 2 && /^[a-z']+$/.test(part)) names.add(part);
    }
  }
  return [...names].sort().join(' ');
}

const lists = { given: collect('first_name'), family: collect('last_name') };
writeFileSync(new URL('../core/src/recognition/data/personNames.json', import.meta.url), `${JSON.stringify(lists, null, 1)}\n`);
