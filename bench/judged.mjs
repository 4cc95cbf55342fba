import { readFileSync } from 'node:fs';
import { signedIn } from './lib.mjs';

/** So many of what is found are looked at for the reciprocal rank. */
const DEEP = 20;

/** Judged searches: what kind, what was asked, and the ends of paths that should come first. */
export const judgedSearches = (file = new URL('./judged/demo.txt', import.meta.url)) =>
  readFileSync(file, 'utf8')
    .split('\n')
    .filter((line) => line && !line.startsWith('#'))
    .map((line) => {
      const [, kind, asked, wanted] = /^(\w+): (.*) > ([^>]*)$/.exec(line);
      return { kind, asked, wanted: wanted.split('|') };
    });

/** Whether a path ends so, at a name. */
const endsSo = (path, wanted) => `.${path.replaceAll('/', '.')}`.endsWith(`.${wanted}`);

/**
 * Asks each search and looks where the first wanted asset stands.
 * @param find answers a page of assets for a filter
 * @returns by kind and in all: how many were asked, the share with one of the wanted among the first three, the mean of 1 / place (0 where it is not there)
 */
export async function judge(find, searches = judgedSearches()) {
  const told = [];
  for (const { kind, asked, wanted } of searches) {
    const items = await find(asked);
    const place = items.findIndex(({ path }) => wanted.some((one) => endsSo(path, one))) + 1;
    told.push({ kind, asked, place, first: items.slice(0, 3).map(({ path }) => path) });
  }
  const sum = (of) => ({
    asked: of.length,
    success: of.filter(({ place }) => place >= 1 && place <= 3).length / of.length,
    reciprocal: of.reduce((total, { place }) => total + (place > 0 ? 1 / place : 0), 0) / of.length,
  });
  const kinds = [...new Set(told.map(({ kind }) => kind))];
  return {
    all: sum(told),
    kinds: kinds.map((kind) => ({ kind, ...sum(told.filter((one) => one.kind === kind)) })),
    missed: told.filter(({ place }) => place < 1 || place > 3),
  };
}

/** How good the first three are, over searches that were judged by hand. */
export async function run(_adminUrl, address) {
  const send = await signedIn(address, 'Jorun Pell');
  const find = async (filter) =>
    JSON.parse(await send('GET', `/assets?limit=${DEEP}&filter=${encodeURIComponent(filter)}`)).items ?? [];
  const { all, kinds, missed } = await judge(find);
  for (const { asked, place, first } of missed)
    process.stdout.write(`missed: ${asked} (place ${place || '–'}; first: ${first.join(', ') || 'nothing'})\n`);
  const line = ({ kind = 'in all', asked, success, reciprocal }) =>
    `| Searches judged by hand, ${kind} (${asked}): among the first three | ${success.toFixed(3)} | mean reciprocal rank ${reciprocal.toFixed(3)} | – | at least 0.9 |`;
  const lines = [line(all), ...kinds.map(line)];
  process.stdout.write(`${lines.join('\n')}\n`);
  return lines.join('\n');
}
