import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { standInsFolder } from './shoreStore.ts';

const PAGES = [
  {
    path: 'counters/what-we-ask',
    title: 'What the counters ask for',
    about:
      'Which facts a guest must give before boarding, which they may give, and why: by law of the sea, for the crew, for ourselves.',
    paragraphs: [
      'Names and days of birth are asked by law for voyages of more than twenty nautical miles.',
      'A telephone number is asked for so that we can tell of a late sailing. It may be left out.',
    ],
  },
  {
    path: 'fares/timetable',
    title: 'Timetable and prices 2026',
    about: 'All sailings of the season with their prices by fare band; changes are written in red.',
    paragraphs: ['The bands are A (early), B (ordinary) and C (open). Residents pay two thirds of each.'],
  },
  {
    path: 'tickets/4711',
    title: 'No. 4711, settled: two rows for one guest',
    about:
      'Who changes a name at the counter makes a second row. Since version 12 the first one is changed; older rows stand twice.',
    paragraphs: ['Settled by Tobias Marrow. Rows from before 2024 are not put together.'],
  },
] as const;

/** Writes what the intranet of the stand-ins shows. */
export function writeDocuments(folder: string): void {
  writeFileSync(
    join(standInsFolder(folder), 'documents.json'),
    JSON.stringify({ site: 'Tarnholm ashore', pages: PAGES }),
  );
}
